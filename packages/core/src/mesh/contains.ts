import { bounds, boundsSize } from "./measure";
import type { Mesh } from "./types";

/**
 * Answers whether points lie inside a closed mesh: parity of the crossings of an upright line, with the triangles
 * sorted into columns so that one answer costs about the square root of their number.
 */
export function containment(mesh: Mesh): (x: number, y: number, z: number) => boolean {
	const { positions: p, triangles: t } = mesh;
	const box = bounds(mesh);
	const [width, , depth] = boundsSize(box);
	const side = Math.max(1, Math.min(256, Math.floor(Math.sqrt(t.length / 3 / 2))));
	const hx = Math.max(width / side, 1e-300);
	const hz = Math.max(depth / side, 1e-300);
	const column = (value: number, origin: number, h: number) => Math.min(side - 1, Math.max(0, Math.floor((value - origin) / h)));
	const columns: number[][] = Array.from({ length: side * side }, () => []);
	for (let f = 0; f < t.length; f += 3) {
		const [a, b, c] = [t[f]! * 3, t[f + 1]! * 3, t[f + 2]! * 3];
		const x0 = column(Math.min(p[a]!, p[b]!, p[c]!), box.min[0], hx);
		const x1 = column(Math.max(p[a]!, p[b]!, p[c]!), box.min[0], hx);
		const z0 = column(Math.min(p[a + 2]!, p[b + 2]!, p[c + 2]!), box.min[2], hz);
		const z1 = column(Math.max(p[a + 2]!, p[b + 2]!, p[c + 2]!), box.min[2], hz);
		for (let k = z0; k <= z1; k++) for (let i = x0; i <= x1; i++) columns[i + side * k]!.push(f);
	}
	return (px, y, pz) => {
		// A line through an edge would cross two triangles at once: it is moved by less than the mesh's own rounding.
		const x = px + 1.37e-7 * width;
		const z = pz + 0.83e-7 * depth;
		if (x < box.min[0] || x > box.max[0] || z < box.min[2] || z > box.max[2] || y < box.min[1] || y > box.max[1]) return false;
		let odd = false;
		for (const f of columns[column(x, box.min[0], hx) + side * column(z, box.min[2], hz)]!) {
			const [a, b, c] = [t[f]! * 3, t[f + 1]! * 3, t[f + 2]! * 3];
			const det = (p[b]! - p[a]!) * (p[c + 2]! - p[a + 2]!) - (p[b + 2]! - p[a + 2]!) * (p[c]! - p[a]!);
			if (det === 0) continue;
			const s = ((x - p[a]!) * (p[c + 2]! - p[a + 2]!) - (z - p[a + 2]!) * (p[c]! - p[a]!)) / det;
			const r = ((p[b]! - p[a]!) * (z - p[a + 2]!) - (p[b + 2]! - p[a + 2]!) * (x - p[a]!)) / det;
			if (s < 0 || r < 0 || s + r > 1) continue;
			if (p[a + 1]! + s * (p[b + 1]! - p[a + 1]!) + r * (p[c + 1]! - p[a + 1]!) > y) odd = !odd;
		}
		return odd;
	};
}
