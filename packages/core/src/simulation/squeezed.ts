import type { Running } from "./running";
import { Held, Kind, type SimScene, stepSeconds } from "./scene";

/**
 * What something heavy drives into what it lies on. To the library a contact is a spring, as stiff as the lighter of both can still be
 * held by (`contactSpring.ts`): so what is M / m times lighter than what comes on it at v gives way to the ground by v √(M/m) / ω. A ball
 * of 260 kg that fell 2 m drove stones of 2 kg, 120 mm thick, 106 mm into the ground. In shorter steps less of its speed is left at the end
 * of each, and such a blow lasts for few of them; what its weight does is left to `braced.ts`.
 *
 * Tried on these stones, 400 times lighter ones of oak and 900 times lighter ones of ice: 106, 97 and 135 mm; with three times the
 * iterations 76 mm; in eighths of a step 21, 80 and 135 mm; braced in whole steps 47, 88 and 104 mm; both 5, 2 and 24 mm.
 */
/** So many times heavier than what it meets. */
const HEAVY = 4;
/** What still comes on by more than this share of its thickness in a step, after the library has held it up, has not been held up. */
const SHARE = 0.05;
/** At least so far, m: shards that rub against each other are no thicker than a few millimetres. */
const LEAST_WAY = 1e-3;

type Stepped = Pick<Running, "scene" | "engine" | "held" | "before">;

/** Whether the last step was too long for something light that something heavy drove into what it lies on. */
export function isSqueezed(run: Stepped): boolean {
	const { scene, engine } = run;
	const light = lightOnes(run);
	if (light.size === 0) return false;
	const dt = stepSeconds(scene);
	const { contacts } = engine;
	const isDriven = (i: number, into: number): boolean =>
		light.has(i) && scene.kind[into] !== Kind.Active && (engine.approach(i, into) ?? 0) * dt > mostWay(scene, i, into);
	for (let k = 0; k < contacts.count; k++)
		if (isDriven(contacts.a[k]!, contacts.b[k]!) || isDriven(contacts.b[k]!, contacts.a[k]!)) return true;
	return false;
}

/**
 * Whether something that slept was met hard in the last step. The library wakes it, but its contacts with what it lies on work from the next
 * step on only: a blow would have driven it into that for a whole step.
 */
export function meetsSleeping({ scene, engine, before }: Stepped): boolean {
	const dt = stepSeconds(scene);
	const { contacts } = engine;
	const slept = (i: number): boolean => scene.kind[i] === Kind.Active && before.awake[i] === 0 && engine.moves(i);
	for (let k = 0; k < contacts.count; k++) {
		const [a, b] = [contacts.a[k]!, contacts.b[k]!];
		if (!slept(a) && !slept(b)) continue;
		if ((engine.touch(a, b, before)?.approach ?? 0) * dt > mostWay(scene, a, b)) return true;
	}
	return false;
}

/** Bodies that move by themselves, alone, and that something so much heavier met that does, too, and has no blow on anything bonded. */
function lightOnes(run: Stepped): Set<number> {
	const { scene, engine } = run;
	const { contacts } = engine;
	const met: [light: number, heavy: number][] = [];
	for (let k = 0; k < contacts.count; k++) {
		const [a, b] = [contacts.a[k]!, contacts.b[k]!];
		if (scene.mass[a]! > HEAVY * scene.mass[b]!) met.push([b, a]);
		else if (scene.mass[b]! > HEAVY * scene.mass[a]!) met.push([a, b]);
	}
	const found = met.filter(([light, heavy]) => movesAlone(run, light) && movesAlone(run, heavy));
	if (found.length === 0) return new Set();
	const strikes = new Set<number>();
	for (let k = 0; k < contacts.count; k++) {
		const [a, b] = [contacts.a[k]!, contacts.b[k]!];
		if (isBound(run, a)) strikes.add(b);
		if (isBound(run, b)) strikes.add(a);
	}
	return new Set(found.filter((pair) => !pair.some((i) => strikes.has(i))).map(([light]) => light));
}

/** Whether others move with it, or hold it. */
const isBound = ({ engine }: Stepped, i: number): boolean => engine.membersOf(engine.carrier[i]!).length > 1;

/** Whether it moves by itself, and nothing with it. */
export const movesAlone = (run: Stepped, i: number): boolean =>
	run.scene.kind[i] === Kind.Active && run.held[i] === Held.Free && !isBound(run, i);

/** How far one of two bodies may come into the other in a step, m. What holds still is as thick as it may be. */
function mostWay({ kind, thickness }: SimScene, a: number, b: number): number {
	const of = (i: number): number => (kind[i] === Kind.Active ? thickness[i]! : Number.POSITIVE_INFINITY);
	return Math.max(LEAST_WAY, SHARE * Math.min(of(a), of(b)));
}
