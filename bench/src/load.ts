import { setTimeout as sleep } from "node:timers/promises";
import { makeSample, startApplication } from "./application";
import type { Bench } from "./types";

const CLIENTS = 20;
const SECONDS = 60;
/** Between two edits of a client, as somebody who drags makes them. ms */
const PAUSE = 250;

async function run(): Promise<Record<string, number>> {
	const application = await startApplication(1);
	const { ask } = application;
	try {
		const shots: string[] = [];
		for (let n = 0; n < CLIENTS; n++)
			shots.push(await makeSample(application, ["breakwater-strike", "slipway-stack", "spring-scale"][n % 3]!));
		const times: number[] = [];
		let errors = 0;
		const until = performance.now() + 1000 * SECONDS;
		const client = async (shot: string, n: number) => {
			let revision = 0;
			await sleep((n * PAUSE) / CLIENTS);
			for (let k = 0; performance.now() < until; k++) {
				const edits = [
					{ edit: `e${n}-${k}`, step: `s${k}`, way: "do", name: "Note", patches: [{ op: "replace", path: ["note"], value: `note ${k}` }] },
				];
				const begin = performance.now();
				const answer = await ask("POST", `/api/shots/${shot}/patches`, { base: revision, edits }).catch(() => undefined);
				times.push(performance.now() - begin);
				if (answer?.status === 200) revision = (answer.body as { revision: number }).revision;
				else errors++;
				// Now and then a page is opened, and the yard.
				if (k % 20 === 19 && (await ask("GET", k % 40 === 39 ? "/" : `/shots/${shot}/shape`).catch(() => undefined))?.status !== 200)
					errors++;
				await sleep(Math.max(0, PAUSE - (performance.now() - begin)));
			}
		};
		await Promise.all(shots.map(client));
		times.sort((a, b) => a - b);
		const at = (share: number) => times[Math.min(times.length - 1, Math.floor(share * times.length))]!;
		return {
			edits: times.length,
			"p50 ms": at(0.5),
			"p99 ms": at(0.99),
			"most ms": times.at(-1)!,
			errors,
			"server MB": application.memory() / 1024,
		};
	} finally {
		await application.stop();
	}
}

/** Clients that each edit a shot of their own, four times a second, and look at pages meanwhile. */
export const load: Bench = { id: "load", title: "Many at once", rows: [{ name: `${CLIENTS} clients, ${SECONDS} s`, run }] };
