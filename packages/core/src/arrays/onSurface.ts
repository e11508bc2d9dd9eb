import { bad, good } from "../common";
import { fromTo, IDENTITY, random, type Vec3, vec3 } from "../maths";
import type { Mesh } from "../mesh";
import { keepRoom } from "./room";
import { countSpec, lengthSpec } from "./specs";
import { type Layout, makePlaces } from "./types";

/** Tries for each copy before the surface counts as full. */
const TRIES = 30;

/** Copies strewn over the surface of other objects, evenly by area. */
export const onSurface: Layout = {
	id: "surface",
	label: "On a surface",
	help: "Strewn over other objects, evenly by area",
	options: {
		on: { kind: "objects", label: "On", help: "The objects whose surface carries the copies" },
		count: countSpec("Copies", 60, "How many; fewer where there is no room for more"),
		room: lengthSpec("Least room", 0, "No two middles are nearer than this; 0 lets them overlap"),
		lift: lengthSpec("Above", 0, "From the surface to the copy's middle", { least: -10_000 }),
		facing: {
			kind: "choice",
			label: "Standing",
			help: "Which way is up for the copies",
			default: "surface",
			choices: [
				{ id: "surface", label: "On the slope", help: "Across the surface, whichever way it leans" },
				{ id: "upright", label: "Upright", help: "None is tilted; only the upper side is strewn" },
			],
		},
	},
	suggest: ({ min }) => ({ lift: Number((-min[1]).toPrecision(4)) }),
	place({ targets }, options) {
		if (targets.length === 0) return bad("Choose the objects that carry the copies under “On”.");
		const { count, room, lift, seed } = options as Record<string, number>;
		const upright = options.facing === "upright";
		const faces = targets.flatMap((mesh) => facesOf(mesh, upright));
		const sums: number[] = [];
		let total = 0;
		for (const face of faces) {
			total += face.area;
			sums.push(total);
		}
		if (total === 0) return bad(upright ? "Nothing of the objects under “On” faces up." : "The objects under “On” have no surface.");
		const fits = keepRoom(room!);
		const places = makePlaces();
		for (let i = 0; i < count!; i++)
			for (let tried = 0; tried < (room! > 0 ? TRIES : 1); tried++) {
				const item = i * TRIES + tried;
				const face = faces[indexOf(sums, random(seed!, item, 0) * total)]!;
				const r = Math.sqrt(random(seed!, item, 1));
				const s = random(seed!, item, 2);
				const on = vec3.add(
					vec3.add(vec3.scale(face.corners[0], 1 - r), vec3.scale(face.corners[1], r * (1 - s))),
					vec3.scale(face.corners[2], r * s),
				);
				const up: Vec3 = upright ? [0, 1, 0] : face.normal;
				const at = vec3.add(on, vec3.scale(up, lift!));
				if (!fits(at)) continue;
				places.add(at, upright ? IDENTITY : fromTo([0, 1, 0], up));
				break;
			}
		return good(places.done());
	},
};

interface Face {
	readonly corners: readonly [Vec3, Vec3, Vec3];
	readonly normal: Vec3;
	readonly area: number;
}

function facesOf({ positions: p, triangles: t }: Mesh, upright: boolean): Face[] {
	const faces: Face[] = [];
	const corner = (v: number): Vec3 => [p[3 * v]!, p[3 * v + 1]!, p[3 * v + 2]!];
	for (let f = 0; f < t.length; f += 3) {
		const corners = [corner(t[f]!), corner(t[f + 1]!), corner(t[f + 2]!)] as const;
		const across = vec3.cross(vec3.subtract(corners[1], corners[0]), vec3.subtract(corners[2], corners[0]));
		const normal = vec3.normalize(across);
		if (upright && normal[1] < 0.2) continue;
		faces.push({ corners, normal, area: vec3.length(across) / 2 });
	}
	return faces;
}

/** The first entry of rising sums that is above a value. */
function indexOf(sums: readonly number[], value: number): number {
	let [low, high] = [0, sums.length - 1];
	while (low < high) {
		const middle = (low + high) >> 1;
		if (sums[middle]! > value) high = middle;
		else low = middle + 1;
	}
	return low;
}
