import { type Body, bodyPose } from "../../bodies";
import { rotate, type Vec3, vec3 } from "../../maths";
import { type Bounds, bounds, hullDistance } from "../../mesh";
import { type Shot, setBody } from "../../shot";
import { Kind } from "../scene";
import { worldIds, worldName } from "./nothingBelow";
import type { Check, Finding } from "./types";

/** Things this near at the start were meant to touch: a share of the smaller one's size. */
const NEAR = 0.02;
/** More pairs than this say no more. */
const MOST_PAIRS = 2000;

/** Things of two worlds that stand on or in each other at the start: they will pass through one another. */
export const worldsMeet: Check = {
	id: "worlds-meet",
	find: ({ shot, built, scene }): Finding[] => {
		if (!scene || new Set(scene.world).size < 2) return [];
		const bodies = new Map(built.bodies.map((body) => [body.id, body]));
		const boxes = new Map<number, Bounds & { readonly points: Float32Array }>();
		const boxOf = (i: number) => {
			const known = boxes.get(i) ?? boxAt(shot, bodies.get(scene.ids[i]!)!);
			boxes.set(i, known);
			return known;
		};
		const active = [...scene.kind.keys()].filter((i) => i < scene.shown && scene.kind[i] === Kind.Active);
		let pairs = 0;
		const apart: [number, number][] = [];
		for (const i of active)
			for (let j = 0; j < scene.shown && pairs < MOST_PAIRS; j++) {
				if (scene.world[i] === scene.world[j] || (scene.kind[j] === Kind.Active && j < i)) continue;
				const reach = NEAR * scene.size[i]!;
				const one = boxOf(i);
				// Endless ground is a plane.
				if (!Number.isFinite(scene.thickness[j]!)) {
					if (one.min[1] - scene.position[3 * j + 1]! < reach) apart.push([i, j]);
					continue;
				}
				const other = boxOf(j);
				if ([0, 1, 2].some((k) => one.min[k]! > other.max[k]! + reach || other.min[k]! > one.max[k]! + reach)) continue;
				pairs++;
				if (hullDistance(one.points, other.points) <= reach) apart.push([i, j]);
			}
		if (apart.length === 0) return [];
		const [i, j] = apart[0]!;
		const more = apart.length > 1 ? `, and ${apart.length - 1} more ${apart.length === 2 ? "pair" : "pairs"} so` : "";
		const movers = [...new Set(apart.map(([body]) => bodies.get(scene.ids[body]!)!.object))];
		return [
			{
				check: "worlds-meet",
				level: "warning",
				about: [scene.ids[i]!, scene.ids[j]!],
				message: `${scene.paths[i]} stands at ${scene.paths[j]}${more}, but they belong to different worlds: they will pass through each other.`,
				fixes: [
					{
						label: `Into ${worldName(shot, scene.world[j]!)}`,
						command: setBody(movers, { world: worldIds(shot)[scene.world[j]! - 1] }),
					},
				],
			},
		];
	},
};

/** The corners of a body's mesh in the world at the start, and the box around them. */
function boxAt(shot: Shot, body: Body): Bounds & { readonly points: Float32Array } {
	const { translation, rotation } = bodyPose(shot, body, 0);
	const { positions } = body.mesh;
	const points = new Float32Array(positions.length);
	for (let v = 0; v < points.length; v += 3) {
		const local: Vec3 = [positions[v]! * body.scale, positions[v + 1]! * body.scale, positions[v + 2]! * body.scale];
		points.set(vec3.add(translation, rotate(rotation, local)), v);
	}
	return { ...bounds({ positions: points }), points };
}
