import { SAMPLES, sampleShot } from "@rubble/core/samples";
import { database } from "./database.server";
import { addJob } from "./jobs.server";
import { shots } from "./schema";
import { createSample } from "./shots.server";
import { createTake, emptyTake } from "./takes.server";

/** What a sample's take is called: locked, so that runs of one's own leave it as it is. */
const TAKE = "As it ships";
/** Whatever somebody waits for goes before it. */
const PRIORITY = -50;

/**
 * The sample shots, once: into an empty database only. `runs`: each with a take that workers run while nothing else is to be
 * done. Returns how many there are.
 */
export async function seed(runs: boolean): Promise<number> {
	const [any] = await database.select({ id: shots.id }).from(shots).limit(1);
	if (any) return 0;
	const made: { readonly shot: string; readonly sample: string }[] = [];
	for (const { id: sample } of [...SAMPLES].reverse()) made.push({ sample, shot: (await createSample(sample))! });
	// The first one in the yard is looked at first.
	for (const { shot, sample } of runs ? made.reverse() : []) {
		const take = await createTake(shot, emptyTake(TAKE, sampleShot(sample)!), { name: TAKE, locked: true, shown: true });
		await addJob({ kind: "run", shot, take: take.id, name: take.name, priority: PRIORITY });
	}
	return SAMPLES.length;
}
