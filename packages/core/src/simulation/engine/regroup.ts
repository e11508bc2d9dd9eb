import RAPIER from "@dimforge/rapier3d-simd-compat";
import { compose, rotate, type Vec3, vec3 } from "../../maths";
import { movedPose } from "../rigid";
import type { SimScene } from "../scene";
import { type Carriers, HOME, isAtHome, massOfGroup, SEAT, seatAt, seatOf, standsOn } from "./carriers";
import { addCollider, describeColliders } from "./describe";
import { poseOfBody, setPose } from "./poses";
import type { Group, KeyedPose } from "./types";

/** Who sits where in the library. */
export interface Seating {
	readonly scene: SimScene;
	readonly world: RAPIER.World;
	/** 1 per carrier, and of each body of the scene. */
	readonly bodies: readonly RAPIER.RigidBody[];
	readonly colliders: RAPIER.Collider[][];
	/** By handle of a collider. */
	readonly bodyOf: Map<number, number>;
	readonly carriers: Carriers;
	/** 1 per body, see `Held`. */
	readonly held: Uint8Array;
}

/**
 * Puts bodies on carriers group by group. A carrier that is left keeps the first group that has most of its members, so
 * that fewest colliders move; the others take carriers that stand empty. Returns the carriers on which something is new or gone
 * that does not stand still as before.
 */
export function regroup(seating: Seating, parts: readonly Group[]): Set<number> {
	const { bodies, carriers } = seating;
	const groups = withRest(carriers, parts);
	const stays = whoStays(carriers, groups);
	const named = new Set<number>();
	for (const group of groups) for (const i of group.bodies) named.add(carriers.of[i]!);
	const homes = homesOf(carriers, groups, stays, named);
	/** What held still and still does loses members, and that is all. */
	const isUntouched = (n: number): boolean => stays.get(homes[n]!) === n && carriers.anchored[homes[n]!] === 1;
	const kept = new Set(groups.flatMap((_, n) => (isUntouched(n) ? [homes[n]!] : [])));
	const memories = groups.map((group, n) => (isUntouched(n) ? undefined : memoryOf(seating, group)));
	for (const c of named) {
		carriers.members[c] = [];
		if (!kept.has(c)) bodies[c]!.setEnabled(false);
	}
	for (const [n, group] of groups.entries()) {
		const c = homes[n]!;
		carriers.members[c] = group.bodies;
		const memory = memories[n];
		if (!memory) continue;
		if (group.anchored) standApart(seating, group, c, memory);
		else sitTogether(seating, group, c, stays.get(c) === n, memory);
	}
	const changed = new Set([...named, ...homes]);
	for (const c of kept) changed.delete(c);
	return changed;
}

/** And what they leave behind of what holds still: it stays so. */
function withRest(carriers: Carriers, groups: readonly Group[]): readonly Group[] {
	const left = new Map<number, Set<number>>();
	for (const { bodies } of groups)
		for (const i of bodies) {
			const c = carriers.of[i]!;
			if (carriers.anchored[c] === 1) left.set(c, (left.get(c) ?? new Set()).add(i));
		}
	const rests = [...left].map(([c, gone]) => carriers.members[c]!.filter((i) => !gone.has(i)));
	return [...groups, ...rests.filter((bodies) => bodies.length > 0).map((bodies) => ({ bodies, anchored: true }))];
}

/** By carrier, the group that keeps it: by size, so that most colliders stay. Of what holds still, who has the body of that name, and holds still. */
function whoStays({ of, anchored: isAnchored }: Carriers, groups: readonly Group[]): ReadonlyMap<number, number> {
	const stays = new Map<number, number>();
	for (const [n, { bodies: members, anchored }] of groups.entries()) {
		const c = of[members[0]!]!;
		const other = stays.get(c);
		const mayStay =
			isAnchored[c] === 1 ? anchored && members.includes(c) : other === undefined || members.length > groups[other]!.bodies.length;
		if (mayStay && members.every((i) => of[i] === c)) stays.set(c, n);
	}
	return stays;
}

/** The carrier of each group. There are as many as bodies, so one always stands empty, or will. */
function homesOf(
	{ of, members: on, anchored }: Carriers,
	groups: readonly Group[],
	stays: ReadonlyMap<number, number>,
	named: ReadonlySet<number>,
): number[] {
	const taken = new Set<number>(stays.keys());
	const isFree = (c: number): boolean => (on[c]!.length === 0 || named.has(c)) && !taken.has(c);
	return groups.map(({ bodies: members }, n) => {
		const c = of[members[0]!]!;
		if (stays.get(c) === n) return c;
		// Somebody else's only where nobody stands on it.
		const own = members.find(isFree) ?? on.findIndex((_, other) => isFree(other) && anchored[of[other]!] === 0);
		taken.add(own);
		return own;
	});
}

/** What is known of a group before anything moves. */
interface Memory {
	readonly poses: ReadonlyMap<number, KeyedPose>;
	/** Bodies whose colliders are on bodies of their own, and those that hold still with others. */
	readonly atHome: ReadonlySet<number>;
	readonly apart: ReadonlySet<number>;
	/** What it moves with: m/s at a place of the world, rad/s. */
	readonly velocity: Vec3;
	readonly spin: Vec3;
	readonly centre: Vec3;
}

