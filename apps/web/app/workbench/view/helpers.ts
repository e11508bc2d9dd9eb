import { cameraPose, fieldOfViewAt, type Pose, worldPose, worldScale } from "@rubble/core/animation";
import { rotate, type Vec3, vec3 } from "@rubble/core/maths";
import type { Id, Shot, Ticks } from "@rubble/core/shot";

const SIZE = 0.25; // metres
const PICTURE = 16 / 9;

/**
 * Beacons as crosses, cameras as the pyramid that they see with a line to what they aim at, lights as a star with the
 * way they shine, regions as their outline, forces as a ring with an arrow; in the world, point lists. None for other objects.
 * `edgesOf`: of an object whose form a region has, in its own frame.
 */
export function helperLines(shot: Shot, tick: Ticks, id: Id, edgesOf: (object: Id) => readonly (readonly Vec3[])[]): Vec3[][] {
	const { source } = shot.objects[id]!;
	switch (source.kind) {
		case "beacon":
			return cross(worldPose(shot, id, tick).translation);
		case "camera":
			return pyramid(shot, id, tick, fieldOfViewAt(shot, id, tick), source.aim);
		case "light":
			return star(worldPose(shot, id, tick), source.light === "sun");
		case "force":
			return forceSymbol(worldPose(shot, id, tick));
		case "region":
			return source.form === "solid"
				? placed(shot, id, tick, source.solid === undefined ? [] : edgesOf(source.solid))
				: regionOutline(shot, id, tick, source.form);
		default:
			return [];
	}
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

/** Rays all around, and one three times as long along which a sun shines. */
function star({ translation, rotation }: Pose, directed: boolean): Vec3[][] {
	const rays = [0, 1, 2, 3].map((i) => {
		const [x, y] = [Math.cos((i * Math.PI) / 4), Math.sin((i * Math.PI) / 4)];
		return [-1, 1].map((side) => vec3.add(translation, rotate(rotation, [(side * x * SIZE) / 3, (side * y * SIZE) / 3, 0])));
	});
	return directed ? [...rays, [translation, vec3.add(translation, rotate(rotation, [0, 0, -3 * SIZE]))]] : rays;
}

/** A ring around its upright axis, with an arrow along it. */
function forceSymbol({ translation, rotation }: Pose): Vec3[][] {
	const at = (x: number, y: number, z: number) => vec3.add(translation, rotate(rotation, [SIZE * x, SIZE * y, SIZE * z]));
	const ring = Array.from({ length: CIRCLE / 2 + 1 }, (_, i) => {
		const a = (4 * Math.PI * i) / CIRCLE;
		return at(0.4 * Math.cos(a), 0, 0.4 * Math.sin(a));
	});
	return [ring, [at(0, 0, 0), at(0, 1, 0)], [at(-0.12, 0.8, 0), at(0, 1, 0), at(0.12, 0.8, 0)]];
}

const CIRCLE = 48;

/** Lines in the frame of a region as ones of the world. */
function placed(shot: Shot, id: Id, tick: Ticks, lines: readonly (readonly Vec3[])[]): Vec3[][] {
	const { translation, rotation } = worldPose(shot, id, tick);
	const size = worldScale(shot, id);
	return lines.map((line) => line.map((point) => vec3.add(translation, rotate(rotation, vec3.multiply(point, size)))));
}

function regionOutline(shot: Shot, id: Id, tick: Ticks, form: "box" | "ball"): Vec3[][] {
	const { translation, rotation } = worldPose(shot, id, tick);
	const half = vec3.scale(worldScale(shot, id), 0.5);
	const at = (x: number, y: number, z: number) => vec3.add(translation, rotate(rotation, vec3.multiply([x, y, z], half)));
	if (form === "ball")
		return [0, 1, 2].map((axis) =>
			Array.from({ length: CIRCLE + 1 }, (_, i) => {
				const [c, s] = [Math.cos((2 * Math.PI * i) / CIRCLE), Math.sin((2 * Math.PI * i) / CIRCLE)];
				return axis === 0 ? at(0, c, s) : axis === 1 ? at(c, 0, s) : at(c, s, 0);
			}),
		);
	const ring = (y: number) => [at(-1, y, -1), at(1, y, -1), at(1, y, 1), at(-1, y, 1), at(-1, y, -1)];
	const posts = [
		[-1, -1],
		[1, -1],
		[1, 1],
		[-1, 1],
	].map(([x, z]) => [at(x!, -1, z!), at(x!, 1, z!)]);
	return [ring(-1), ring(1), ...posts];
}
