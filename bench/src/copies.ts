import { buildBodies, makeWorkshop } from "@rubble/core/bodies";
import { addArray, addObject, type Command, edit, emptyShot, setArrayOptions, setBody } from "@rubble/core/shot";
import { makeScene, rapierEngine, simulate } from "@rubble/core/simulation";
import { loadSolids } from "@rubble/core/solid";
import { type Bench, milliseconds, NO_ASSETS, type Row } from "./types";

/** Balls or boxes in a tall grid above the ground: laid out, made bodies, made a scene, and two frames of the fall. */
const row = (kind: "ball" | "box", count: number): Row => ({
	name: `${count.toLocaleString("en")} ${kind === "ball" ? "balls" : "boxes"}`,
	run: async () => {
		const side = Math.round(Math.cbrt(count));
		const commands: Command[] = [
			addObject({
				id: "one",
				name: "One",
				source: {
					kind: "shape",
					shape: kind,
					parameters: kind === "ball" ? { radius: 0.05, detail: 4 } : { width: 0.1, height: 0.1, depth: 0.1 },
				},
			}),
			addArray({
				id: "many",
				name: "Many",
				source: {
					kind: "array",
					sources: ["one"],
					layout: "grid",
					options: { columns: side, rows: side, layers: side, stepX: 0.12, stepY: 0.12, stepZ: 0.12, turn: 1, smallest: 0.8, largest: 1 },
				},
			}),
			setBody(["many"], { kind: "active" }),
		];
		const shot = commands.reduce((made, command) => edit(made, command).shot, emptyShot("Bench"));
		const workshop = makeWorkshop(await loadSolids(), NO_ASSETS);
		let built!: Awaited<ReturnType<typeof buildBodies>>;
		const build = await milliseconds(async () => {
			built = await buildBodies(workshop, shot);
		});
		const again = await milliseconds(() => buildBodies(workshop, edit(shot, setArrayOptions("many", { seed: 9 })).shot));
		let scene!: Awaited<ReturnType<typeof makeScene>>;
		const fitted = await milliseconds(async () => {
			scene = await makeScene(workshop, shot, built.bodies);
		});
		const two = await milliseconds(() => simulate(scene, rapierEngine, { until: 2, onChunk: () => undefined }));
		return { bodies: built.bodies.length - 1, "build ms": build, "rebuild ms": again, "scene ms": fitted, "first two frames ms": two };
	},
});

export const copies: Bench = {
	id: "copies",
	title: "Arrays: copies as bodies",
	rows: [row("ball", 3_375), row("ball", 29_791), row("box", 3_375), row("box", 29_791)],
};
