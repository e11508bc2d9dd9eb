import { compose, IDENTITY, inverse, principalAxes, type Quat, rotate, type Symmetric3, type Vec3, vec3 } from "../../maths";
import type { SimScene } from "../scene";

/**
 * Which rigid body of the library carries which bodies of the scene. There are as many carriers as bodies; what is
 * bonded shares one, the others of the group stand empty. A body that moves alone is carried by its own.
 *
 * What holds still shares its carrier in name only: each body's colliders stand on a fixed body of its own, see `standsOn`. The library
 * looks at all colliders of a body when one of them goes: a wall of 5,000 bricks on one body took 20 ms a step in which some came off.
 */
export interface Carriers {
	/** 1 per body. */
	readonly of: Int32Array;
	/** Bodies on each carrier, in order. */
	readonly members: (readonly number[])[];
	/** 7 per body: where it sits on its carrier. */
	readonly seat: Float64Array;
	/** 3 per carrier: its centre of mass, in its own axes. */
	readonly centre: Float64Array;
	/** 1 per carrier: something that holds still holds it. Then it is one of those that it carries. */
	readonly anchored: Uint8Array;
}

/** The library's body on which a body's colliders are. */
export const standsOn = ({ of, anchored }: Carriers, i: number): number => (anchored[of[i]!] === 1 ? i : of[i]!);

export const SEAT = 7;

export function makeCarriers(scene: SimScene): Carriers {
	const { count } = scene;
	const seat = new Float64Array(SEAT * count);
	for (let i = 0; i < count; i++) seat[SEAT * i + 6] = 1;
	return {
		of: Int32Array.from({ length: count }, (_, i) => i),
		members: Array.from({ length: count }, (_, i) => [i]),
		seat,
		centre: scene.centre.slice(),
		anchored: new Uint8Array(count),
	};
}

/** The seat of a body on its own carrier, where nothing else was before. */
export const HOME: { readonly translation: Vec3; readonly rotation: Quat } = { translation: vec3.ZERO, rotation: IDENTITY };

const sitsAtOrigin = ({ of, seat }: Carriers, i: number): boolean => {
	const at = SEAT * i;
	return of[i] === i && seat[at + 6] === 1 && seat[at] === 0 && seat[at + 1] === 0 && seat[at + 2] === 0;
};

/** Whether a body moves alone, in its own carrier's frame: what is left of a group may sit beside its carrier's origin. */
export const isAlone = (carriers: Carriers, i: number): boolean => carriers.members[i]!.length === 1 && sitsAtOrigin(carriers, i);

/** Whether a body's colliders are on a body of the library that is its own, and where it is. */
export const isAtHome = (carriers: Carriers, i: number): boolean => carriers.anchored[carriers.of[i]!] === 1 || sitsAtOrigin(carriers, i);

export const seatOf = ({ seat }: Carriers, i: number): { readonly translation: Vec3; readonly rotation: Quat } => {
	const at = SEAT * i;
	return {
		translation: [seat[at]!, seat[at + 1]!, seat[at + 2]!],
		rotation: [seat[at + 3]!, seat[at + 4]!, seat[at + 5]!, seat[at + 6]!],
	};
};

/** Seats a body that stands somewhere in the world on a carrier that stands somewhere else. */
export function seatAt(
	{ seat }: Carriers,
	i: number,
	body: { readonly translation: Vec3; readonly rotation: Quat },
	carrier: { readonly translation: Vec3; readonly rotation: Quat },
): void {
	const back = inverse(carrier.rotation);
	seat.set(rotate(back, vec3.subtract(body.translation, carrier.translation)), SEAT * i);
	seat.set(compose(back, body.rotation), SEAT * i + 3);
}

