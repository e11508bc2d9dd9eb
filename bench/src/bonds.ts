import { buildBodies, makeWorkshop } from "@rubble/core/bodies";
import { addBondSet, addObject, edit, emptyShot, setBody, setFracture, setSettings } from "@rubble/core/shot";
import { adding, makeScene, rapierEngine, type SimScene, simulate } from "@rubble/core/simulation";
import { loadSolids } from "@rubble/core/solid";
import { type Bench, NO_ASSETS, type Row } from "./types";

/** A wall of so many bricks on the ground with a ball that strikes it in frame 13, or far from it. */
async function wallScene(columns: number, rows: number, bonded: boolean, struck: boolean): Promise<SimScene> {
	const workshop = makeWorkshop(await loadSolids(), NO_ASSETS);
	const [width, height] = [0.25 * columns, 0.125 * rows];
	const shot = [
		addObject({ id: "ground", name: "Ground", source: { kind: "shape", shape: "ground", parameters: {} } }),
		setBody(["ground"], { kind: "passive" }),
		addObject({
			id: "wall",
			name: "Wall",
			source: { kind: "shape", shape: "box", parameters: { width, height, depth: 0.125 } },
			translation: [0, height / 2, 0],
		}),
		setFracture("f", { object: "wall", method: "masonry", options: { length: 0.25, height: 0.125, joint: 0.001, mortar: "gap" } }),
		...(bonded
			? [
					setBody(["wall"], { kind: "active", density: 1800 }),
					addBondSet("b", {
						name: "Mortar",
						options: { strength: "given", tension: 0.5, shear: 1, compression: 20, energy: 20, foot: "touching", by: "near", reach: 0.002 },
						changes: [],
						hidden: false,
					}),
				]
			: [setBody(["wall"], { kind: "passive" })]),
		addObject({
			id: "ball",
			name: "Ball",
			source: { kind: "shape", shape: "ball", parameters: { radius: 0.4, detail: 3 } },
			translation: [0.06, height / 2, struck ? -7.96 : -900],
		}),
		setBody(["ball"], { kind: "active", mass: 300, velocity: [0, 0, 15] }),
		setSettings({ lastFrame: 24 }),
	].reduce((made, command) => edit(made, command).shot, emptyShot("Bench"));
	const built = await buildBodies(workshop, shot);
	return makeScene(workshop, shot, built.bodies);
}

interface FrameTimes {
	/** Milliseconds of each frame; the first one looks at the whole structure once. */
	readonly whole: readonly number[];
	/** Of them the engine's own steps. */
	readonly engine: readonly number[];
}

async function frameTimes(scene: SimScene): Promise<FrameTimes> {
	const stopwatch = adding(() => performance.now());
	const whole: number[] = [];
	const engine: number[] = [];
	let before = performance.now();
	await simulate(scene, rapierEngine, {
		stopwatch,
		onProgress: () => {
			const now = performance.now();
			whole.push(now - before);
			engine.push(stopwatch.take().engine);
			before = now;
		},
		onChunk: () => undefined,
	});
	return { whole, engine };
}

const middle = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!;

const wallRow = (columns: number, rows: number): Row => ({
	name: `wall of ${columns} × ${rows} bricks`,
	run: async () => {
		const scene = await wallScene(columns, rows, true, true);
		// The first time compiles as it goes.
		await frameTimes(scene);
		const bonded = await frameTimes(scene);
		const { whole: passive } = await frameTimes(await wallScene(columns, rows, false, true));
		const { whole, engine } = bonded;
		const quiet = middle(whole.slice(2, 11));
		const worst = Math.max(...whole.slice(11));
		return {
			pieces: scene.count - 2,
			bonds: scene.bonds.count,
			"ms first frame": whole[0]!,
			"ms a quiet frame": quiet,
			"of the same bricks that hold still": quiet / middle(passive.slice(2, 11)),
			"ms worst frame of the blow": worst,
			"of it the engine": engine[whole.indexOf(worst)]!,
			"ms a frame after it": middle(whole.slice(16)),
		};
	},
});

export const bonds: Bench = {
	id: "bonds",
	title: "Bonded walls: quiet, and struck by 300 kg at 15 m/s",
	rows: [wallRow(20, 20), wallRow(60, 40), wallRow(100, 50)],
};
