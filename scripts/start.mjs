// `npm start`: installs what is missing, starts the database, migrates, seeds once, builds, serves.
import { parseArgs } from "node:util";
import { buildWeb, checkNode, installDebian, installPackages, postgresPrograms, say, stop } from "./environment.mjs";
import { startPostgres } from "./postgres.mjs";
import { keepWorker, startServer } from "./processes.mjs";

const { values } = (() => {
	try {
		return parseArgs({ options: { port: { type: "string" }, workers: { type: "string" } } });
	} catch (error) {
		stop(`npm start -- [--port NUMBER] [--workers NUMBER]: ${error.message}`);
	}
})();
if (values.port !== undefined && !(Number(values.port) > 0 && Number(values.port) < 65_536))
	stop(`--port ${values.port} is no port number.`);
if (values.workers !== undefined && !/^\d{1,2}$/.test(values.workers)) stop(`--workers ${values.workers} is no number of workers.`);

checkNode();
installPackages();
if (!process.env.DATABASE_URL) installDebian("postgresql", postgresPrograms);
buildWeb();
// After the build: an application that has just been stopped may still be taking the database down.
const database = process.env.DATABASE_URL ? undefined : await startPostgres("postgres");
const url = process.env.DATABASE_URL ?? database.url;
const server = startServer(url, values.port ? { PORT: values.port } : {});
// The server migrates the database first; the worker waits for it.
const worker = values.workers === "0" ? undefined : afterHealth().then(() => keepWorkers(Number(values.workers ?? 1)));
if (!process.env.DATABASE_URL) say(`More workers: DATABASE_URL=${url} npm run worker`);
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => server.process.kill("SIGTERM"));
const code = await server.ended;
for (const one of (await worker) ?? []) await one.stop();
database?.stop();
process.exit(code ?? 0);

async function afterHealth() {
	const port = values.port ?? process.env.PORT ?? 4180;
	for (let i = 0; i < 240 && server.process.exitCode === null; i++) {
		if ((await fetch(`http://127.0.0.1:${port}/health`).catch(() => undefined))?.ok) return;
		await new Promise((resolve) => setTimeout(resolve, 500));
	}
}

function keepWorkers(count) {
	return server.process.exitCode === null ? Array.from({ length: count }, () => keepWorker(url)) : [];
}
