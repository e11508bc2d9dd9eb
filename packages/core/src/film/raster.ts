/** A corner of a triangle on its way to the picture. */
export interface Corner {
	/** Pixels, from the upper left. */
	readonly x: number;
	readonly y: number;
	/** 1 / depth for pictures in perspective, a height above the plane for parallel ones: the larger, the nearer. */
	readonly near: number;
}

/** What lies on an edge belongs to both sides: rounding must not leave a hole between triangles. */
const EDGE = -1e-7;

/**
 * Goes over the pixels whose middle is in a triangle, from either side, with the weights of its corners (linear in the
 * picture) and the nearness there. Pineda 1988, "A parallel algorithm for polygon rasterization".
 */
export function overTriangle(
	[a, b, c]: readonly [Corner, Corner, Corner],
	width: number,
	height: number,
	visit: (pixel: number, near: number, w0: number, w1: number, w2: number) => void,
): void {
	const area = (b.x - a.x) * (c.y - a.y) - (c.x - a.x) * (b.y - a.y);
	if (area === 0) return;
	const left = Math.max(0, Math.ceil(Math.min(a.x, b.x, c.x) - 0.5));
	const right = Math.min(width - 1, Math.floor(Math.max(a.x, b.x, c.x) - 0.5));
	const top = Math.max(0, Math.ceil(Math.min(a.y, b.y, c.y) - 0.5));
	const bottom = Math.min(height - 1, Math.floor(Math.max(a.y, b.y, c.y) - 0.5));
	const [da, db] = [(b.y - c.y) / area, (c.y - a.y) / area];
	for (let y = top; y <= bottom; y++) {
		const py = y + 0.5;
		let w0 = ((b.x - (left + 0.5)) * (c.y - py) - (c.x - (left + 0.5)) * (b.y - py)) / area;
		let w1 = ((c.x - (left + 0.5)) * (a.y - py) - (a.x - (left + 0.5)) * (c.y - py)) / area;
		for (let x = left; x <= right; x++) {
			const w2 = 1 - w0 - w1;
			if (w0 >= EDGE && w1 >= EDGE && w2 >= EDGE) visit(y * width + x, w0 * a.near + w1 * b.near + w2 * c.near, w0, w1, w2);
			w0 += da;
			w1 += db;
		}
	}
}
