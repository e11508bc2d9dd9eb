import { posesAt } from "../cache";
import { hashBytes } from "../common";
import { fromEuler, radians } from "../maths";
import { addArray, edit, placeObject, type Shot, setBody, setFracture, setKey } from "../shot";
import { findStartOverlaps, frameHashes, makeScene, rapierEngine, simulate } from "../simulation";
import { loadSolids } from "../solid";
import { runShot, shape, shotOf } from "../testing";
import { bodyPose, buildBodies, decodePlaces, encodePlaces, type KeptPlaces, keepPlaces, makeWorkshop, withPlaces } from ".";

const set = shotOf(
	shape("ground", "ground", {}),
	setBody(["ground"], { kind: "passive" }),
	shape("crate", "box", { width: 0.5, height: 0.4, depth: 0.5 }, [2, 1.5, 0]),
	shape("stone", "ball", { radius: 0.1, detail: 2 }),
	addArray({
		id: "heap",
		name: "Heap",
		source: {
			kind: "array",
			sources: ["stone"],
			layout: "grid",
			options: { columns: 3, layers: 3, rows: 1, stepX: 0.21, stepY: 0.25, stepZ: 0.21 },
		},
	}),
	placeObject("heap", { translation: [0, 0.8, 0], rotation: fromEuler([0, radians(30), 0]) }),
	shape("slab", "box", { width: 1, height: 0.2, depth: 0.6 }, [-2, 0.9, 0]),
	setFracture("f", { object: "slab", method: "voronoi", options: { count: 8 } }),
	setBody(["crate", "heap", "slab"], { kind: "active" }),
);

/** The shot with everything kept where frame `frame` has it, and a workshop that has its table. */
async function kept(shot: Shot, frame: number, physics = true) {
	const run = await runShot(shot, frame);
	const solids = await loadSolids();
	const tables = new Map<string, KeptPlaces>();
	const workshop = makeWorkshop(solids, {
		loadAsset: () => Promise.reject(new Error("none")),
		loadPicture: () => Promise.reject(new Error("none")),
		loadPlaces: async (asset) => tables.get(asset) ?? Promise.reject(new Error("it is gone")),
	});
	const before = await buildBodies(workshop, shot);
	const made = keepPlaces(shot, before.bodies, run.scene.ids, posesAt(run.store, frame)!, undefined);
	const bytes = encodePlaces(made.places!);
	const asset = `asset:${hashBytes(bytes)}` as const;
	const read = decodePlaces(bytes);
	if (!read.ok) throw new Error("unreadable");
	tables.set(asset, read.value);
	const more = physics ? [] : [setBody(["crate", "heap", "slab"], { kind: "none" })];
	return { run, workshop, tables, made, shot: edit(shot, withPlaces(made.placed, asset, more)).shot };
}

test("objects, copies and pieces stand where the frame has left them, and stay there without physics", async () => {
	const { run, workshop, made, shot } = await kept(set, 60, false);
	expect(made.count).toBe(1 + 9 + 8);
	const { bodies, problems, kept: facts } = await buildBodies(workshop, shot);
	expect([problems, facts]).toEqual([[], { used: 17, unused: 0 }]);
	const poses = posesAt(run.store, 60)!;
	for (const body of bodies) {
		const i = run.scene.ids.indexOf(body.id);
		if (i < 0 || body.object === "ground") continue;
		const { translation } = bodyPose(shot, body, 0);
		for (let k = 0; k < 3; k++) expect(translation[k]).toBeCloseTo(poses[7 * i + k]!, 5);
	}
	expect(bodies.filter(({ settings }) => settings.kind !== "none").map(({ id }) => id)).toEqual(["ground"]);
});

test("a run from kept places begins there, and what had come to rest stays", async () => {
	const { workshop, shot } = await kept(set, 144);
	const { bodies } = await buildBodies(workshop, shot);
	const scene = await makeScene(workshop, shot, bodies);
	expect(await findStartOverlaps(scene, rapierEngine, 0.001)).toEqual([]);
	let last: Float32Array | undefined;
	await simulate(scene, rapierEngine, { until: 24, onChunk: (chunk) => void (last = chunk.poses.slice(-7 * scene.shown)) });
	let most = 0;
	for (let i = 0; i < scene.count; i++)
		for (let k = 0; k < 3; k++) most = Math.max(most, Math.abs(last![7 * i + k]! - scene.position[3 * i + k]!));
	expect(most).toBeLessThan(0.01);
	expect(frameHashes(shot)[0]).not.toBe(frameHashes(set)[0]);
});

