import { buildBodies } from "../bodies";
import { addChunk, type FrameStore, POSE_STRIDE, posesAt } from "../cache";
import { addBondSet, type Command, edit, type Shot, setBody, setFracture, setSettings } from "../shot";
import { makeTestWorkshop, runShot, shape, shotOf, type TestRun } from "../testing";
import { type Checkpoint, frameHashes, goOnFrom, hashesOver, makeScene, makeTake, rapierEngine, simulate } from ".";

const sceneOf = async (shot: Shot) => {
	const workshop = await makeTestWorkshop();
	return makeScene(workshop, shot, (await buildBodies(workshop, shot)).bodies);
};

/** Runs a shot to a frame and another one on from there. */
async function goOn(old: Shot, frame: number, next: Shot, until: number): Promise<TestRun["at"]> {
	const [before, after] = [await sceneOf(old), await sceneOf(next)];
	let there: Checkpoint | undefined;
	await simulate(before, rapierEngine, { until: frame, onChunk: (_, checkpoint) => void (there = checkpoint) });
	const state = await goOnFrom(before, there!, after, rapierEngine);
	if (!state.ok) throw new Error(state.problems[0]!.message);
	let store: FrameStore = { bodies: after.shown, chunks: [] };
	await simulate(after, rapierEngine, {
		from: there!,
		state: state.value,
		until,
		onChunk: (chunk) => void (store = addChunk(store, chunk)),
	});
	return (id, at) => {
		const from = after.ids.indexOf(id) * POSE_STRIDE;
		return Array.from(posesAt(store, at)!.subarray(from, from + 3)) as [number, number, number];
	};
}
const change = (shot: Shot, ...commands: Command[]) => commands.reduce((before, command) => edit(before, command).shot, shot);
const ball = shotOf(
	shape("ball", "ball", { radius: 0.2, detail: 3 }, [0, 20, 0]),
	setBody(["ball"], { kind: "active", velocity: [1, 0, 0], spin: [0, 4, 0] }),
);

test("gravity is turned off while a ball falls: from there it goes on straight with the speed it had", async () => {
	const at = await goOn(ball, 12, change(ball, setSettings({ gravity: [0, 0, 0] })), 36);
	const fell = 9.81 * (11 / 24);
	expect(at("ball", 36)[0] - at("ball", 24)[0]).toBeCloseTo(12 / 24, 4);
	expect((at("ball", 24)[1] - at("ball", 36)[1]) / (12 / 24)).toBeCloseTo(fell, 3);
});

test("with nothing changed it goes on as if it had not stopped, bonded pieces as one body", async () => {
	const block = shotOf(
		shape("ground", "ground", {}),
		setBody(["ground"], { kind: "passive" }),
		shape("block", "box", { width: 1, height: 0.5, depth: 0.5 }, [0, 3, 0]),
		setFracture("f", { object: "block", method: "voronoi", options: { count: 12, seed: 3 } }),
		setBody(["block"], { kind: "active", velocity: [1, 0, 0], spin: [1, 2, 0] }),
		addBondSet("b", { name: "Bonds", options: { on: "block/*", strength: "endless" }, changes: [], hidden: false }),
	);
	const at = await goOn(block, 12, block, 24);
	const whole = await runShot(block, 24);
	// It lands in between, where the order of contacts makes a little of rounding.
	for (const id of whole.scene.ids.filter((one) => one.startsWith("f:")))
		for (let k = 0; k < 3; k++) expect(Math.abs(at(id, 24)[k]! - whole.at(id, 24)[k]!)).toBeLessThan(0.001);
});

test("other bodies cannot go on, and it is said why; frames of another take hold as they are", async () => {
	const more = change(ball, shape("stone", "box", { width: 1, height: 1, depth: 1 }, [5, 1, 0]), setBody(["stone"], { kind: "active" }));
	await expect(goOn(ball, 4, more, 8)).rejects.toThrow(/1 then, 2 now/);
	const next = change(ball, setSettings({ gravity: [0, -1, 0] }));
	const [old, own] = [frameHashes(ball), frameHashes(next)];
	const take = { ...makeTake("Take 2", next, await sceneOf(next)), wentOn: { take: "Take 1", frame: 12 }, frameHashes: old.slice(0, 12) };
	const hashes = hashesOver(take, own);
	expect(hashes.slice(0, 12)).toEqual(old.slice(0, 12));
	expect(hashes.length).toBe(own.length);
	expect(hashes.slice(12).some((hash) => own.includes(hash) || old.includes(hash))).toBe(false);
	// A later change of the shot shows from the frame after.
	const changed = hashesOver(take, frameHashes(change(next, setBody(["ball"], { friction: 0.1 }))));
	expect([changed[11] === hashes[11], changed[12] === hashes[12]]).toEqual([true, false]);
});
