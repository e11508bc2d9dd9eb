import type { BakeOptions } from "@rubble/core/bake";
import { isSequence, splitRange, TAKE_FORMATS } from "@rubble/core/formats";
import { type Colouring, fractureOf, type OptionValues, objectPath, optionProblem, SHOT_LIMITS } from "@rubble/core/shot";
import { sweep } from "@rubble/core/takes";
import { array, mixed, number, object, string } from "yup";
import { addJob } from "~/data/jobs.server";
import { answer, answering, readJson, refuse } from "~/data/requests.server";
import { loadShot } from "~/data/shots.server";
import { readLike } from "~/data/takeReading.server";
import { createTake, emptyTake, loadTake } from "~/data/takes.server";
import type { Route } from "./+types/api.send";

/** That one order may make. */
const MOST_JOBS = 500;

const frame = () => number().integer().min(-SHOT_LIMITS.frame).max(SHOT_LIMITS.frame).required();
const schema = object({
	what: string().oneOf(["run", "sweep", "bake", "fracture"]).required(),
	/** The shot as it is in the page: what is not saved yet runs too. */
	shot: mixed(),
	name: string().max(200).default("Take 1"),
	axes: array(object({ path: string().required(), values: array(number().required()).max(MOST_JOBS).required() }).required()).max(6),
	take: string(),
	/** What is to be broken. */
	object: string(),
	format: string().oneOf(TAKE_FORMATS.map(({ id }) => id)),
	range: object({ firstFrame: frame(), lastFrame: frame() }).default(undefined),
	keys: mixed<BakeOptions>(),
	/** Ids of what is to be written; everything where absent. */
	only: array(string().required()).max(200_000),
	/** Of the format. */
	options: mixed<OptionValues>(),
	camera: string(),
	/** A sequence is split into jobs of so many frames. */
	framesPerJob: number().integer().min(1),
	colouring: mixed<Colouring>(),
	priority: number().integer().min(-100).max(100).default(0),
});

/** Work for the workers: a run, a sweep (a take for each of its shots), a file of a take, or a fracture. */
export const action = answering(async ({ request, params }: Route.ActionArgs) => {
	const order = await readJson(request, schema);
	const { priority } = order;
	if (order.what === "bake") {
		const take = await loadTake(order.take ?? "");
		if (!take || !order.format || !order.range || !order.keys) throw refuse(400, "A take, a format, a range and its keys are needed.");
		const format = TAKE_FORMATS.find(({ id }) => id === order.format)!;
		const { keys, only, options = {}, camera, colouring } = order;
		const wrong = optionProblem(format, options);
		if (wrong) throw refuse(422, wrong);
		const { firstFrame: first, lastFrame: last } = take.take.snapshot.settings;
		const range = { firstFrame: Math.max(first, order.range.firstFrame), lastFrame: Math.min(last, order.range.lastFrame) };
		if (range.lastFrame < range.firstFrame)
			throw refuse(
				422,
				`The shot has frames ${first} to ${last}; none of them is in ${order.range.firstFrame} to ${order.range.lastFrame}.`,
			);
		const count = isSequence(format) && order.framesPerJob ? Math.ceil((range.lastFrame - range.firstFrame + 1) / order.framesPerJob) : 1;
		if (count > MOST_JOBS)
			throw refuse(422, `That would be ${count.toLocaleString("en")} jobs; the most is ${MOST_JOBS}. Give each more frames.`);
		const ranges = isSequence(format) ? splitRange(range, order.framesPerJob) : [range];
		const part = ranges.length > 1;
		const made: string[] = [];
		for (const range of ranges) {
			const name = `${take.name} as ${format.label}${part ? `, ${range.firstFrame}–${range.lastFrame}` : ""}`;
			const bake = { format: format.id, range, keys, only, options, camera, colouring, part };
			made.push(await addJob({ kind: "bake", shot: params.shot, take: take.id, name, bake, priority }));
		}
		return answer({ jobs: made });
	}
	const stored = await loadShot(params.shot);
	if (!stored) throw refuse(404, "The shot was deleted.");
	const shot = await readLike(stored.shot, order.shot);
	if (!shot.ok) throw refuse(422, shot.problems[0]!.message);
	if (order.what === "fracture") {
		const object = order.object ?? "";
		if (!fractureOf(shot.value, object)) throw refuse(400, "An object that is to be broken is needed.");
		const name = `Break ${objectPath(shot.value, object)}`;
		return answer({
			jobs: [await addJob({ kind: "fracture", shot: params.shot, name, fracture: { shot: shot.value, object }, priority })],
		});
	}
	const variants =
		order.what === "run"
			? { ok: true as const, value: [{ name: order.name, changes: [], shot: shot.value }] }
			: sweep(shot.value, order.axes ?? []);
	if (!variants.ok) throw refuse(422, variants.problems[0]!.message);
	if (variants.value.length > MOST_JOBS)
		throw refuse(422, `That would be ${variants.value.length.toLocaleString("en")} takes; the most is ${MOST_JOBS}.`);
	const jobs: string[] = [];
	for (const { name, changes, shot: own } of variants.value) {
		const take = await createTake(params.shot, emptyTake(name, own), { name, changes, shown: false });
		jobs.push(await addJob({ kind: "run", shot: params.shot, take: take.id, name: take.name, priority }));
	}
	return answer({ jobs });
});
