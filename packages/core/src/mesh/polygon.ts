/**
 * What two triangles in a plane have in common, as a convex polygon of u, v in turn (Sutherland and Hodgman 1974); empty
 * where they do not meet. Corners as 6 numbers, in any order of turning; the polygon turns as the first triangle does.
 */
export function commonPolygon(one: readonly number[], other: readonly number[]): number[] {
	const turn = (c: readonly number[]) => (c[2]! - c[0]!) * (c[5]! - c[1]!) - (c[4]! - c[0]!) * (c[3]! - c[1]!);
	const clipper = turn(other) >= 0 ? other : [other[0]!, other[1]!, other[4]!, other[5]!, other[2]!, other[3]!];
	let polygon = [...one];
	for (let e = 0; e < 3 && polygon.length > 0; e++) {
		const [ax, ay] = [clipper[2 * e]!, clipper[2 * e + 1]!];
		const [bx, by] = [clipper[(2 * e + 2) % 6]!, clipper[(2 * e + 3) % 6]!];
		const side = (x: number, y: number) => (bx - ax) * (y - ay) - (by - ay) * (x - ax);
		const kept: number[] = [];
		for (let i = 0; i < polygon.length; i += 2) {
			const [x, y] = [polygon[i]!, polygon[i + 1]!];
			const j = (i + 2) % polygon.length;
			const [nx, ny] = [polygon[j]!, polygon[j + 1]!];
			const [here, next] = [side(x, y), side(nx, ny)];
			if (here >= 0) kept.push(x, y);
			if (here >= 0 !== next >= 0) {
				const t = here / (here - next);
				kept.push(x + t * (nx - x), y + t * (ny - y));
			}
		}
		polygon = kept;
	}
	return polygon;
}

/** Area, middle and second moments about the middle (∫u², ∫v², ∫uv) of a polygon of u, v in turn. */
export interface PolygonMoments {
	readonly area: number;
	readonly middle: readonly [number, number];
	readonly second: readonly [number, number, number];
}

/** By Green's theorem, edge by edge. */
export function polygonMoments(polygon: readonly number[]): PolygonMoments {
	const [ou, ov] = [polygon[0] ?? 0, polygon[1] ?? 0];
	let [area, mu, mv, uu, vv, uv] = [0, 0, 0, 0, 0, 0];
	for (let i = 0; i < polygon.length; i += 2) {
		const j = (i + 2) % polygon.length;
		const [u, v, nu, nv] = [polygon[i]! - ou, polygon[i + 1]! - ov, polygon[j]! - ou, polygon[j + 1]! - ov];
		const w = u * nv - nu * v;
		area += w / 2;
		mu += (w / 6) * (u + nu);
		mv += (w / 6) * (v + nv);
		uu += (w / 12) * (u * u + u * nu + nu * nu);
		vv += (w / 12) * (v * v + v * nv + nv * nv);
		uv += (w / 24) * (u * nv + 2 * u * v + 2 * nu * nv + nu * v);
	}
	if (area === 0) return { area: 0, middle: [0, 0], second: [0, 0, 0] };
	const [u, v] = [mu / area, mv / area];
	const sign = area < 0 ? -1 : 1;
	return {
		area: Math.abs(area),
		middle: [ou + u, ov + v],
		second: [sign * (uu - area * u * u), sign * (vv - area * v * v), sign * (uv - area * u * v)],
	};
}
