import { EventKind, isBreak } from "@rubble/core/cache";
import { loadShares } from "@rubble/core/takes";
import { Color } from "three";
import type { WorkbenchState } from "../store/store";
import { rampColour } from "./colours";
import type { TieLines } from "./overlays";

const WEAK = new Color("#b9cfcb");
const STRONG = new Color("#0b4f4b");
const WHOLE = new Color("#0b6e69");
const ROOTED = new Color("#2f6fa8");
const BROKEN = new Color("#b5452c");
const ENDLESS = new Color("#5b6770");
const JOINT = new Color("#5a4fa3");
const PICKED = new Color("#12a594");
/** Half the length of the cross that marks a joint, as a share of the way to its body's middle, and in metres at least. */
const MARK = 0.25;
const LEAST_MARK = 0.03;

type Shown = Pick<WorkbenchState, "ties" | "tieColour" | "frame" | "frames" | "take" | "bound" | "shot">;

/** Bonds and joints at the frame on show: what has broken is gone, or red where the state is asked for. */
export function tieLines(state: Shown): TieLines | null {
	const { ties, tieColour, bound } = state;
	if (!ties) return null;
	const broken = brokenPairs(state);
	const ends: number[] = [];
	const bodies: number[] = [];
	const colours: number[] = [];
	const colour = new Color();
	const add = (from: ArrayLike<number>, to: ArrayLike<number>, a: number, b: number, tint: Color) => {
		ends.push(from[0]!, from[1]!, from[2]!, to[0]!, to[1]!, to[2]!);
		bodies.push(a, b);
		colours.push(tint.r, tint.g, tint.b);
	};
	const { bonds } = ties;
	const strongest = bonds.tension.reduce((most, v) => (Number.isFinite(v) ? Math.max(most, v) : most), 1e-9);
	const loaded = bonds.use.reduce((most, v) => Math.max(most, v), 1e-9);
	for (let k = 0; k < bonds.tension.length; k++) {
		const [a, b] = [bonds.bodies[2 * k]!, bonds.bodies[2 * k + 1]!];
		const gone = broken.has(pairKey(ties.ids[a]!, ties.ids[b]!));
		if (gone && tieColour !== "state") continue;
		if (gone) colour.copy(BROKEN);
		else if (bound?.kind === "bonds" && ties.sets[bonds.set[k]!] === bound.id && tieColour === "state") colour.copy(PICKED);
		else if (tieColour === "load") rampColour(Math.sqrt(bonds.use[k]! / loaded), colour);
		else if (!Number.isFinite(bonds.tension[k]!)) colour.copy(ENDLESS);
		else if (tieColour === "strength") colour.lerpColors(WEAK, STRONG, bonds.tension[k]! / strongest);
		else colour.copy(bonds.rooted[k] === 1 ? ROOTED : WHOLE);
		add(bonds.ends.subarray(6 * k, 6 * k + 3), bonds.ends.subarray(6 * k + 3, 6 * k + 6), a, b, colour);
	}
	const loads = tieColour === "load" && state.take ? loadShares(state.take.take, state.frames, state.frame) : undefined;
	/** By connector: how many of its joints have been seen. */
	const seen = new Map<string, number>();
	for (const { connector, a, b, from, to, middleA, middleB, held, moving } of ties.joints) {
		const k = seen.get(connector) ?? 0;
		seen.set(connector, k + 1);
		if (b >= 0 && broken.has(pairKey(ties.ids[a]!, ties.ids[b]!))) continue;
		const share = loads?.get(connector)?.[k];
		const own = bound?.kind === "connector" && bound.id === connector ? PICKED : JOINT;
		const tint = share === undefined ? own : rampColour(Math.sqrt(share), new Color());
		add(middleA, from, a, a, tint);
		if (middleB) add(to, middleB, b, b, tint);
		// Its own line, for those that have a length.
		add(from, to, a, b, tint);
		for (let k = 0; k < held.length; k += 6) add(held.slice(k, k + 3), held.slice(k + 3, k + 6), b, b, tint);
		for (let k = 0; k < moving.length; k += 6) add(moving.slice(k, k + 3), moving.slice(k + 3, k + 6), a, a, tint);
		const size = Math.max(LEAST_MARK, MARK * Math.hypot(...from.map((x, k) => x - middleA[k]!)));
		for (let axis = 0; axis < 3; axis++) {
			const shift = (side: number) => from.map((x, k) => x + (k === axis ? side * size : 0));
			add(shift(-1), shift(1), a, a, tint);
		}
	}
	return { ids: ties.ids, ends: Float32Array.from(ends), bodies: Int32Array.from(bodies), colours: Float32Array.from(colours) };
}

const pairKey = (a: string, b: string): string => `${a}|${b}`;

/** Pairs that a run has parted up to the frame on show. */
function brokenPairs({ frames, take, frame }: Shown): Set<string> {
	const pairs = new Set<string>();
	const ids = take?.take.bodies;
	if (!ids) return pairs;
	for (const { events, firstFrame } of frames.chunks) {
		if (firstFrame > frame) break;
		events.kind.forEach((kind, k) => {
			const [a, b] = [events.a[k]!, events.b[k]!];
			if (events.frame[k]! <= frame && (isBreak(kind) || kind === EventKind.Parted) && b >= 0) pairs.add(pairKey(ids[a]!.id, ids[b]!.id));
		});
	}
	return pairs;
}
