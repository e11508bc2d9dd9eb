import { EventKind, type FrameEvents, type FrameStore, isBreak } from "../cache";

/** How a take went, frame by frame from its first one on. */
export interface TakeSeries {
	readonly firstFrame: number;
	/** J */
	readonly energy: readonly number[];
	readonly awake: readonly number[];
	/** Bonds and connectors that have broken until then. */
	readonly broken: readonly number[];
	readonly lost: readonly number[];
	readonly contacts: readonly number[];
}

export function takeSeries({ chunks }: FrameStore): TakeSeries {
	const energy: number[] = [];
	const awake: number[] = [];
	const contacts: number[] = [];
	const broken: number[] = [];
	const lost: number[] = [];
	const firstFrame = chunks[0]?.firstFrame ?? 1;
	for (const chunk of chunks) {
		energy.push(...chunk.energy);
		awake.push(...chunk.awake);
		contacts.push(...chunk.contacts);
		const breaks = new Array<number>(chunk.frames).fill(0);
		const losses = new Array<number>(chunk.frames).fill(0);
		chunk.events.frame.forEach((frame, e) => {
			const kind = chunk.events.kind[e]!;
			if (isBreak(kind) || kind === EventKind.Parted) breaks[frame - chunk.firstFrame]!++;
			else if (kind === EventKind.Lost) losses[frame - chunk.firstFrame]!++;
		});
		for (let n = 0; n < chunk.frames; n++) {
			broken.push((broken.at(-1) ?? 0) + breaks[n]!);
			lost.push((lost.at(-1) ?? 0) + losses[n]!);
		}
	}
	return { firstFrame, energy, awake, broken, lost, contacts };
}

/** The frame from which on nothing is awake any more; undefined where something still is at the end. */
export function restsFrom({ firstFrame, awake }: TakeSeries): number | undefined {
	if (awake.length === 0 || awake.at(-1)! > 0) return undefined;
	let at = awake.length;
	while (at > 0 && awake[at - 1] === 0) at--;
	return firstFrame + at;
}

/** Events of all frames, one after the other; undefined where there are no frames. */
export function joinEvents({ chunks }: FrameStore): FrameEvents | undefined {
	if (chunks.length === 0) return undefined;
	const join = <A extends Int32Array | Uint8Array | Float32Array>(pick: (events: FrameEvents) => A): A => {
		const parts = chunks.map((chunk) => pick(chunk.events));
		const out = new (parts[0]!.constructor as new (n: number) => A)(parts.reduce((sum, part) => sum + part.length, 0));
		let at = 0;
		for (const part of parts) {
			out.set(part, at);
			at += part.length;
		}
		return out;
	};
	return {
		frame: join((e) => e.frame),
		kind: join((e) => e.kind),
		a: join((e) => e.a),
		b: join((e) => e.b),
		value: join((e) => e.value),
		place: join((e) => e.place),
	};
}
