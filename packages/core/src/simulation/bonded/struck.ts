import { tripleAt, vec3 } from "../../maths";
import { Kind, stepSeconds } from "../scene";
import { BOND_WHOLE } from "./lattice";
import { isTied } from "./parts";
import type { Bonded, Running } from "./state";
import { BLOW_SPEED, type Moment, massOf, pairOf } from "./strikers";

/** A blow is looked at from this share of what the weakest bond of the struck body bears. */
const WORTH_LOOKING = 0.1;
/**
 * A blow that comes farther within a step, as a share of the usual thickness of what is bonded, is followed in shorter steps: 300 kg at
 * 15 m/s through a wall of bricks came their whole thickness in one, and broke five of its foot.
 */
const COARSE = 2 / 3;

/** A group that is struck, and by what; or in which waves of an earlier blow go on. */
export interface Struck {
	readonly carrier: number;
	/** Carriers that strike it, or lie on it while it is struck. */
	readonly by: Set<number>;
	/** Bodies of theirs that touch it. */
	readonly touching: Set<number>;
	/** Whether waves of an earlier blow go on in it. */
	rings: boolean;
	/** Whether something that does not give way before what it meets comes too far within the step. */
	isCoarse: boolean;
}

/** Blows of the last step that may break something. */
export function findStruck(run: Running, bonded: Bonded, { keyed }: Moment): Struck[] {
	const { scene, engine, before } = run;
	const { kind, mass } = scene;
	const dt = stepSeconds(scene);
	const found = new Map<number, Struck>();
	const struckOn = (carrier: number): Struck => {
		const struck = found.get(carrier) ?? { carrier, by: new Set(), touching: new Set(), rings: false, isCoarse: false };
		found.set(carrier, struck);
		return struck;
	};
	const note = (body: number, by: number, approach: number) => {
		const struck = struckOn(engine.carrier[body]!);
		struck.by.add(engine.carrier[by]!);
		struck.touching.add(by);
		if (approach * dt > COARSE * bonded.thickness && massOf(run, by) >= mass[body]!) struck.isCoarse = true;
	};
	const { contacts } = engine;
	const { pressed, ringing } = bonded.state;
	const look = (body: number, by: number, impulse: number): void => {
		if (!isTied(run, body) || engine.carrier[body] === engine.carrier[by]) return;
		// What springs back pushes the striker out again.
		if (pressed.has(pairOf(scene, by, body))) note(body, by, 0);
		if (mostSpeed(run, by, body) < BLOW_SPEED) return;
		const approach = engine.touch(by, body, before)?.approach ?? 0;
		if (approach < BLOW_SPEED) return;
		// Over a step, or while the bond springs back (v √(k m)).
		const force = (stiffness: number): number => Math.max(impulse / dt, Math.sqrt(stiffness * impulse * approach));
		if (mayHarm(run, bonded, body, force, WORTH_LOOKING)) note(body, by, approach);
	};
	for (let k = 0; k < contacts.count; k++) {
		look(contacts.a[k]!, contacts.b[k]!, contacts.impulse[k]!);
		look(contacts.b[k]!, contacts.a[k]!, contacts.impulse[k]!);
	}
	// Keyed things exert no force on what is held, in the engine.
	for (const by of keyed)
		engine.nearKeyed(by, (body, { approach, distance }) => {
			if (body !== by && kind[body] === Kind.Active && isTied(run, body) && approach >= BLOW_SPEED && distance <= approach * dt)
				note(body, by, approach);
		});
	for (const body of ringing) if (isTied(run, body)) struckOn(engine.carrier[body]!).rings = true;
	addWhatTouches(run, found);
	return [...found.values()].sort((x, y) => x.carrier - y.carrier);
}

/** What lies on something that floats and has less than this share of its mass changes little of its blow. */
const HEAVY = 0.02;

/**
 * What lies on something that floats, or under it, takes part in its blow. The engine would push it back to the speed of what lies on it in
 * the same step: a block under a crate sank 10 cm into the ground on which both fell.
 */
function addWhatTouches(run: Running, found: ReadonlyMap<number, Struck>): void {
	const { contacts, carrier, isAnchored } = run.engine;
	const masses = new Map<number, number>();
	const massOn = (body: number): number => {
		const mass = masses.get(carrier[body]!) ?? massOf(run, body);
		masses.set(carrier[body]!, mass);
		return mass;
	};
	const add = (body: number, by: number): void => {
		const struck = found.get(carrier[body]!);
		if (!struck || isAnchored(struck.carrier) || carrier[by] === struck.carrier || massOn(by) < HEAVY * massOn(body)) return;
		struck.by.add(carrier[by]!);
		struck.touching.add(by);
	};
	for (let k = 0; k < contacts.count; k++) {
		add(contacts.a[k]!, contacts.b[k]!);
		add(contacts.b[k]!, contacts.a[k]!);
	}
}

/** From the middle of a box to its corner, as a share of its longest edge at most. */
const TO_CORNER = Math.sqrt(3) / 2;

/** Faster against each other than this no points of two bodies are, m/s: where they lie still nobody need look for them. */
function mostSpeed({ scene: { size }, before: { velocity, spin } }: Running, a: number, b: number): number {
	const turning = (i: number): number => TO_CORNER * size[i]! * vec3.length(tripleAt(spin, i));
	return vec3.length(vec3.subtract(tripleAt(velocity, a), tripleAt(velocity, b))) + turning(a) + turning(b);
}

/** Whether some bond of a body bears so little that a force on it, N, by the bond's stiffness in N/m, comes to this share of it. */
export function mayHarm(
	{ scene: { bonds } }: Pick<Running, "scene">,
	{ net, state, left }: Bonded,
	body: number,
	force: (stiffness: number) => number,
	share: number,
): boolean {
	return net.of[body]!.some((k) => {
		if (state.state[k] !== BOND_WHOLE) return false;
		const bears = Math.min(bonds.tension[k]!, bonds.shear[k]!) * bonds.area[k]! * left[k]!;
		return force(net.stiffness[5 * k]! * net.young[k]!) >= share * bears;
	});
}
