// `npm run worker`: one more worker, beside the application that runs here or for a database anywhere (DATABASE_URL).
import { checkNode, installPackages, stop } from "./environment.mjs";
import { runningPostgres } from "./postgres.mjs";
import { keepWorker } from "./processes.mjs";

checkNode();
installPackages();
const url = process.env.DATABASE_URL ?? runningPostgres("postgres")?.url;
if (!url) stop("No application runs here. Start it (npm start), or say where the database is: DATABASE_URL=postgres://… npm run worker");
const worker = keepWorker(url, { onUseless: (code) => process.exit(code) });
for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"]) process.once(signal, () => void worker.stop().then(() => process.exit(0)));
