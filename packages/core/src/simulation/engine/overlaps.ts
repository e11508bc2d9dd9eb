import type RAPIER from "@dimforge/rapier3d-simd-compat";
import type { ColliderShape } from "../../bodies";
import { boxCorners, IDENTITY, type Vec3 } from "../../maths";
import { Kind, type SimScene } from "../scene";
import type { Carriers } from "./carriers";
import { rotated } from "./states";
import type { Overlap } from "./types";

/** Sweep along x over the bodies' boxes, then the exact distance of what remains. */
export function findOverlaps(
	scene: SimScene,
	world: RAPIER.World,
	{ of }: Carriers,
	colliders: readonly RAPIER.Collider[][],
	tolerance: number,
	isThere: (body: number) => boolean,
): Overlap[] {
	world.propagateModifiedBodyPositionsToColliders();
	const boxes = Array.from(of, (_, i) => worldBox(scene, i));
	const order = [...boxes.keys()].filter(isThere).sort((a, b) => boxes[a]![0]! - boxes[b]![0]! || a - b);
	const found: Overlap[] = [];
	const open: number[] = [];
	for (const i of order) {
		for (let k = open.length - 1; k >= 0; k--) if (boxes[open[k]!]![3]! < boxes[i]![0]!) open.splice(k, 1);
		for (const j of open) {
			if (scene.kind[i] !== Kind.Active && scene.kind[j] !== Kind.Active) continue;
			if (scene.world[i] !== scene.world[j] || of[i] === of[j]) continue;
			if ([1, 2].some((k) => boxes[i]![k]! > boxes[j]![k + 3]! || boxes[j]![k]! > boxes[i]![k + 3]!)) continue;
			const [a, b] = [Math.min(i, j), Math.max(i, j)];
			let least = 0;
			let normal: Vec3 = [0, 1, 0];
			for (const one of colliders[a]!)
				for (const other of colliders[b]!) {
					const contact = one.contactCollider(other, 0);
					if (!contact || contact.distance >= least) continue;
					least = contact.distance;
					normal = [contact.normal1.x, contact.normal1.y, contact.normal1.z];
				}
			if (-least > tolerance) found.push({ a, b, depth: -least, normal });
		}
		open.push(i);
	}
	return found.sort((x, y) => x.a - y.a || x.b - y.b);
}

/** min x y z, max x y z of a body's collider in the world. */
function worldBox(scene: SimScene, i: number): number[] {
	const { shape } = scene.colliders[i]!;
	if (shape.kind === "ground") return [-Infinity, -Infinity, -Infinity, Infinity, scene.position[3 * i + 1]!, Infinity];
	const points =
		shape.kind === "hulls" ? shape.hulls : shape.kind === "mesh" ? [shape.mesh.positions] : [Float32Array.from(cornersOf(shape))];
	const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
	const q = Float32Array.from(scene.rotation.subarray(4 * i, 4 * i + 4));
	const local = new Float64Array(3);
	for (const list of points)
		for (let v = 0; v < list.length; v += 3) {
			local.set(list.subarray(v, v + 3));
			const p = rotated(q, 0, local);
			[p.x, p.y, p.z].forEach((value, k) => {
				box[k] = Math.min(box[k]!, value + scene.position[3 * i + k]!);
				box[k + 3] = Math.max(box[k + 3]!, value + scene.position[3 * i + k]!);
			});
		}
	return box;
}

/** From the middle of a round shape to its end. */
function upTo(shape: Exclude<ColliderShape, { kind: "box" | "hulls" | "mesh" | "ground" }>): number {
	if (shape.kind === "sphere") return shape.radius;
	return shape.kind === "capsule" ? shape.half + shape.radius : shape.half;
}

/** Corners of a box around a simple shape, 3 numbers each. */
function cornersOf(shape: Exclude<ColliderShape, { kind: "hulls" | "mesh" | "ground" }>): number[] {
	const half = shape.kind === "box" ? shape.half : ([shape.radius, upTo(shape), shape.radius] as const);
	return boxCorners(shape.centre, half, shape.kind === "sphere" ? IDENTITY : shape.turn).flat();
}
