import { buildBodies, makeWorkshop } from "@rubble/core/bodies";
import { sampleShot } from "@rubble/core/samples";
import {
	addArray,
	addObject,
	type Command,
	edit,
	emptyShot,
	type Shot,
	setBend,
	setBody,
	setFracture,
	setKey,
	setNumberKey,
	setSettings,
} from "@rubble/core/shot";
import { adding, makeScene, rapierEngine, simulate } from "@rubble/core/simulation";
import { loadSolids } from "@rubble/core/solid";
import { type Bench, NO_ASSETS, type Row } from "./types";

const run = (name: string, shot: () => Shot): Row => ({
	name,
	run: async () => {
		const workshop = makeWorkshop(await loadSolids(), NO_ASSETS);
		const made = shot();
		const built = await buildBodies(workshop, made);
		const scene = await makeScene(workshop, made, built.bodies);
		const stopwatch = adding(() => performance.now());
		const frames = made.settings.lastFrame - made.settings.firstFrame + 1;
		const begin = performance.now();
		await simulate(scene, rapierEngine, { stopwatch, onChunk: () => undefined });
		const total = performance.now() - begin;
		const { engine, storing } = stopwatch.take();
		const own = total - engine - storing;
		return {
			bodies: scene.shown,
			frames,
			"ms a frame": total / frames,
			"engine ms": engine / frames,
			"snapshots ms": storing / frames,
			"own ms": own / frames,
			"own share %": (100 * own) / total,
		};
	},
});

const shotOf = (...commands: Command[]): Shot => commands.reduce((shot, command) => edit(shot, command).shot, emptyShot("Bench"));
const shape = (id: string, kind: string, parameters: Record<string, number>, translation: [number, number, number]): Command =>
	addObject({ id, name: id, source: { kind: "shape", shape: kind, parameters }, translation });
const ground = [shape("ground", "ground", {}, [0, 0, 0]), setBody(["ground"], { kind: "passive" })];

/** A block of pieces falls and heaps up. */
export const heap = (count: number): Shot => {
	const side = 0.2 * Math.cbrt(count);
	return shotOf(
		...ground,
		shape("block", "box", { width: side, height: side, depth: side }, [0, side / 2 + 0.5, 0]),
		setFracture("f", { object: "block", method: "voronoi", options: { count, seed: 7 } }),
		setBody(["block"], { kind: "active" }),
		setSettings({ lastFrame: 72 }),
	);
};

/** Balls in layers, each a little off its neighbours, fall and roll apart. */
export const balls = (count: number): Shot => {
	const side = Math.ceil(Math.cbrt(count));
	return shotOf(
		...ground,
		shape("ball", "ball", { radius: 0.1, detail: 2 }, [0, 0.5, 0]),
		addArray({
			id: "balls",
			name: "Balls",
			source: {
				kind: "array",
				sources: ["ball"],
				layout: "grid",
				options: {
					columns: side,
					layers: Math.ceil(count / side / side),
					rows: side,
					stepX: 0.22,
					stepY: 0.22,
					stepZ: 0.22,
					jitter: 0.008,
					seed: 3,
				},
			},
			translation: [0, 0.5, 0],
		}),
		setBody(["balls"], { kind: "active", collider: "sphere" }),
		setSettings({ lastFrame: 72 }),
	);
};

/** A keyed beam goes through rows of boxes; with `hulls` it bends meanwhile, in as many patches. */
const beam = (hulls: number): Shot =>
	shotOf(
		...ground,
		shape("beam", "box", { width: 3, height: 0.3, depth: 0.3 }, [0, 0.25, -2]),
		...(hulls > 0
			? [setBend("beam", { along: 0, toward: 2, angle: 0 }), setNumberKey("beam", "bend", 0, 0), setNumberKey("beam", "bend", 3600, 1.2)]
			: []),
		setKey("beam", 0, { translation: [0, 0.25, -2] }),
		setKey("beam", 3600, { translation: [0, 0.25, 2] }),
		setBody(["beam"], { kind: "animated", ...(hulls > 0 && { hulls }) }),
		...Array.from({ length: 100 }, (_, i) =>
			shape(`box${i}`, "box", { width: 0.2, height: 0.2, depth: 0.2 }, [0.28 * (i % 10) - 1.26, 0.1, 0.28 * Math.floor(i / 10) - 1.2]),
		),
		setBody(
			Array.from({ length: 100 }, (_, i) => `box${i}`),
			{ kind: "active" },
		),
		setSettings({ lastFrame: 72 }),
	);

export const steps: Bench = {
	id: "steps",
	title: "Simulation: engine and our own layer",
	rows: [
		run("Breakwater strike", () => sampleShot("breakwater-strike")!),
		run("Lamp-room pane", () => sampleShot("lamp-room-pane")!),
		...[100, 1_000, 4_000].map((count) => run(`heap of ${count} pieces`, () => heap(count))),
		...[100, 1_000, 4_000, 8_000].map((count) => run(`${count} balls`, () => balls(count))),
		run("stiff beam through 100 boxes", () => beam(0)),
		...[12, 48].map((hulls) => run(`bending beam of ${hulls} patches`, () => beam(hulls))),
	],
};
