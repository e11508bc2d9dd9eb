import { tripleAt, vec3 } from "../../maths";
import { find, unite } from "../../mesh";
import { type HeavierState, showHeavier } from "../heavier";
import type { Running } from "../running";
import { Kind, type SimScene, stepSeconds } from "../scene";
import type { JointLoad } from "./loads";

/**
 * Keeps light parts of taut ropes from shaking. What is pulled at both ends by T turns about its middle like a string's piece, at
 * ω² = T l / I for a length l between its ends, and moves aside at ω² = 4 T / m l; joints are followed as if that were no force of its own, and
 * what swings by more than ω h = 2 in a part h of a step grows without end (geometric stiffness; Tournier, Nesme, Gilles & Faure 2015, "Stable
 * Constrained Dynamics"). Two crates of 1,000 kg on a rope of 16 parts of 0.1 kg over an edge got 1e17 J. So what is pulled harder is as hard to
 * turn, and to move, as that takes, for as long as it is: beside what pulls so hard it is next to nothing.
 *
 * Tried: leaving out what a line straight to the heavy body (`connectors/guards.ts`) bears meanwhile. It does so by fits and starts, and
 * between them the rope shook.
 */
export interface Taut {
	/** Bodies with joints at two places and more that may need it. */
	readonly inner: readonly Inner[];
	/** Joints of these. */
	readonly joints: ReadonlySet<number>;
}

interface Inner {
	readonly body: number;
	readonly joints: readonly number[];
	/** Between the two of its joints that are farthest apart, metres. */
	readonly span: number;
	/** The middle one of its principal moments, kg m²: a rod's across it. */
	readonly inertia: number;
}

/** ω² h² that is left at most, of the 4 at which it goes wrong. */
const ALLOWED = 2;
/** A rope may be pulled by the heaviest body on it at this acceleration, m/s²: what is never pulled so hard need not be looked at. */
const HARD = 50;
/** At most so many doublings. */
const MOST = 16;

export function findTaut(scene: SimScene): Taut {
	const { joints, kind, mass, inertia, count } = scene;
	const moves = (i: number): boolean => i >= 0 && kind[i] === Kind.Active;
	const of = new Map<number, number[]>();
	const root = Int32Array.from({ length: count }, (_, i) => i);
	for (const [n, { a, b }] of joints.entries()) {
		for (const i of [a, b]) if (moves(i)) of.set(i, [...(of.get(i) ?? []), n]);
		if (moves(a) && moves(b)) unite(root, a, b);
	}
	const heaviest = new Map<number, number>();
	for (const i of of.keys()) heaviest.set(find(root, i), Math.max(heaviest.get(find(root, i)) ?? 0, mass[i]!));
	const h = partOfStep(scene);
	const inner = [...of].flatMap(([body, list]): Inner[] => {
		const places = list.map((n) => (joints[n]!.a === body ? joints[n]!.from : joints[n]!.to));
		const span = places.reduce(
			(most, one) => places.reduce((far, other) => Math.max(far, vec3.length(vec3.subtract(one, other))), most),
			0,
		);
		const [, middle] = [...tripleAt(inertia, body)].sort((x, y) => x - y);
		const mayShake = HARD * heaviest.get(find(root, body))! * span * h * h > ALLOWED * middle!;
		return mayShake ? [{ body, joints: list, span, inertia: middle! }] : [];
	});
	return { inner: inner.sort((x, y) => x.body - y.body), joints: new Set(inner.flatMap((one) => one.joints)) };
}

/** The library takes as many parts as it has iterations. */
const partOfStep = (scene: SimScene): number => stepSeconds(scene) / scene.settings.solverIterations;

/** Makes parts as hard to turn as the loads of the last step ask; whether that step is to be done again. */
export function stiffenTaut(run: Running, { inner }: Taut, heavier: HeavierState, loads: readonly JointLoad[]): boolean {
	const { scene, engine } = run;
	const { taut } = heavier;
	const forces = new Map(loads.map(({ joint, force }) => [joint, vec3.length(force)]));
	const h = partOfStep(scene);
	let isWrong = false;
	for (const { body, joints, span, inertia } of inner) {
		const pull = joints.reduce((most, n) => Math.max(most, forces.get(n) ?? 0), 0);
		const needs = (pull * span * h * h) / (ALLOWED * inertia);
		let doublings = 0;
		while (doublings < MOST && 2 ** doublings < needs) doublings++;
		const was = taut[body]!;
		if (doublings === was) continue;
		taut[body] = doublings > was ? doublings : was - 1;
		showHeavier(engine, heavier, body);
		isWrong ||= doublings > was;
	}
	return isWrong;
}
