import { eightBits, type Pixels } from "../colouring";
import { rotate, tan, type Vec3, vec3 } from "../maths";
import { type Corner, overTriangle } from "./raster";
import { castShadows, type Shadows } from "./shadow";
import type { FilmItem, FilmView } from "./types";

/** Each pixel is the mean of so many by so many. */
const FINE = 2;
/** Nearer than this is not drawn, metres. */
const NEAR = 0.01;
/** Fog begins and is thickest here, metres: the ground meets the backdrop without an edge. */
const FOG = [30, 140] as const;
/** Light from above and from below, and how much of either there is beside the sun. Linear RGB. */
const ABOVE: Vec3 = [0.904, 0.923, 0.923];
const BELOW: Vec3 = [0.337, 0.323, 0.254];
const SKY = 1.7;
const ALL = 0.2;
/** How dark a shadow on no ground is. */
const CAUGHT = 0.28;

interface Buffer {
	readonly width: number;
	readonly height: number;
	/** 1 / depth; 0 where nothing is. */
	readonly near: Float32Array;
	/** 3 per pixel: unit length as 32,767. */
	readonly normals: Int16Array;
	/** 3 per pixel: linear, 1 as 65,535. */
	readonly colours: Uint16Array;
}

/**
 * Draws what is to be seen at a frame, without a graphics card, the same bytes everywhere: triangles into a depth buffer
 * (Catmull 1974), then light for each pixel that is seen: sky, sun with shadows, lamps; matte surfaces (Lambert).
 */
export function drawFrame(items: readonly FilmItem[], view: FilmView, frame: number): Pixels {
	const camera = view.cameraAt(frame);
	const [width, height] = [view.width * FINE, view.height * FINE];
	const buffer: Buffer = {
		width,
		height,
		near: new Float32Array(width * height),
		normals: new Int16Array(3 * width * height),
		colours: new Uint16Array(3 * width * height),
	};
	const lens: Lens = {
		from: camera.translation,
		right: rotate(camera.rotation, [1, 0, 0]),
		up: rotate(camera.rotation, [0, 1, 0]),
		ahead: rotate(camera.rotation, [0, 0, -1]),
		pixels: height / 2 / tan((camera.fieldOfView * Math.PI) / 360),
	};
	const placed = items.map(worldOf);
	for (const [n, { positions, normals }] of placed.entries()) drawItem(buffer, lens, items[n]!, positions, normals);
	const sun = view.sunAt(frame);
	const [middle, radius] = roundAll(placed.map(({ positions }) => positions));
	const shadows =
		sun &&
		castShadows(
			sun,
			items.map((item, n) => trianglesOf(item, placed[n]!.positions)),
			middle,
			radius,
		);
	return develop(buffer, lens, view, frame, shadows);
}

interface Lens {
	readonly from: Vec3;
	readonly right: Vec3;
	readonly up: Vec3;
	readonly ahead: Vec3;
	/** Pixels of something a metre wide at a depth of a metre. */
	readonly pixels: number;
}

function worldOf({ positions, normals, translation, rotation, scale }: FilmItem) {
	const axes = [rotate(rotation, [1, 0, 0]), rotate(rotation, [0, 1, 0]), rotate(rotation, [0, 0, 1])] as const;
	const turned = (from: ArrayLike<number>, size: number, at: Vec3): Float64Array => {
		const out = new Float64Array(from.length);
		for (let v = 0; v < from.length; v += 3)
			for (let k = 0; k < 3; k++)
				out[v + k] = at[k]! + size * (from[v]! * axes[0][k]! + from[v + 1]! * axes[1][k]! + from[v + 2]! * axes[2][k]!);
		return out;
	};
	return { positions: turned(positions, scale, translation), normals: turned(normals, 1, vec3.ZERO) };
}

/** A vertex in the camera's frame, with what is mixed between corners. */
interface Seen {
	readonly x: number;
	readonly y: number;
	readonly depth: number;
	/** Weights of the triangle's corners here: other than 0 and 1 where it was cut off at the camera. */
	readonly weights: Vec3;
}

const CORNERS: readonly Vec3[] = [
	[1, 0, 0],
	[0, 1, 0],
	[0, 0, 1],
];