function memoryOf({ bodies, carriers }: Seating, { bodies: members, shift }: Group): Memory {
	const poses = new Map<number, KeyedPose>();
	for (const i of members) {
		const { translation, rotation } = poseOfBody(bodies[standsOn(carriers, i)]!);
		const seat = isAtHome(carriers, i) ? HOME : seatOf(carriers, i);
		const pose = { translation: vec3.add(translation, rotate(rotation, seat.translation)), rotation: compose(rotation, seat.rotation) };
		poses.set(i, shift ? movedPose(pose, shift) : pose);
	}
	const body = bodies[carriers.of[members[0]!]!]!;
	const [v, w, c] = [body.linvel(), body.angvel(), body.worldCom()];
	return {
		poses,
		atHome: new Set(members.filter((i) => isAtHome(carriers, i))),
		apart: new Set(members.filter((i) => carriers.anchored[carriers.of[i]!] === 1)),
		velocity: [v.x, v.y, v.z],
		spin: [w.x, w.y, w.z],
		centre: [c.x, c.y, c.z],
	};
}

/** What holds still: each on a fixed body of its own, on one carrier in name. */
function standApart(seating: Seating, { bodies: members }: Group, c: number, { poses, atHome }: Memory): void {
	const { bodies, carriers } = seating;
	for (const i of members) {
		carriers.of[i] = c;
		sit(carriers, i, poses.get(i)!, i === c ? undefined : poses.get(c)!);
		if (!atHome.has(i)) reseat(seating, bodies[i]!, HOME, i);
		setPose(bodies[i]!, poses.get(i)!);
		bodies[i]!.setEnabled(true);
		bodies[i]!.setBodyType(RAPIER.RigidBodyType.Fixed, false);
	}
	carriers.anchored[c] = 1;
}

/** What moves as one: all colliders on one body of the library. `remains`: most of them are there already. */
function sitTogether(seating: Seating, group: Group, c: number, remains: boolean, memory: Memory): void {
	const { scene, bodies, carriers, held } = seating;
	const { bodies: members } = group;
	const { poses, atHome, apart } = memory;
	const body = bodies[c]!;
	const first = members[0]!;
	const stood = poseOfBody(body);
	const home = !remains ? poses.get(first)! : group.shift ? movedPose(stood, group.shift) : stood;
	for (const i of members) {
		const isThere = remains ? carriers.of[i] === c : i === first && i === c && atHome.has(i);
		carriers.of[i] = c;
		if (!remains) sit(carriers, i, poses.get(i)!, i === first ? undefined : home);
		if (apart.has(i) && i !== c) bodies[i]!.setEnabled(false);
		if (!isThere) reseat(seating, body, seatOf(carriers, i), i);
	}
	carriers.anchored[c] = 0;
	body.setEnabled(true);
	if (!remains || group.shift) setPose(body, home);
	const { mass, centre, inertia, frame } = massOfGroup(scene, carriers, members);
	carriers.centre.set(centre, 3 * c);
	body.setAdditionalMassProperties(
		mass,
		{ x: centre[0], y: centre[1], z: centre[2] },
		{ x: inertia[0], y: inertia[1], z: inertia[2] },
		{ x: frame[0], y: frame[1], z: frame[2], w: frame[3] },
		false,
	);
	// The carrier was made for another body.
	body.setGravityScale(scene.world[first] === 0 ? 1 : 0, false);
	body.setLinearDamping(scene.linearDamping[first]!);
	body.setAngularDamping(scene.angularDamping[first]!);
	const still = members.some((i) => held[i] !== 0);
	body.setBodyType(still ? RAPIER.RigidBodyType.Fixed : RAPIER.RigidBodyType.Dynamic, !still);
	body.recomputeMassPropertiesFromColliders();
	if (still) return;
	const at = vec3.add(home.translation, rotate(home.rotation, centre));
	const velocity = vec3.add(memory.velocity, vec3.cross(memory.spin, vec3.subtract(at, memory.centre)));
	const { spin } = memory;
	body.setLinvel({ x: velocity[0], y: velocity[1], z: velocity[2] }, true);
	body.setAngvel({ x: spin[0], y: spin[1], z: spin[2] }, true);
}

/** Seats a body on its carrier; at its origin, to the last bit, where no home is given. */
function sit(carriers: Carriers, i: number, pose: KeyedPose, home: KeyedPose | undefined): void {
	if (home) seatAt(carriers, i, pose, home);
	else carriers.seat.set([0, 0, 0, 0, 0, 0, 1], SEAT * i);
}

/** Gives a body's colliders to the carrier that it now sits on: the library cannot move them, so they are made anew. */
function reseat({ scene, world, colliders, bodyOf }: Seating, body: RAPIER.RigidBody, seat: KeyedPose, i: number): void {
	for (const collider of colliders[i]!) {
		bodyOf.delete(collider.handle);
		world.removeCollider(collider, false);
	}
	colliders[i] = describeColliders(scene, i).map((description) => {
		const { x, y, z } = description.translation;
		const q = description.rotation;
		const t = vec3.add(seat.translation, rotate(seat.rotation, [x, y, z]));
		const turn = compose(seat.rotation, [q.x, q.y, q.z, q.w]);
		description.setTranslation(t[0], t[1], t[2]).setRotation({ x: turn[0], y: turn[1], z: turn[2], w: turn[3] });
		const collider = addCollider(world, description, body);
		bodyOf.set(collider.handle, i);
		return collider;
	});
}
