import { buildBodies, makeWorkshop } from "@rubble/core/bodies";
import { addChunk, type FrameStore } from "@rubble/core/cache";
import { exportTake, isSequence, TAKE_FORMATS, zipSequence } from "@rubble/core/formats";
import { addArray, addObject, edit, emptyShot, setBody } from "@rubble/core/shot";
import { loadSolids } from "@rubble/core/solid";
import { chunkOf } from "./cache";
import { type Bench, milliseconds, NO_ASSETS, type Row } from "./types";

const [BODIES, FRAMES] = [2000, 240];

/** Boxes that all move, each its own way, as keys at every frame. */
async function movingScene() {
	const workshop = makeWorkshop(await loadSolids(), NO_ASSETS);
	const shot = [
		addObject({ id: "box", name: "Box", source: { kind: "shape", shape: "box", parameters: { width: 0.2, height: 0.2, depth: 0.2 } } }),
		addArray({
			id: "boxes",
			name: "Boxes",
			source: { kind: "array", sources: ["box"], layout: "grid", options: { columns: 50, layers: 1, rows: BODIES / 50 } },
		}),
		setBody(["boxes"], { kind: "active" }),
	].reduce((made, command) => edit(made, command).shot, emptyShot("Boxes"));
	const { bodies } = await buildBodies(workshop, { ...shot, objects: { ...shot.objects, box: { ...shot.objects.box!, hidden: true } } });
	const moving = bodies.filter(({ object }) => object === "boxes");
	let store: FrameStore = { bodies: BODIES, chunks: [] };
	for (let first = 1; first <= FRAMES; first += 24) store = addChunk(store, chunkOf(BODIES, first));
	return exportTake(
		{ shot, bodies: moving, takeBodies: moving, store },
		{ range: { firstFrame: 1, lastFrame: FRAMES }, keys: { way: "every", frames: 1 } },
	);
}

const row = (id: string): Row => ({
	name: TAKE_FORMATS.find((format) => format.id === id)!.label,
	run: async () => {
		const format = TAKE_FORMATS.find((one) => one.id === id)!;
		const scene = await movingScene();
		let bytes = 0;
		const ms = await milliseconds(async () => {
			bytes = (isSequence(format) ? await zipSequence(format, scene) : await format.write(scene, {})).length;
		});
		return { MB: bytes / 1e6, "of the raw poses": bytes / (28 * BODIES * FRAMES), ms };
	},
});

export const files: Bench = {
	id: "files",
	title: `Files: ${BODIES.toLocaleString("en")} boxes × ${FRAMES} frames, a key at every frame`,
	rows: TAKE_FORMATS.map(({ id }) => row(id)),
};
