import { frameOfTick, type Ticks } from "../../shot";
import type { Running as OfStep } from "../running";
import type { SimScene } from "../scene";
import type { Pressed } from "./blowContacts";
import type { BondNet } from "./bondNet";
import { type Break, type Lattice, weakenBond } from "./lattice";
import type { Structures } from "./structures";

/**
 * What is bonded moves as one body until its bonds break. Blows go through `lattice.ts` within the step in which they
 * fall; loads that come slowly, own weight among them, through `equilibrium.ts` once a frame. Whatever comes apart
 * moves on with the velocity of its material.
 */
export interface BondState {
	/** 1 per bond, see `lattice.ts`. */
	readonly state: Uint8Array;
	/** 1 per bond: share of its strength that has been lost to earlier blows. */
	readonly damage: Float64Array;
	/** 1 per bond: highest use of its strength in this frame. */
	readonly peak: Float64Array;
	/** 6 per body: how far a blow that is not over has moved it, and how fast. */
	readonly u: Float64Array;
	readonly v: Float64Array;
	/** 6 per body: what connectors pulled at it in the last frame, N and N m about its centre. */
	readonly pull: Float64Array;
	/** 6 per body: the slow loads that were last looked at, what they do, and the way in which `balance` was looking for it. */
	readonly load: Float64Array;
	readonly bent: Float64Array;
	readonly search: Float64Array;
	/** 1 per body, see `Look`. */
	readonly settled: Uint8Array;
	/** Bonds that broke, and the step until which what they tied does not push each other: 2 per bond. */
	grace: number[];
	/** What contacts of blows hold that are not over. */
	pressed: Pressed;
	/** A body of each group in which waves of a blow still load some bond highly. */
	ringing: number[];
}

/** Whether the slow loads of a body's group are to be looked at; from `PutOff` on they should have been, for one frame and more. */
export const Look = { Due: 0, Balanced: 1, Untouched: 2, PutOff: 3 } as const;

export function makeBondState(scene: SimScene): BondState {
	const [m, n] = [scene.bonds.count, scene.bonds.count > 0 ? scene.count : 0];
	return {
		state: new Uint8Array(m),
		damage: new Float64Array(m),
		peak: new Float64Array(m),
		u: new Float64Array(6 * n),
		v: new Float64Array(6 * n),
		load: new Float64Array(6 * n),
		pull: new Float64Array(6 * n),
		bent: new Float64Array(6 * n),
		search: new Float64Array(6 * n),
		settled: new Uint8Array(n),
		grace: [],
		pressed: new Map(),
		ringing: [],
	};
}

export const copyBondState = (from: BondState): BondState => ({
	state: from.state.slice(),
	damage: from.damage.slice(),
	peak: from.peak.slice(),
	u: from.u.slice(),
	v: from.v.slice(),
	load: from.load.slice(),
	pull: from.pull.slice(),
	bent: from.bent.slice(),
	search: from.search.slice(),
	settled: from.settled.slice(),
	grace: [...from.grace],
	pressed: new Map(from.pressed),
	ringing: [...from.ringing],
});

/** What it takes to find out who hangs together. */
export interface Whereabouts {
	readonly net: BondNet;
	readonly state: BondState;
	/** 1 per body: 0 outside of the functions that use it. */
	readonly part: Int32Array;
}

/** What a run knows of its bonds. */
export interface Bonded extends Whereabouts {
	/** 1 per bond: share of its strength that is left now. */
	readonly left: Float64Array;
	readonly structures: Structures;
	readonly lattice: Lattice;
	/** Whether `left` may be out of date: a blow has fallen, or it was never looked at. */
	disturbed: boolean;
	/** Of what is bonded, the middle one, m. */
	readonly thickness: number;
	/** 1 per body: whether the engine has it where a blow has bent it. */
	readonly bent: Uint8Array;
	/** 6 per body: how what is being struck was bent when the step began. */
	readonly bentBefore: Float64Array;
	/** 1 per body: whether its group has been struck in this frame. */
	readonly struck: Uint8Array;
}

export interface BreakEvent extends Break {
	readonly a: number;
	readonly b: number;
}

/** And the steps since the first frame. */
export interface Running extends OfStep {
	readonly step: number;
}

/** Of the strength that damage can take. */
const MOST_DAMAGE = 0.6;

/** How much of each bond's strength is left in a frame. */
export function weaken({ scene }: Pick<Running, "scene">, bonded: Bonded, tick: Ticks): void {
	const { bonds, settings } = scene;
	const { state, left } = bonded;
	if (!bonded.disturbed && !bonds.sets.some(({ fades }) => fades)) return;
	bonded.disturbed = false;
	const frame = frameOfTick(settings, tick);
	const bySet = bonds.sets.map((set) => set.left(frame));
	for (let k = 0; k < bonds.count; k++) {
		// A second blow finishes what the first began.
		if (state.peak[k]! > bonds.yields[k]!) {
			const damage = (MOST_DAMAGE * (Math.min(1, state.peak[k]!) - bonds.yields[k]!)) / Math.max(1e-9, 1 - bonds.yields[k]!);
			state.damage[k] = Math.max(state.damage[k]!, damage);
		}
		state.peak[k] = 0;
		const now = Math.max(0, bySet[bonds.set[k]!]! * (1 - state.damage[k]!));
		// Weaker bonds may give way under loads that have not changed.
		if (now < left[k]!) unsettle(state, bonds.a[k]!);
		if (now === left[k]) continue;
		left[k] = now;
		weakenBond(bonded.lattice, bonds, k, now);
	}
}

/** Has a body's group looked at again. How often that was put off stays known. */
export function unsettle({ settled }: BondState, body: number): void {
	if (settled[body]! < Look.PutOff) settled[body] = Look.Due;
}
