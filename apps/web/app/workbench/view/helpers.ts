import { cameraPose, worldPose } from "@rubble/core/animation";
import { rotate, type Vec3, vec3 } from "@rubble/core/maths";
import type { Id, Shot, Ticks } from "@rubble/core/shot";

const SIZE = 0.25; // metres
const PICTURE = 16 / 9;

/** Beacons as crosses, cameras as the pyramid that they see, with a line to what they aim at; in the world, point lists. */
export function helperLines(shot: Shot, tick: Ticks, through: string): Vec3[][] {
	return Object.entries(shot.objects).flatMap(([id, { source, hidden }]): Vec3[][] => {
		if (hidden || id === through) return [];
		if (source.kind === "beacon") return cross(worldPose(shot, id, tick).translation);
		return source.kind === "camera" ? pyramid(shot, id, tick, source.fieldOfView, source.aim) : [];
	});
}

const cross = (at: Vec3): Vec3[][] =>
	[0, 1, 2].map((axis) => [-1, 1].map((side) => at.map((x, k) => (k === axis ? x + (side * SIZE) / 2 : x)) as unknown as Vec3));

function pyramid(shot: Shot, id: Id, tick: Ticks, fieldOfView: number, aim: Id | null): Vec3[][] {
	const { translation, rotation } = cameraPose(shot, id, tick);
	const up = SIZE * Math.tan((fieldOfView * Math.PI) / 360);
	const corners = [
		[-1, -1],
		[1, -1],
		[1, 1],
		[-1, 1],
	].map(([x, y]) => vec3.add(translation, rotate(rotation, [x! * up * PICTURE, y! * up, -SIZE])));
	const roof = [-0.5, 0.5, 0].map((x, i) => vec3.add(translation, rotate(rotation, [x * up, up * (i === 2 ? 1.6 : 1.15), -SIZE])));
	const lines = [[...corners, corners[0]!], [...roof, roof[0]!], ...corners.map((corner) => [translation, corner])];
	if (aim !== null && shot.objects[aim]) lines.push([translation, worldPose(shot, aim, tick).translation]);
	return lines;
}
