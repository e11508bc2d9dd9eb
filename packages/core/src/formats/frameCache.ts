import { fileStem, frameStem } from "./names";
import { itemPose } from "./posed";
import { bytesOf } from "./text";
import type { ExportItem, ExportScene, SequenceFormat } from "./types";

const MAGIC = 0x3146524d; // "MRF1"

/** Poses alone, a small binary file for each frame; laid out in docs/formats.md, with a reader in docs/examples. */
export const frameCache: SequenceFormat = {
	id: "cache",
	label: "Frame cache",
	extension: "mrf",
	mime: "application/octet-stream",
	help: "A small binary file of places and rotations for each frame, and a list of names",
	options: {},
	shared: (scene) => [
		{
			name: `${fileStem(scene.name)}.json`,
			bytes: bytesOf(
				`${JSON.stringify({ format: "mighty-rubble-frames", version: 1, name: scene.name, fps: scene.fps, firstFrame: scene.firstFrame, lastFrame: scene.lastFrame, units: { length: "m", rotation: "quaternion xyzw", up: "y" }, bodies: moving(scene).map(({ path }) => path) })}\n`,
			),
		},
	],
	frame: (scene, frame) => {
		const items = moving(scene);
		const bytes = new Uint8Array(16 + 28 * items.length);
		const view = new DataView(bytes.buffer);
		view.setUint32(0, MAGIC, true);
		view.setUint32(4, 1, true);
		view.setInt32(8, frame, true);
		view.setUint32(12, items.length, true);
		items.forEach((item, n) => {
			const { translation, rotation } = itemPose(scene, item, frame);
			[...translation, ...rotation].forEach((value, k) => {
				view.setFloat32(16 + 28 * n + 4 * k, value, true);
			});
		});
		return { name: `${frameStem(scene, frame)}.mrf`, bytes };
	},
};

const moving = (scene: ExportScene): ExportItem[] => scene.items.filter((item) => scene.tracks[item.track]);
