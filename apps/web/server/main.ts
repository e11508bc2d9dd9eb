import { createServer } from "node:http";
import { resolve } from "node:path";
import { pathToFileURL } from "node:url";
import express from "express";
import type { ServerBuild } from "react-router";
import { closeDatabase, migrate } from "../app/data/database.server";
import { seed } from "../app/data/seed.server";
import { makeApp } from "./app";
import { isLoopback, listeningProblem } from "./door";
import { endWithParent, NO_USE } from "./life";

const port = Number(process.env.PORT ?? 4180);
const host = process.env.HOST ?? "127.0.0.1";
const passphrase = process.env.RUBBLE_PASSPHRASE ?? "";
const problem = listeningProblem(host, passphrase);
if (problem) {
	console.error(problem);
	process.exit(NO_USE);
}

await migrate(resolve("app/data/migrations"));
// Tests want a queue of their own.
const runs = process.env.SAMPLE_TAKES !== "no";
const seeded = await seed(runs);
if (seeded > 0) console.log(`· ${seeded} sample shots were put in the yard${runs ? "; workers run a take of each" : ""}`);

const build = (await import(pathToFileURL(resolve("build/server/index.js")).href)) as ServerBuild;
const app = makeApp(
	build,
	(server) => {
		// Built files carry their hash in the name.
		server.use("/assets", express.static(resolve("build/client/assets"), { immutable: true, maxAge: "1y" }));
		server.use(express.static(resolve("build/client"), { maxAge: "1h" }));
	},
	{ host, passphrase },
);
const server = createServer(app);
server.on("error", (error: NodeJS.ErrnoException) => {
	console.error(error.code === "EADDRINUSE" ? `Port ${port} is taken. Choose another with PORT=… npm start` : error.message);
	process.exit(error.code === "EADDRINUSE" || error.code === "EADDRNOTAVAIL" || error.code === "EACCES" ? NO_USE : 1);
});
server.listen(port, host, () => console.log(`Mighty Rubble is at http://${isLoopback(host) ? "localhost" : host}:${port}`));

const end = () => {
	server.closeAllConnections();
	server.close(() => void closeDatabase().finally(() => process.exit(0)));
};
for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, end);
endWithParent(end);