function drawItem(buffer: Buffer, lens: Lens, { indices, paint }: FilmItem, positions: Float64Array, normals: Float64Array): void {
	const { width, height, near, colours } = buffer;
	const count = positions.length / 3;
	const seen = new Float64Array(3 * count);
	for (let v = 0; v < count; v++) {
		const [x, y, z] = [positions[3 * v]! - lens.from[0], positions[3 * v + 1]! - lens.from[1], positions[3 * v + 2]! - lens.from[2]];
		for (const [k, axis] of [lens.right, lens.up, lens.ahead].entries()) seen[3 * v + k] = axis[0] * x + axis[1] * y + axis[2] * z;
	}
	const rgb: [number, number, number] = [0, 0, 0];
	const onPicture = ({ x, y, depth }: Seen): Corner => ({
		x: width / 2 + (lens.pixels * x) / depth,
		y: height / 2 - (lens.pixels * y) / depth,
		near: 1 / depth,
	});
	for (let t = 0; t < indices.length; t += 3) {
		const own = [indices[t]!, indices[t + 1]!, indices[t + 2]!] as const;
		const polygon = cutNear(own.map((v, k) => ({ x: seen[3 * v]!, y: seen[3 * v + 1]!, depth: seen[3 * v + 2]!, weights: CORNERS[k]! })));
		for (let k = 2; k < polygon.length; k++) {
			const corners = [polygon[0]!, polygon[k - 1]!, polygon[k]!] as const;
			const [c0, c1, c2] = [corners[0].weights, corners[1].weights, corners[2].weights];
			const at = [onPicture(corners[0]), onPicture(corners[1]), onPicture(corners[2])] as const;
			overTriangle(at, width, height, (pixel, nearness, w0, w1, w2) => {
				if (nearness <= near[pixel]!) return;
				near[pixel] = nearness;
				// What is linear in the picture is not on the triangle: weights by nearness (Blinn 1992, hyperbolic interpolation).
				const p0 = (w0 * at[0].near) / nearness;
				const p1 = (w1 * at[1].near) / nearness;
				const p2 = (w2 * at[2].near) / nearness;
				const b0 = p0 * c0[0] + p1 * c1[0] + p2 * c2[0];
				const b1 = p0 * c0[1] + p1 * c1[1] + p2 * c2[1];
				const b2 = p0 * c0[2] + p1 * c1[2] + p2 * c2[2];
				keepNormal(buffer, pixel, normals, own, b0, b1, b2);
				paint(t / 3, b0, b1, b2, rgb);
				for (let c = 0; c < 3; c++) colours[3 * pixel + c] = Math.round(65_535 * Math.min(1, Math.max(0, rgb[c]!)));
			});
		}
	}
}

/** The part of a triangle before the camera (Sutherland and Hodgman 1974): 0, 3 or 4 corners. */
function cutNear(corners: readonly Seen[]): readonly Seen[] {
	if (corners.every(({ depth }) => depth >= NEAR)) return corners;
	const kept: Seen[] = [];
	corners.forEach((a, k) => {
		const b = corners[(k + 1) % corners.length]!;
		if (a.depth >= NEAR) kept.push(a);
		if (a.depth >= NEAR === b.depth >= NEAR) return;
		const s = (NEAR - a.depth) / (b.depth - a.depth);
		kept.push({ x: a.x + s * (b.x - a.x), y: a.y + s * (b.y - a.y), depth: NEAR, weights: vec3.mix(a.weights, b.weights, s) });
	});
	return kept;
}

function keepNormal(
	{ normals: into }: Buffer,
	pixel: number,
	normals: Float64Array,
	[v0, v1, v2]: readonly [number, number, number],
	b0: number,
	b1: number,
	b2: number,
): void {
	const x = b0 * normals[3 * v0]! + b1 * normals[3 * v1]! + b2 * normals[3 * v2]!;
	const y = b0 * normals[3 * v0 + 1]! + b1 * normals[3 * v1 + 1]! + b2 * normals[3 * v2 + 1]!;
	const z = b0 * normals[3 * v0 + 2]! + b1 * normals[3 * v1 + 2]! + b2 * normals[3 * v2 + 2]!;
	const length = Math.sqrt(x * x + y * y + z * z) || 1;
	into[3 * pixel] = Math.round((32_767 * x) / length);
	into[3 * pixel + 1] = Math.round((32_767 * y) / length);
	into[3 * pixel + 2] = Math.round((32_767 * z) / length);
}

/** Triangles of an item, 9 numbers each. */
function trianglesOf({ indices }: FilmItem, positions: Float64Array): Float64Array {
	const out = new Float64Array(3 * indices.length);
	for (let i = 0; i < indices.length; i++) for (let k = 0; k < 3; k++) out[3 * i + k] = positions[3 * indices[i]! + k]!;
	return out;
}

/** A ball that holds everything. */
function roundAll(all: readonly Float64Array[]): readonly [Vec3, number] {
	const low = [Infinity, Infinity, Infinity];
	const high = [-Infinity, -Infinity, -Infinity];
	for (const positions of all)
		for (let i = 0; i < positions.length; i++) {
			low[i % 3] = Math.min(low[i % 3]!, positions[i]!);
			high[i % 3] = Math.max(high[i % 3]!, positions[i]!);
		}
	if (!Number.isFinite(low[0]!)) return [vec3.ZERO, 1];
	const middle = low.map((value, k) => (value + high[k]!) / 2) as unknown as Vec3;
	return [middle, Math.max(0.01, vec3.length(low.map((value, k) => (high[k]! - value) / 2) as unknown as Vec3))];
}

