import type RAPIER from "@dimforge/rapier3d-simd-compat";
import { type Quat, rotate, type Vec3, vec3 } from "../../maths";
import { byIndex } from "./handles";
import type { ContactPoint } from "./types";

/**
 * Reads from the library where colliders met in the last step. Each of its calls costs about as much as the few numbers that it tells, and
 * what a blow does is asked by pairs from both ends: so each pair is read once a step.
 */
export interface ContactReader {
	/** Colliders that were near enough to this one to be looked at as a pair, and whose they are; by body. */
	near(collider: RAPIER.Collider): readonly Met[];
	/** Where they met, from the first to the second; in the places that they had before the step. */
	points(one: RAPIER.Collider, other: RAPIER.Collider): readonly ContactPoint[];
	/** Something has been moved. */
	forget(): void;
}

export interface Met {
	readonly body: number;
	readonly other: RAPIER.Collider;
}

/** Where the library's body was, on which a body of the scene stands, before the step. */
export type Stood = (body: number) => { readonly position: Vec3; readonly rotation: Quat };

export function makeContactReader(world: RAPIER.World, bodyOf: ReadonlyMap<number, number>, stood: Stood): ContactReader {
	const near = new Map<number, Met[]>();
	const known = new Map<number, Map<number, TwoPlaces[]>>();
	const wereAt = new Map<number, (local: RAPIER.Vector) => Vec3>();
	/** Takes a point of a collider to where it was before the step. */
	const wasAt = (collider: RAPIER.Collider): ((local: RAPIER.Vector) => Vec3) => {
		let was = wereAt.get(collider.handle);
		if (was) return was;
		const t = collider.translationWrtParent() ?? ORIGIN;
		const q = collider.rotationWrtParent() ?? UPRIGHT;
		const seat: Vec3 = [t.x, t.y, t.z];
		const turn: Quat = [q.x, q.y, q.z, q.w];
		const { position, rotation } = stood(bodyOf.get(collider.handle)!);
		// Most sit at the origin of their body, which to the last bit changes nothing.
		const sitsAtOrigin = t.x === 0 && t.y === 0 && t.z === 0 && q.x === 0 && q.y === 0 && q.z === 0 && q.w === 1;
		was = sitsAtOrigin
			? ({ x, y, z }) => vec3.add(position, rotate(rotation, [x, y, z]))
			: ({ x, y, z }) => vec3.add(position, rotate(rotation, vec3.add(seat, rotate(turn, [x, y, z]))));
		wereAt.set(collider.handle, was);
		return was;
	};
	const read = (one: RAPIER.Collider, other: RAPIER.Collider): TwoPlaces[] => {
		const points: TwoPlaces[] = [];
		world.contactPair(one, other, (manifold, flipped) => {
			const count = manifold.numContacts();
			if (count === 0) return;
			const [here, there] = [wasAt(one), wasAt(other)];
			const n = manifold.normal();
			const normal = vec3.scale([n.x, n.y, n.z], flipped ? -1 : 1);
			for (let k = 0; k < count; k++) {
				const [first, second] = [manifold.localContactPoint1(k), manifold.localContactPoint2(k)];
				if (!first || !second) continue;
				const place = here(flipped ? second : first);
				// What the library tells may be the distance of an earlier step.
				const across = there(flipped ? first : second);
				points.push({
					place,
					across,
					normal,
					distance: vec3.dot(normal, vec3.subtract(across, place)),
					impulse: manifold.contactImpulse(k),
				});
			}
		});
		return points;
	};
	return {
		near(collider) {
			let met = near.get(collider.handle);
			if (met) return met;
			met = [];
			world.contactPairsWith(collider, (other) => met!.push({ body: bodyOf.get(other.handle)!, other }));
			// The library tells them in another order after a snapshot; what is summed over them is to be the same to the last bit.
			met.sort((a, b) => a.body - b.body || byIndex(a.other.handle, b.other.handle));
			near.set(collider.handle, met);
			return met;
		},
		points(one, other) {
			const ofOne = known.get(one.handle) ?? new Map<number, TwoPlaces[]>();
			known.set(one.handle, ofOne);
			let points = ofOne.get(other.handle);
			if (points) return points;
			points = known.get(other.handle)?.get(one.handle)?.map(fromAcross) ?? read(one, other);
			ofOne.set(other.handle, points);
			return points;
		},
		forget() {
			near.clear();
			known.clear();
			wereAt.clear();
		},
	};
}

/** A contact point with its place on what is met, too. */
interface TwoPlaces extends ContactPoint {
	readonly across: Vec3;
}

const fromAcross = ({ place, across, normal, distance, impulse }: TwoPlaces): TwoPlaces => ({
	place: across,
	across: place,
	normal: vec3.scale(normal, -1),
	distance,
	impulse,
});

const ORIGIN = { x: 0, y: 0, z: 0 };
const UPRIGHT = { x: 0, y: 0, z: 0, w: 1 };
