import { buildBodies } from "../bodies";
import { addArray, type Shot, setBody } from "../shot";
import { makeTestWorkshop, runShot, shape, shotOf } from "../testing";
import { makeScene, rapierEngine, separate } from ".";

const sceneOf = async (shot: Shot) => {
	const workshop = await makeTestWorkshop();
	return makeScene(workshop, shot, (await buildBodies(workshop, shot)).bodies);
};
const posesOf = (scene: Awaited<ReturnType<typeof sceneOf>>) =>
	Float32Array.from({ length: 7 * scene.count }, (_, n) => {
		const [i, k] = [Math.floor(n / 7), n % 7];
		return k < 3 ? scene.position[3 * i + k]! : scene.rotation[4 * i + k - 3]!;
	});

test("two boxes part along the short way, the lighter one farther, and what holds still does not move", async () => {
	const scene = await sceneOf(
		shotOf(
			shape("floor", "box", { width: 4, height: 0.2, depth: 4 }, [0, -0.1, 0]),
			setBody(["floor"], { kind: "passive" }),
			shape("heavy", "box", { width: 1, height: 1, depth: 1 }, [0, 0.5, 0]),
			shape("light", "box", { width: 1, height: 1, depth: 1 }, [0.96, 0.52, 0]),
			shape("sunk", "box", { width: 0.3, height: 0.3, depth: 0.3 }, [1.8, 0.14, 1]),
			setBody(["heavy"], { kind: "active", mass: 300 }),
			setBody(["light"], { kind: "active", mass: 100 }),
			setBody(["sunk"], { kind: "active", mass: 10 }),
		),
	);
	const before = posesOf(scene);
	const { poses, deepest } = await separate(scene, rapierEngine, before, 1, 0.001);
	expect(deepest).toBeLessThan(0.001);
	const moved = (id: string, k: number) => poses[7 * scene.ids.indexOf(id) + k]! - before[7 * scene.ids.indexOf(id) + k]!;
	expect(moved("light", 0) - moved("heavy", 0)).toBeGreaterThan(0.039);
	expect(moved("light", 0) - moved("heavy", 0)).toBeLessThan(0.041);
	expect(moved("light", 0) / -moved("heavy", 0)).toBeCloseTo(3, 1);
	expect(moved("sunk", 1)).toBeCloseTo(0.01, 3);
	for (let k = 0; k < 7; k++) expect(moved("floor", k)).toBe(0);
});

test("a heap that was dropped into a box lies without an overlap over a millimetre, and hardly elsewhere", async () => {
	const wall = (id: string, width: number, depth: number, at: [number, number, number]) =>
		shape(id, "box", { width, height: 0.5, depth }, at);
	const shot = shotOf(
		shape("ground", "ground", {}),
		wall("w", 0.05, 1, [-0.5, 0.25, 0]),
		wall("e", 0.05, 1, [0.5, 0.25, 0]),
		wall("n", 1, 0.05, [0, 0.25, -0.5]),
		wall("s", 1, 0.05, [0, 0.25, 0.5]),
		setBody(["ground", "w", "e", "n", "s"], { kind: "passive" }),
		shape("stone", "box", { width: 0.18, height: 0.11, depth: 0.14 }),
		addArray({
			id: "heap",
			name: "Heap",
			source: {
				kind: "array",
				sources: ["stone"],
				layout: "grid",
				options: { columns: 3, layers: 7, rows: 3, stepX: 0.29, stepY: 0.25, stepZ: 0.29, turn: 0.6, seed: 3 },
			},
			translation: [-0.3, 0.15, -0.3],
		}),
		setBody(["heap"], { kind: "active" }),
	);
	const run = await runShot(shot, 120);
	const last = run.store.chunks.at(-1)!.poses.slice(-7 * run.scene.count);
	const { poses, deepest } = await separate(run.scene, rapierEngine, last, 120, 0.001);
	expect(deepest).toBeLessThan(0.001);
	let most = 0;
	for (let i = 0; i < poses.length; i++) most = Math.max(most, Math.abs(poses[i]! - last[i]!));
	expect(most).toBeLessThan(0.02);
	// What lies well is left where it is.
	const again = await separate(run.scene, rapierEngine, poses, 120, 0.001);
	expect([again.pairs, Buffer.from(again.poses.buffer).equals(Buffer.from(poses.buffer))]).toEqual([0, true]);
});