/** Light on every pixel, and several of them made into one. Scalars throughout: it is done some million times. */
function develop(buffer: Buffer, lens: Lens, view: FilmView, frame: number, shadows: Shadows | undefined): Pixels {
	const { width, height, near, normals, colours } = buffer;
	const sun = view.sunAt(frame);
	const lamps = view.lampsAt(frame);
	const [sx, sy, sz] = sun ? vec3.normalize(vec3.scale(sun.direction, -1)) : vec3.ZERO;
	const { ground, backdrop } = view;
	const { from, right, up, ahead } = lens;
	const floor = ground?.height ?? 0;
	const seen: [number, number, number] = [0, 0, 0];
	/** What a surface of this colour sends back, into `seen`. */
	const illuminate = (x: number, y: number, z: number, nx: number, ny: number, nz: number, r: number, g: number, b: number) => {
		const sky = 0.5 + 0.5 * ny;
		for (let k = 0; k < 3; k++) seen[k] = view.sky * (SKY * (sky * ABOVE[k]! + (1 - sky) * BELOW[k]!) + ALL);
		const slant = nx * sx + ny * sy + nz * sz;
		const lit = slant > 0 ? slant * (shadows ? shadows.lit(x, y, z, nx, ny, nz) : 1) : 0;
		if (lit > 0) for (let k = 0; k < 3; k++) seen[k]! += lit * sun!.colour[k]!;
		for (const { place, colour } of lamps) {
			const [dx, dy, dz] = [place[0] - x, place[1] - y, place[2] - z];
			const square = dx * dx + dy * dy + dz * dz;
			const fall = Math.max(0, nx * dx + ny * dy + nz * dz) / Math.sqrt(square) / square;
			for (let k = 0; k < 3; k++) seen[k]! += fall * colour[k]!;
		}
		seen[0] *= r / Math.PI;
		seen[1] *= g / Math.PI;
		seen[2] *= b / Math.PI;
	};
	const sum = new Float32Array(3 * view.width * view.height);
	for (let y = 0; y < height; y++)
		for (let x = 0; x < width; x++) {
			const pixel = y * width + x;
			const rx = (x + 0.5 - width / 2) / lens.pixels;
			const ry = (height / 2 - y - 0.5) / lens.pixels;
			const dy = rx * right[1] + ry * up[1] + ahead[1];
			const toFloor = dy < 0 ? (floor - from[1]) / dy : 0;
			const depth = near[pixel]! > 0 ? 1 / near[pixel]! : Number.POSITIVE_INFINITY;
			const onFloor = toFloor > 0 && toFloor < depth;
			const far = onFloor ? toFloor : depth;
			// Fog hides everything at last, and there is none where nothing is.
			const t = Math.min(1, Math.max(0, (far - FOG[0]) / (FOG[1] - FOG[0])));
			const fog = t * t * (3 - 2 * t);
			if (fog < 1) {
				const dx = rx * right[0] + ry * up[0] + ahead[0];
				const dz = rx * right[2] + ry * up[2] + ahead[2];
				const [px, py, pz] = [from[0] + far * dx, from[1] + far * dy, from[2] + far * dz];
				if (onFloor && ground) illuminate(px, py, pz, 0, 1, 0, ground.colour[0], ground.colour[1], ground.colour[2]);
				else if (onFloor) {
					const shade = 1 - (shadows ? CAUGHT * (1 - shadows.lit(px, py, pz, 0, 1, 0)) : 0);
					for (let k = 0; k < 3; k++) seen[k] = shade * backdrop[k]!;
				} else {
					const at = 3 * pixel;
					const [nx, ny, nz] = [normals[at]! / 32_767, normals[at + 1]! / 32_767, normals[at + 2]! / 32_767];
					// Seen from behind: open shapes have light on both sides.
					const side = nx * dx + ny * dy + nz * dz > 0 ? -1 : 1;
					const [r, g, b] = [colours[at]! / 65_535, colours[at + 1]! / 65_535, colours[at + 2]! / 65_535];
					illuminate(px, py, pz, side * nx, side * ny, side * nz, r, g, b);
				}
			}
			const into = 3 * (((y / FINE) | 0) * view.width + ((x / FINE) | 0));
			for (let k = 0; k < 3; k++) sum[into + k]! += (fog < 1 ? seen[k]! + fog * (backdrop[k]! - seen[k]!) : backdrop[k]!) / (FINE * FINE);
		}
	const rgb = new Uint8Array(sum.length);
	for (let i = 0; i < sum.length; i++) rgb[i] = SRGB[Math.min(SRGB.length - 1, Math.round(sum[i]! * (SRGB.length - 1)))]!;
	return { width: view.width, height: view.height, rgb };
}

/** sRGB of linear values, finely enough for the dark ones. */
const SRGB = Uint8Array.from({ length: 8192 }, (_, i) => eightBits(i / 8191));
