// `npm start`: installs what is missing, starts the database, migrates, seeds once, builds, serves.
import { spawn } from "node:child_process";
import { parseArgs } from "node:util";
import { buildWeb, checkNode, installDebian, installPackages, postgresPrograms, ROOT, stop } from "./environment.mjs";
import { startPostgres } from "./postgres.mjs";

const { values } = (() => {
	try {
		return parseArgs({ options: { port: { type: "string" } } });
	} catch (error) {
		stop(`npm start -- [--port NUMBER]: ${error.message}`);
	}
})();
if (values.port !== undefined && !(Number(values.port) > 0 && Number(values.port) < 65_536))
	stop(`--port ${values.port} is no port number.`);

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
	env: {
		...process.env,
		NODE_ENV: "production",
		...(values.port && { PORT: values.port }),
		DATABASE_URL: process.env.DATABASE_URL ?? database.url,
	},
});
for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, () => server.kill("SIGTERM"));
server.on("exit", (code) => {
	database?.stop();
	process.exit(code ?? 0);
});
