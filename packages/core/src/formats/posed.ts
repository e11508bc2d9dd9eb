import { poseAt } from "../bake";
import { type Quat, rotate, type Vec3 } from "../maths";
import type { Mesh } from "../mesh";
import { shapeAt } from "./changing";
import type { ExportItem, ExportScene } from "./types";

/** An item's mesh at a frame, in its own frame. */
export const meshAt = ({ changing, mesh }: ExportItem, frame: number): Mesh => (changing ? shapeAt(changing, frame) : mesh);

/** Where an item is at a frame. */
export function itemPose(scene: ExportScene, item: ExportItem, frame: number): { translation: Vec3; rotation: Quat } {
	const track = scene.tracks[item.track];
	return track ? poseAt(track, frame) : item;
}

/** Whether an item has turned to dust. */
export const isGone = ({ goneAt }: ExportItem, frame: number): boolean => goneAt !== undefined && frame >= goneAt;

/** An item's vertices at a frame in the world, 3 per vertex. */
export function worldPositions(scene: ExportScene, item: ExportItem, frame: number): Float64Array {
	const { translation, rotation } = itemPose(scene, item, frame);
	const { positions } = meshAt(item, frame);
	// What is dust is a point, so that the files of a sequence have the same vertices.
	const scale = isGone(item, frame) ? 0 : item.scale;
	// Where the axes of its frame go: one product per vertex, without making objects.
	const [a, b, c] = [rotate(rotation, [scale, 0, 0]), rotate(rotation, [0, scale, 0]), rotate(rotation, [0, 0, scale])];
	const out = new Float64Array(positions.length);
	for (let v = 0; v < positions.length; v += 3) {
		const [x, y, z] = [positions[v]!, positions[v + 1]!, positions[v + 2]!];
		for (let k = 0; k < 3; k++) out[v + k] = translation[k]! + x * a[k]! + y * b[k]! + z * c[k]!;
	}
	return out;
}
