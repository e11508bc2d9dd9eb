import { tripleAt, vec3 } from "../maths";
import { contactFrequency } from "./contactSpring";
import { type HeavierState, showHeavier } from "./heavier";
import type { Running } from "./running";
import { Held, Kind, stepSeconds } from "./scene";
import { movesAlone } from "./squeezed";

/**
 * Has light things bear heavy ones. To the library a contact is a spring as stiff as the lighter of both lets it be, m ω²: under a force F a
 * body gives way to the ground by F / m ω², a stone of 0.6 kg under 260 kg by 30 mm. So what is squeezed against something that holds still
 * counts as heavier there, by what its load needs, F / s ω² for a sag s: pinned as it is, its own inertia does not matter, and what weighs
 * on it is what it did. What is light again as soon as the load goes has lost nothing but what the ground took up.
 *
 * Stones that lie on stones are braced from below, one layer after the other: what is braced holds still. So a step in which much has
 * changed is done again, and looked at again: 600 stones of 25 mm under 260 kg that fell 2 m let the ball in by 91 mm as they were, by 38 mm
 * with one layer, by 20 mm with six and three looks.
 *
 * The load is what is balanced: impulses that add up to more than the change of its own momentum. What is hit and flies on is none.
 * Tried without asking that something holds still behind: bricks between a ball and a wall became as heavy as the ball, and stopped it.
 */
/** How far a load may press something into what bears it: this share of its thickness; at least so much, m. */
const SAG_SHARE = 0.02;
const LEAST_SAG = 5e-4;
/** Under something heavy, so many layers of light things are looked at. */
const MOST_LAYERS = 6;
/** At most so heavy, as a power of two. */
const MOST_DOUBLINGS = 12;
/**
 * By so many doublings the step before was wrong, and is done again; with two a barrel on a stack of boxes had them 7 mm in each other for
 * good, for contacts do not begin as they were in a step that is done again.
 */
const REDO_FROM = 4;
/** What goes farther than this share of its thickness in a step would bring speed of its own with its new mass. */
const SLOW_SHARE = 0.05;

type Stepped = Pick<Running, "scene" | "engine" | "held" | "before">;

/** Call after a step, before what moves is read. Returns whether it is to be done again. */
export function brace(run: Stepped, heavier: HeavierState): boolean {
	const { scene, engine, before } = run;
	const doublings = heavier.load;
	const dt = stepSeconds(scene);
	const loads = loadsOf(run, doublings);
	let isWrong = false;
	const set = (i: number, times: number): void => {
		doublings[i] = times;
		showHeavier(engine, heavier, i);
	};
	for (const [i, { impulse, backed, heaviest }] of loads) {
		const was = doublings[i]!;
		// What it needs at most.
		if (was === 0 && massToBear(run, i, Math.min(backed, impulse / 2) / dt) < 2 * scene.mass[i]!) continue;
		const change = vec3.length(vec3.subtract(engine.velocityOf(i), tripleAt(before.velocity, i)));
		const balanced = Math.min(backed, Math.max(0, (impulse - scene.mass[i]! * 2 ** was * change) / 2));
		const needs = Math.min(massToBear(run, i, balanced / dt), heaviest);
		let times = 0;
		while (times < MOST_DOUBLINGS && scene.mass[i]! * 2 ** (times + 1) <= needs) times++;
		const isSlow = vec3.length(tripleAt(before.velocity, i)) * dt < SLOW_SHARE * scene.thickness[i]!;
		if (times > was && isSlow) {
			set(i, times);
			if (times >= was + REDO_FROM) isWrong = true;
		} else if (times < was - 1) set(i, was - 1);
	}
	for (let i = 0; i < doublings.length; i++) if (doublings[i]! > 0 && !loads.has(i)) set(i, doublings[i]! - 1);
	return isWrong;
}

/** kg with which a body gives way to a force on it, N, by no more than it may. */
function massToBear({ scene: { settings, thickness } }: Pick<Running, "scene">, i: number, force: number): number {
	const frequency = 2 * Math.PI * contactFrequency(settings);
	return force / (Math.max(LEAST_SAG, SAG_SHARE * thickness[i]!) * frequency * frequency);
}

interface Load {
	/** N s of all that touches it, and of what of that holds still or is braced itself. */
	impulse: number;
	backed: number;
	/** kg of the heaviest that moves by itself and presses on it, or on what presses on it. */
	heaviest: number;
}

/**
 * What touches bodies that are braced, or that something heavier met, or on which, in turn, such bodies lie, so many deep; they move by
 * themselves, alone.
 */
function loadsOf(run: Stepped, doublings: Uint8Array): Map<number, Load> {
	const { scene } = run;
	const { contacts } = run.engine;
	const loads = new Map<number, Load>();
	let grew = false;
	/** What presses on `i` is as heavy as `by`, or as what presses on that. */
	const press = (i: number, by: number): void => {
		const heaviest = Math.max(freeMass(run, by), loads.get(by)?.heaviest ?? 0);
		const load = loads.get(i);
		if (load ? heaviest <= load.heaviest : heaviest < 2 * scene.mass[i]! && doublings[i] === 0) return;
		if (load) load.heaviest = heaviest;
		else if (!movesAlone(run, i)) return;
		else loads.set(i, { impulse: 0, backed: 0, heaviest });
		grew = true;
	};
	for (let layer = 0; layer < MOST_LAYERS && (layer === 0 || grew); layer++) {
		grew = false;
		for (let k = 0; k < contacts.count; k++) {
			press(contacts.a[k]!, contacts.b[k]!);
			press(contacts.b[k]!, contacts.a[k]!);
		}
	}
	if (loads.size === 0) return loads;
	const note = (i: number, by: number, impulse: number): void => {
		const load = loads.get(i);
		if (!load) return;
		load.impulse += impulse;
		if (scene.kind[by] !== Kind.Active || doublings[by]! > 0) load.backed += impulse;
	};
	for (let k = 0; k < contacts.count; k++) {
		note(contacts.a[k]!, contacts.b[k]!, contacts.impulse[k]!);
		note(contacts.b[k]!, contacts.a[k]!, contacts.impulse[k]!);
	}
	return loads;
}

/** kg of all that moves with a body by itself. */
function freeMass({ scene, engine, held }: Stepped, i: number): number {
	if (scene.kind[i] !== Kind.Active || held[i] !== Held.Free) return 0;
	const members = engine.membersOf(engine.carrier[i]!);
	if (members.length === 1) return scene.mass[i]!;
	return engine.moves(i) ? members.reduce((sum, member) => sum + scene.mass[member]!, 0) : 0;
}
