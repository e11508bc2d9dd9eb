import type { FittedCollider } from "@rubble/core/bodies";
import { boxCorners, rotate, vec3 } from "@rubble/core/maths";
import { bounds, boundsCentre } from "@rubble/core/mesh";
import type { Solids } from "@rubble/core/solid";
import type { ColliderLines } from "./messages";

/** Above this many triangles a mesh collider is drawn with every nth edge only. */
const MOST_MESH_LINES = 20_000;

/** Colliders as lines in the frames of their bodies. */
export function colliderLines(
	solids: Solids,
	bodies: readonly { readonly id: string; readonly collider: FittedCollider }[],
): ColliderLines {
	const lines: number[] = [];
	const body: number[] = [];
	const parts: number[] = [];
	const aways: number[] = [];
	bodies.forEach(({ collider: { shape } }, index) => {
		let part = 0;
		let away: readonly number[] = [0, 0, 0];
		const add = (a: ArrayLike<number>, b: ArrayLike<number>) => {
			lines.push(a[0]!, a[1]!, a[2]!, b[0]!, b[1]!, b[2]!);
			body.push(index);
			parts.push(part);
			aways.push(...away);
		};
		if (shape.kind === "sphere") addSphere(shape.centre, shape.radius, add);
		else if (shape.kind === "box") addBox(shape, add);
		else if (shape.kind === "capsule") addCapsule(shape, add);
		else if (shape.kind === "cylinder" || shape.kind === "cone") addRound(shape, add);
		else if (shape.kind === "hulls") {
			const middles = shape.hulls.map((points) => boundsCentre(bounds({ positions: points })));
			const middle = vec3.scale(middles.reduce(vec3.add, vec3.ZERO), 1 / middles.length);
			shape.hulls.forEach((points, n) => {
				part = n;
				away = vec3.subtract(middles[n]!, middle);
				addHull(solids, points, add);
			});
		} else if (shape.kind === "mesh") addMesh(shape.mesh.positions, shape.mesh.triangles, add);
	});
	return {
		lines: Float32Array.from(lines),
		body: Uint32Array.from(body),
		part: Uint16Array.from(parts),
		away: Float32Array.from(aways),
		ids: bodies.map(({ id }) => id),
	};
}

type Add = (a: ArrayLike<number>, b: ArrayLike<number>) => void;

function addSphere([x, y, z]: readonly [number, number, number], r: number, add: Add): void {
	const n = 32;
	for (let i = 0; i < n; i++) {
		const [a, b] = [(2 * Math.PI * i) / n, (2 * Math.PI * (i + 1)) / n];
		const [ca, sa, cb, sb] = [r * Math.cos(a), r * Math.sin(a), r * Math.cos(b), r * Math.sin(b)];
		add([x + ca, y + sa, z], [x + cb, y + sb, z]);
		add([x + ca, y, z + sa], [x + cb, y, z + sb]);
		add([x, y + ca, z + sa], [x, y + cb, z + sb]);
	}
}

type Simple<K> = Extract<FittedCollider["shape"], { kind: K }>;

function addBox({ centre, half, turn }: Simple<"box">, add: Add): void {
	const corners = boxCorners(centre, half, turn);
	for (let k = 0; k < 8; k++) for (const bit of [1, 2, 4]) if (!(k & bit)) add(corners[k]!, corners[k | bit]!);
}

/** Two rings, four sides, and round ends. */
function addCapsule({ centre, half, radius, turn }: Simple<"capsule">, add: Add): void {
	const n = 24;
	const at = (x: number, y: number, z: number) => vec3.add(centre, rotate(turn, [x, y, z]));
	const ring = (i: number): [number, number] => [radius * Math.cos((2 * Math.PI * i) / n), radius * Math.sin((2 * Math.PI * i) / n)];
	for (let i = 0; i < n; i++) {
		const [[x, z], [u, w]] = [ring(i), ring(i + 1)];
		for (const y of [-half, half]) add(at(x, y, z), at(u, y, w));
		// Half rings over the ends: the upper half of a circle stands on the upper ring.
		const end = i < n / 2 ? half : -half;
		add(at(x, end + z, 0), at(u, end + w, 0));
		add(at(0, end + z, x), at(0, end + w, u));
	}
	for (const [x, z] of [
		[radius, 0],
		[-radius, 0],
		[0, radius],
		[0, -radius],
	] as const)
		add(at(x, -half, z), at(x, half, z));
}

/** A ring at each end, or a point, and eight lines along it. */
function addRound({ kind, centre, half, radius, turn }: Simple<"cylinder" | "cone">, add: Add): void {
	const n = 32;
	const at = (i: number, y: number, r: number) =>
		vec3.add(centre, rotate(turn, [r * Math.cos((2 * Math.PI * i) / n), y, r * Math.sin((2 * Math.PI * i) / n)]));
	const top = kind === "cone" ? 0 : radius;
	for (let i = 0; i < n; i++) {
		add(at(i, -half, radius), at(i + 1, -half, radius));
		if (top > 0) add(at(i, half, top), at(i + 1, half, top));
		if (i % 4 === 0) add(at(i, -half, radius), at(i, half, top));
	}
}

/** The edges of a hull between faces that differ in direction. */
function addHull({ Manifold }: Solids, points: Float32Array, add: Add): void {
	const hull = Manifold.hull(
		Array.from(
			{ length: points.length / 3 },
			(_, i) => [points[3 * i]!, points[3 * i + 1]!, points[3 * i + 2]!] as [number, number, number],
		),
	);
	const { vertProperties: p, triVerts: t, numProp } = hull.getMesh();
	hull.delete();
	const normal = (f: number) => {
		const [a, b, c] = [t[3 * f]! * numProp, t[3 * f + 1]! * numProp, t[3 * f + 2]! * numProp];
		const e = [0, 1, 2].map((k) => p[b + k]! - p[a + k]!);
		const g = [0, 1, 2].map((k) => p[c + k]! - p[a + k]!);
		const n = [0, 1, 2].map((k) => e[(k + 1) % 3]! * g[(k + 2) % 3]! - e[(k + 2) % 3]! * g[(k + 1) % 3]!);
		const l = Math.hypot(...n) || 1;
		return n.map((v) => v / l);
	};
	const seen = new Map<number, number>();
	for (let h = 0; h < t.length; h++) {
		const a = t[h]!;
		const b = t[h % 3 === 2 ? h - 2 : h + 1]!;
		const key = Math.min(a, b) * 65_536 + Math.max(a, b);
		const other = seen.get(key);
		if (other === undefined) {
			seen.set(key, Math.floor(h / 3));
			continue;
		}
		const [m, n] = [normal(other), normal(Math.floor(h / 3))];
		if (m[0]! * n[0]! + m[1]! * n[1]! + m[2]! * n[2]! < 0.999)
			add(p.subarray(a * numProp, a * numProp + 3), p.subarray(b * numProp, b * numProp + 3));
	}
}

function addMesh(positions: Float32Array, triangles: Uint32Array, add: Add): void {
	const step = Math.max(1, Math.ceil(triangles.length / MOST_MESH_LINES));
	for (let h = 0; h < triangles.length; h += step) {
		const a = triangles[h]!;
		const b = triangles[h % 3 === 2 ? h - 2 : h + 1]!;
		if (a < b || step > 1) add(positions.subarray(3 * a, 3 * a + 3), positions.subarray(3 * b, 3 * b + 3));
	}
}
