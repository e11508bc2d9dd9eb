// `node scripts/measure-workers.mjs SAMPLE PATH=V1,V2,…`: how long a sweep takes with 1, 2 and 4 workers, for docs/scale.md.
// Starts a database, a server and the workers of its own, and takes them away again.
import { buildWeb, checkNode, installDebian, installPackages, postgresPrograms } from "./environment.mjs";
import { freePort, startPostgres } from "./postgres.mjs";
import { keepServer, startWorker } from "./processes.mjs";

const [sample = "Slipway stack", set = "settings/seed=1,2,3,4,5,6,7,8"] = process.argv.slice(2);
const [path, values] = [
	set.slice(0, set.indexOf("=")),
	set
		.slice(set.indexOf("=") + 1)
		.split(",")
		.map(Number),
];
checkNode();
installPackages();
installDebian("postgresql", postgresPrograms);
buildWeb();
const database = await startPostgres("postgres-measure");
const port = await freePort();
const server = keepServer(database.url, { PORT: String(port), SAMPLE_TAKES: "no" }, { output: "ignore" });
const url = `http://localhost:${port}`;
const json = async (address, body) => {
	const response = await fetch(
		`${url}${address}`,
		body && { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) },
	);
	return response.json();
};
await server.ready;
const shots = await json("/api/shots");
const { id } = shots.find(({ name }) => name === sample);
const shot = await json(`/api/shots/${id}`);
try {
	for (const count of [1, 2, 4]) {
		const workers = Array.from({ length: count }, () => startWorker(database.url, "ignore"));
		await new Promise((resolve) => setTimeout(resolve, 4000));
		const { jobs } = await json(`/api/shots/${id}/send`, { what: "sweep", shot, axes: [{ path, values }] });
		let mine = [];
		do {
			await new Promise((resolve) => setTimeout(resolve, 300));
			mine = (await json("/api/jobs")).jobs.filter((job) => jobs.includes(job.id));
		} while (mine.some(({ state }) => state === "running" || state === "waiting"));
		const begin = Math.min(...mine.map(({ startedAt }) => Date.parse(startedAt)));
		const end = Math.max(...mine.map(({ finishedAt }) => Date.parse(finishedAt)));
		const done = mine.filter(({ state }) => state === "done").length;
		process.stdout.write(`${count} workers: ${done} of ${jobs.length} takes in ${((end - begin) / 1000).toFixed(1)} s\n`);
		for (const worker of workers) {
			worker.kill("SIGTERM");
			await new Promise((resolve) => worker.once("exit", resolve));
		}
	}
} finally {
	await server.stop();
	await database.stop();
	database.remove();
}
