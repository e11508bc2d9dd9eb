import { poseAt } from "../bake";
import { type Quat, rotate, type Vec3 } from "../maths";
import type { Mesh } from "../mesh";
import { shapeAt } from "./changing";
import { spaceOf } from "./space";
import type { ExportItem, ExportScene } from "./types";

/** An item's mesh at a frame, in its own frame. */
export const meshAt = ({ changing, mesh }: ExportItem, frame: number): Mesh => (changing ? shapeAt(changing, frame) : mesh);

/** Where an item is at a frame. */
export function itemPose(scene: ExportScene, item: ExportItem, frame: number): { translation: Vec3; rotation: Quat } {
	const track = scene.tracks[item.track];
	return track ? poseAt(track, frame) : item;
}

/** Whether an item is there at a frame: not crumbled, nor still a part of what will. */
export const isThere = ({ goneAt, comesAt }: ExportItem, frame: number): boolean =>
	(goneAt === undefined || frame < goneAt) && (comesAt === undefined || frame >= comesAt);

/** The frames of a range in which it changes whether an item is there, and what it is from each on; none where it is there all the time. */
export function presence(item: ExportItem, { firstFrame, lastFrame }: Pick<ExportScene, "firstFrame" | "lastFrame">) {
	const frames = [item.comesAt, item.goneAt].filter((frame) => frame !== undefined && frame > firstFrame && frame <= lastFrame) as number[];
	const there = isThere(item, firstFrame);
	return there && frames.length === 0 ? [] : [firstFrame, ...frames].map((frame) => ({ frame, there: isThere(item, frame) }));
}

/** An item's vertices at a frame in the world, 3 per vertex, in the file's unit and axes. */
export function worldPositions(scene: ExportScene, item: ExportItem, frame: number): Float64Array {
	const { translation, rotation } = itemPose(scene, item, frame);
	const { place } = spaceOf(scene);
	const { positions } = meshAt(item, frame);
	// What is not there is a point, so that the files of a sequence have the same vertices.
	const scale = isThere(item, frame) ? item.scale : 0;
	// Where the axes of its frame go: one product per vertex, without making objects.
	const [a, b, c] = [rotate(rotation, [scale, 0, 0]), rotate(rotation, [0, scale, 0]), rotate(rotation, [0, 0, scale])].map(place) as [
		Vec3,
		Vec3,
		Vec3,
	];
	const origin = place(translation);
	const out = new Float64Array(positions.length);
	for (let v = 0; v < positions.length; v += 3) {
		const [x, y, z] = [positions[v]!, positions[v + 1]!, positions[v + 2]!];
		for (let k = 0; k < 3; k++) out[v + k] = origin[k]! + x * a[k]! + y * b[k]! + z * c[k]!;
	}
	return out;
}