test("a heap that a run has left goes on bearing itself: its contacts are a little deep, and still push", async () => {
	const heap = shotOf(
		shape("tub", "cup", { radius: 0.4, foot: 0.4, height: 0.8, wall: 0.04, segments: 32 }, [0, 0.4, 0]),
		setBody(["tub"], { kind: "passive" }),
		shape("brick", "box", { width: 0.09, height: 0.06, depth: 0.09 }, [5, 0, 0]),
		addArray({
			id: "bricks",
			name: "Bricks",
			source: {
				kind: "array",
				sources: ["brick"],
				layout: "volume",
				options: { in: ["tub"], pattern: "poured", brim: "over", turn: 1, count: 220 },
			},
		}),
		setBody(["bricks"], { kind: "active" }),
	);
	const { workshop, shot } = await kept(heap, 60);
	const { bodies } = await buildBodies(workshop, shot);
	const scene = await makeScene(workshop, shot, bodies);
	// There are such contacts, or this would show nothing.
	const deep = (await findStartOverlaps(scene, rapierEngine)).filter(({ a, b }) => scene.kind[a] === scene.kind[b]);
	expect(deep.length).toBeGreaterThan(20);
	let last: Float32Array | undefined;
	await simulate(scene, rapierEngine, { until: 36, onChunk: (chunk) => void (last = chunk.poses.slice(-7 * scene.shown)) });
	const sunk = Array.from({ length: scene.count }, (_, i) => scene.position[3 * i + 1]! - last![7 * i + 1]!).sort((a, b) => a - b);
	expect(sunk[sunk.length >> 1]).toBeLessThan(0.002);
	expect(sunk.at(-3)).toBeLessThan(0.02);
	// Nor is anything flung.
	expect(sunk[2]).toBeGreaterThan(-0.02);
});

test("an object that was handed over from its keys stays where it came to lie", async () => {
	const rolled = edit(set, setKey("crate", 0, { translation: [2, 1.5, 0] })).shot;
	const keyed = edit(rolled, setKey("crate", 240, { translation: [2.2, 1.5, 0] })).shot;
	const released = edit(keyed, setBody(["crate"], { wake: { when: "frame", frame: 6 } })).shot;
	const { workshop, run, shot } = await kept(released, 72);
	const crate = (await buildBodies(workshop, shot)).bodies.find(({ id }) => id === "crate")!;
	const i = run.scene.ids.indexOf("crate");
	const at = bodyPose(shot, crate, 2000).translation;
	for (let k = 0; k < 3; k++) expect(at[k]).toBeCloseTo(posesAt(run.store, 72)![7 * i + k]!, 5);
	expect(at[1]).toBeLessThan(0.3);
});

test("moving the object takes its kept pieces along; breaking it anew lets them go", async () => {
	const { workshop, shot } = await kept(set, 60);
	const moved = edit(shot, placeObject("slab", { translation: [-2, 1.9, 0] })).shot;
	const before = (await buildBodies(workshop, shot)).bodies.filter(({ object }) => object === "slab");
	const after = (await buildBodies(workshop, moved)).bodies.filter(({ object }) => object === "slab");
	after.forEach((body, i) => {
		expect(bodyPose(moved, body, 0).translation[1] - bodyPose(shot, before[i]!, 0).translation[1]).toBeCloseTo(1, 9);
	});
	const anew = edit(shot, setFracture("f", { object: "slab", method: "voronoi", options: { count: 8, seed: 99 } })).shot;
	expect((await buildBodies(workshop, anew)).kept).toEqual({ used: 9, unused: 8 });
});

test("places that are gone or damaged are told, and everything else is built", async () => {
	const { workshop, tables, shot } = await kept(set, 12);
	tables.clear();
	workshop.places.clear();
	const { bodies, problems } = await buildBodies(workshop, shot);
	expect(problems[0]!.message).toMatch(/cannot be read: it is gone\. Forget them in Run/);
	expect(bodies).toHaveLength(1 + 1 + 1 + 9 + 8);
	for (const text of ["", "{}", '{"format":"mighty-rubble-places","version":1,"bodies":{"a":["m",1,2]}}'])
		expect(decodePlaces(new TextEncoder().encode(text)).ok).toBe(false);
});
