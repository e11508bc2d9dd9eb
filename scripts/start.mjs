// `npm start`: installs what is missing, then keeps database, server and workers alive until it is ended itself.
import { parseArgs } from "node:util";
import { buildWeb, checkNode, installDebian, installPackages, postgresPrograms, say, stop } from "./environment.mjs";
import { startPostgres } from "./postgres.mjs";
import { keepServer, keepWorker } from "./processes.mjs";

const { values } = (() => {
	try {
		return parseArgs({ options: { port: { type: "string" }, host: { type: "string" }, workers: { type: "string" } } });
	} catch (error) {
		stop(`npm start -- [--port NUMBER] [--host ADDRESS] [--workers NUMBER]: ${error.message}`);
	}
})();
if (values.port !== undefined && !(Number(values.port) > 0 && Number(values.port) < 65_536))
	stop(`--port ${values.port} is no port number.`);
if (values.workers !== undefined && !/^\d{1,2}$/.test(values.workers)) stop(`--workers ${values.workers} is no number of workers.`);

checkNode();
installPackages();
if (!process.env.DATABASE_URL) installDebian("postgresql", postgresPrograms);
buildWeb();

/** What runs, in the order in which it was started. */
const kept = [];
let ending;
/** Ends everything, the latest first: what works with something ends before it. */
function end(code) {
	ending ??= (async () => {
		for (const one of kept.reverse()) await one.stop();
		process.exit(code);
	})();
	return ending;
}
for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"]) process.on(signal, () => void end(0));

let url = process.env.DATABASE_URL;
if (!url) {
	const database = await startPostgres("postgres");
	kept.push(database);
	url = database.url;
}
const onUseless = (code) => void end(code);
const env = { ...(values.port && { PORT: values.port }), ...(values.host && { HOST: values.host }) };
const server = keepServer(url, env, { onUseless });
kept.push(server);
// The server migrates the database first; workers wait for it.
await server.ready.catch((error) => {
	process.stderr.write(`${error.message}\n`);
	return end(1);
});
if (!ending) {
	for (let n = 0; n < Number(values.workers ?? 1); n++) kept.push(keepWorker(url, { onUseless }));
	if (!process.env.DATABASE_URL) say("More workers: npm start -- --workers 2, or DATABASE_URL=… npm run worker (see README)");
}
