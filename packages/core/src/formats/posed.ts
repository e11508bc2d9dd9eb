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

/** An item's vertices at a frame in the world, 3 per vertex. */
export function worldPositions(scene: ExportScene, item: ExportItem, frame: number): Float64Array {
	const { translation, rotation } = itemPose(scene, item, frame);
	const { positions } = meshAt(item, frame);
	// Where the axes of its frame go: one product per vertex, without making objects.
	const [a, b, c] = [rotate(rotation, [item.scale, 0, 0]), rotate(rotation, [0, item.scale, 0]), rotate(rotation, [0, 0, item.scale])];
	const out = new Float64Array(positions.length);
	for (let v = 0; v < positions.length; v += 3) {
		const [x, y, z] = [positions[v]!, positions[v + 1]!, positions[v + 2]!];
		for (let k = 0; k < 3; k++) out[v + k] = translation[k]! + x * a[k]! + y * b[k]! + z * c[k]!;
	}
	return out;
}
