// `npm start`: installs what is missing, starts the database, migrates, seeds once, builds, serves.
import { spawn } from "node:child_process";
import { buildWeb, checkNode, installDebian, installPackages, postgresPrograms, ROOT } from "./environment.mjs";
import { startPostgres } from "./postgres.mjs";

checkNode();
installPackages();
let database;
if (!process.env.DATABASE_URL) {
	installDebian("postgresql", postgresPrograms);
	database = await startPostgres("postgres");
}
buildWeb();
const server = spawn(process.execPath, ["--import", "tsx", "server/main.ts"], {
	cwd: `${ROOT}/apps/web`,
	stdio: "inherit",
	env: { ...process.env, NODE_ENV: "production", DATABASE_URL: process.env.DATABASE_URL ?? database.url },
});
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => server.kill("SIGTERM"));
server.on("exit", (code) => {
	database?.stop();
	process.exit(code ?? 0);
});
