import { buildBodies, lookOf, makeWorkshop } from "@rubble/core/bodies";
import { type FrameStore, POSE_STRIDE } from "@rubble/core/cache";
import { bounds, boundsSize } from "@rubble/core/mesh";
import { addObject, type Command, edit, emptyShot, setBody, setFracture } from "@rubble/core/shot";
import { loadSolids } from "@rubble/core/solid";
import { Matrix4, Scene } from "three";
import { makeBodies } from "../../apps/web/app/workbench/view/bodies";
import { applyPoses } from "../../apps/web/app/workbench/view/poses";
import { draw } from "../../apps/web/app/workers/drawing";
import { type Bench, median, NO_ASSETS, type Row } from "./types";

/** What the page does with one frame before the graphics card draws it. */
const row = (count: number): Row => ({
	name: `${count.toLocaleString("en")} pieces`,
	run: async () => {
		const commands: Command[] = [
			addObject({ id: "box", name: "Box", source: { kind: "shape", shape: "box", parameters: { width: 2, height: 1, depth: 1 } } }),
			setFracture("f", { object: "box", method: "voronoi", options: { count, seed: 7 } }),
			setBody(["box"], { kind: "active" }),
		];
		const shot = commands.reduce((made, command) => edit(made, command).shot, emptyShot("Bench"));
		const workshop = makeWorkshop(await loadSolids(), NO_ASSETS);
		const built = await buildBodies(workshop, shot);
		// Large batches come in slices.
		let view!: ReturnType<typeof makeBodies>;
		await new Promise<void>((ready) => {
			view = makeBodies(new Scene(), ready);
			view.sync({ box: draw(workshop.solids, "box", "", built.bodies, lookOf(shot, built.bodies[0]!)) });
			if (view.matrixOf(built.bodies[0]!.id, new Matrix4())) ready();
		});
		const poses = new Float32Array(2 * built.bodies.length * POSE_STRIDE).fill(0.5);
		const frames = {
			bodies: built.bodies.length,
			chunks: [{ firstFrame: 1, frames: 2, bodies: built.bodies.length, poses }],
		} as unknown as FrameStore;
		const bodies = built.bodies.map((body) => ({ ...body, triangles: 0, size: Math.max(...boundsSize(bounds(body.mesh))) }));
		const take = { id: "", take: { bodies: built.bodies.map(({ id }) => ({ id })) } };
		const state = { shot, bodies, take, frames, frame: 2, explode: 0 } as unknown as Parameters<typeof applyPoses>[1];
		const ms = await median(101, () => applyPoses(view, state));
		return { bodies: bodies.length, "ms a frame": ms, "µs a body": (1000 * ms) / bodies.length };
	},
});

export const frameApply: Bench = { id: "apply", title: "Applying a frame in the view (script only)", rows: [200, 2_000, 20_000].map(row) };
