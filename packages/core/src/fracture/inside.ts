import { inverse, noise3, type Quat, rotate, type Vec3, vec3 } from "../maths";
import { type Mesh, retile, transformMesh, triangleCount } from "../mesh";
import type { OptionSpec, OptionValues } from "../shot";

/** How the faces that a fracture lays open are drawn; what collides and what weighs stays smooth. */
export interface InsideOptions {
	/** How far the surface departs from the smooth one, metres; 0: smooth. */
	readonly rough: number;
	/** From bump to bump, metres. */
	readonly grain: number;
}

export const INSIDE_OPTIONS: Readonly<Record<keyof InsideOptions, OptionSpec>> = {
	rough: {
		kind: "number",
		label: "Rough",
		unit: "m",
		default: 0,
		least: 0,
		most: 100,
		help: "How far the broken faces depart from flat; what collides stays smooth",
	},
	grain: {
		kind: "number",
		label: "Grain",
		unit: "m",
		default: 0.06,
		least: 0.001,
		most: 1000,
		help: "From bump to bump on the broken faces",
		when: ({ rough }) => Number(rough) > 0,
	},
};

export const insideOptions = ({ rough, grain }: OptionValues): InsideOptions => ({
	rough: typeof rough === "number" ? rough : 0,
	grain: typeof grain === "number" ? grain : (INSIDE_OPTIONS.grain as { default: number }).default,
});

/** Triangles per bump. */
const FINENESS = 2.5;
/** Bumps higher than this share of the grain could fold over: noise climbs by 3 per cell and axis at most. */
const STEEPEST = 0.15;
/** Above this many triangles in one piece the grain is made coarser. */
const MOST_TRIANGLES = 20_000;

/**
 * A piece with rough inside faces. Every point of an inside face is moved by a field of noise that depends on its
 * place alone, so that pieces that have not moved still fit each other; points on the outside stay where they are.
 * The field's slope is below 1, so that no surface folds over itself.
 *
 * `place`: where the piece stands among its like (offset in metres and turn); pieces of one thing share that frame.
 */
export function roughen(mesh: Mesh, { rough, grain }: InsideOptions, place: { readonly offset: Vec3; readonly turn: Quat }): Mesh {
	if (rough <= 0 || !mesh.inside.includes(1)) return mesh;
	const area = insideArea(mesh);
	const edge = Math.max(grain / FINENESS, Math.sqrt(area / (0.43 * MOST_TRIANGLES)));
	const height = Math.min(rough, STEEPEST * edge * FINENESS);
	const fine = retile(transformMesh(mesh, { rotation: place.turn, translation: place.offset }), edge);
	const outside = new Uint8Array(fine.positions.length / 3);
	for (let f = 0; f < triangleCount(fine); f++)
		if (fine.inside[f] !== 1) for (let c = 0; c < 3; c++) outside[fine.triangles[3 * f + c]!] = 1;
	const scale = 1 / (edge * FINENESS);
	for (let v = 0; v < outside.length; v++) {
		if (outside[v] === 1) continue;
		const [x, y, z] = [0, 1, 2].map((k) => scale * fine.positions[3 * v + k]!) as [number, number, number];
		for (let k = 0; k < 3; k++) fine.positions[3 * v + k]! += height * noise3(x, y, z, 71 + k);
	}
	const back = inverse(place.turn);
	return transformMesh(fine, { rotation: back, translation: rotate(back, vec3.scale(place.offset, -1)) });
}

function insideArea({ positions: p, triangles: t, inside }: Mesh): number {
	let sum = 0;
	for (let f = 0; f < inside.length; f++) {
		if (inside[f] !== 1) continue;
		const [a, b, c] = [0, 1, 2].map((k) => 3 * t[3 * f + k]!) as [number, number, number];
		const e: Vec3 = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!];
		const g: Vec3 = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!];
		sum += vec3.length(vec3.cross(e, g)) / 2;
	}
	return sum;
}
