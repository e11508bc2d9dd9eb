import { breakMesh, type FractureMethod, type Pieces } from "../fracture";
import { type Mesh, topology, volume } from "../mesh";
import { shapeById } from "../shapes";
import type { OptionValues } from "../shot";
import { fromSolid, loadSolids, type Solids, scoped, toSolid } from "../solid";

const box = (width: number, height: number, depth: number): Mesh => shapeById("box")!.build({ width, height, depth }, {});

/** Breaks a mesh, or throws the sentence that says why not. */
export async function breakSoundly(
	method: FractureMethod,
	mesh: Mesh,
	options: OptionValues = {},
	cutters: readonly Mesh[] = [],
): Promise<Pieces> {
	const result = await breakMesh(await loadSolids(), mesh, method, options, { cutters });
	if (!result.ok) throw new Error(result.problems[0]!.message);
	return result.value;
}

/** A block with a tunnel through it and a notch: concave, of genus one. No face of these lies where a cut would. */
export const tunnelled = (solids: Solids): Mesh =>
	scoped((keep) => {
		const block = keep(toSolid(solids, box(2, 1, 1)));
		const bar = keep(keep(toSolid(solids, box(0.513, 0.4137, 3))).translate([0.3071, 0.0113, 0]));
		const notch = keep(keep(toSolid(solids, box(0.6131, 0.6177, 0.6093))).translate([-1, 0.5, 0.5]));
		return fromSolid(keep(keep(block.subtract(bar)).subtract(notch)));
	});

/** Closed pieces that fill the source to a millionth; faces in common that both sides have. */
export function expectSound(mesh: Mesh, { pieces, contacts, lacking, sourceVolume }: Pieces): void {
	expect(sourceVolume).toBeCloseTo(volume(mesh), 9);
	expect(Math.abs(lacking) / sourceVolume).toBeLessThan(1e-6);
	for (const piece of pieces) expect([piece.name, topology(piece.mesh).closed, piece.volume > 0]).toEqual([piece.name, true, true]);
	for (const { a, b, area, normal } of contacts) {
		expect(a).toBeLessThan(b);
		expect(area).toBeGreaterThan(0);
		expect(Math.hypot(...normal)).toBeCloseTo(1, 5);
	}
	const inner = pieces.reduce((sum, piece) => sum + insideArea(piece.mesh), 0);
	const shared = contacts.reduce((sum, contact) => sum + contact.area, 0);
	expect((2 * shared) / Math.max(inner, 1e-12)).toBeCloseTo(inner > 0 ? 1 : 0, 4);
}

/** Area of the faces that a fracture laid open, m². */
export function insideArea({ positions: p, triangles: t, inside }: Mesh): number {
	let sum = 0;
	for (let f = 0; f < inside.length; f++) {
		if (inside[f] !== 1) continue;
		const [a, b, c] = [t[3 * f]! * 3, t[3 * f + 1]! * 3, t[3 * f + 2]! * 3];
		const e = [0, 1, 2].map((k) => p[b + k]! - p[a + k]!);
		const g = [0, 1, 2].map((k) => p[c + k]! - p[a + k]!);
		sum += Math.hypot(e[1]! * g[2]! - e[2]! * g[1]!, e[2]! * g[0]! - e[0]! * g[2]!, e[0]! * g[1]! - e[1]! * g[0]!) / 2;
	}
	return sum;
}