/** Mass (kg), centre and inertia of several bodies as one, in their carrier's axes. */
export function massOfGroup(scene: SimScene, carriers: Carriers, members: readonly number[]) {
	let mass = 0;
	let moment: Vec3 = [0, 0, 0];
	const centres = members.map((i) => {
		const { translation, rotation } = seatOf(carriers, i);
		return vec3.add(translation, rotate(rotation, [scene.centre[3 * i]!, scene.centre[3 * i + 1]!, scene.centre[3 * i + 2]!]));
	});
	for (const [n, i] of members.entries()) {
		mass += scene.mass[i]!;
		moment = vec3.add(moment, vec3.scale(centres[n]!, scene.mass[i]!));
	}
	const centre = vec3.scale(moment, 1 / mass);
	const sum: [number, number, number, number, number, number] = [0, 0, 0, 0, 0, 0];
	for (const [n, i] of members.entries()) {
		const m = scene.mass[i]!;
		const [x, y, z] = vec3.subtract(centres[n]!, centre);
		// The parallel axis theorem.
		const own = inertiaInCarrier(scene, carriers, i);
		const apart = [m * (y * y + z * z), m * (x * x + z * z), m * (x * x + y * y), -m * x * y, -m * x * z, -m * y * z];
		for (let k = 0; k < 6; k++) sum[k]! += own[k]! + apart[k]!;
	}
	const { values, frame } = principalAxes(sum);
	return { mass, centre, inertia: values, frame };
}

/** A body's inertia tensor about its own centre in its carrier's axes. */
function inertiaInCarrier(scene: SimScene, carriers: Carriers, i: number): Symmetric3 {
	const turn = compose(seatOf(carriers, i).rotation, [
		scene.inertiaFrame[4 * i]!,
		scene.inertiaFrame[4 * i + 1]!,
		scene.inertiaFrame[4 * i + 2]!,
		scene.inertiaFrame[4 * i + 3]!,
	]);
	const tensor: [number, number, number, number, number, number] = [0, 0, 0, 0, 0, 0];
	for (let k = 0; k < 3; k++) {
		const a = rotate(turn, [k === 0 ? 1 : 0, k === 1 ? 1 : 0, k === 2 ? 1 : 0]);
		const value = scene.inertia[3 * i + k]!;
		const products = [a[0] * a[0], a[1] * a[1], a[2] * a[2], a[0] * a[1], a[0] * a[2], a[1] * a[2]];
		for (let c = 0; c < 6; c++) tensor[c]! += value * products[c]!;
	}
	return tensor;
}

/** Little-endian: bodies, then carrier, seat and the anchors, each for all. */
export function encodeCarriers({ of, seat, anchored }: Carriers): Uint8Array {
	const bytes = new Uint8Array(of.length * (4 + 8 * SEAT + 1));
	bytes.set(new Uint8Array(of.buffer, of.byteOffset, of.byteLength), 0);
	bytes.set(new Uint8Array(seat.buffer, seat.byteOffset, seat.byteLength), of.byteLength);
	bytes.set(anchored, of.byteLength + seat.byteLength);
	return bytes;
}

export function decodeCarriers(scene: SimScene, bytes: Uint8Array): Carriers {
	const n = scene.count;
	const of = new Int32Array(bytes.slice(0, 4 * n).buffer);
	const seat = new Float64Array(bytes.slice(4 * n, (4 + 8 * SEAT) * n).buffer);
	const members: number[][] = Array.from({ length: n }, () => []);
	for (let i = 0; i < n; i++) members[of[i]!]!.push(i);
	const carriers: Carriers = { of, members, seat, centre: new Float64Array(3 * n), anchored: bytes.slice((4 + 8 * SEAT) * n) };
	for (let c = 0; c < n; c++) {
		if (members[c]!.length === 0 || carriers.anchored[c] === 1 || carriers.members[c]!.some((i) => scene.mass[i] === 0)) continue;
		carriers.centre.set(massOfGroup(scene, carriers, members[c]!).centre, 3 * c);
	}
	return carriers;
}
