import { type Chunk, type FrameStore, LOAD_STRIDE } from "../cache";
import type { Id } from "../shot";
import type { Take } from "../simulation";

type Loaded = Pick<Take, "joints" | "wentOn">;

/** What a connector bore in a take; of several joints the most that any of them did. */
export interface ConnectorLoads {
	/** One by one from there on. */
	readonly firstFrame: number;
	/** N, N m */
	readonly force: readonly number[];
	readonly moment: readonly number[];
	/** Which of its joints bore the most force, from 0. */
	readonly joint: readonly number[];
}

/** Undefined where the take says nothing of it: it has no such connector, no frames, or is of an older build. */
export function connectorLoads(take: Loaded, store: FrameStore, connector: Id): ConnectorLoads | undefined {
	const joints = (take.joints ?? []).flatMap((id, n) => (id === connector ? [n] : []));
	const chunks = loadedChunks(take, store);
	if (joints.length === 0 || chunks.length === 0) return undefined;
	const [force, moment, worst]: [number[], number[], number[]] = [[], [], []];
	for (const chunk of chunks)
		for (let frame = 0; frame < chunk.frames; frame++) {
			const at = (n: number): number => LOAD_STRIDE * (frame * chunk.joints + n);
			let most = 0;
			for (const k of joints.keys()) if (chunk.loads[at(joints[k]!)]! > chunk.loads[at(joints[most]!)]!) most = k;
			worst.push(most);
			force.push(chunk.loads[at(joints[most]!)]!);
			moment.push(joints.reduce((sum, n) => Math.max(sum, chunk.loads[at(n) + 1]!), 0));
		}
	return { firstFrame: chunks[0]!.firstFrame, force, moment, joint: worst };
}

/** By connector: the most force that any of its joints bore in the take, N. */
export function mostBorne(take: Loaded | undefined, store: FrameStore): ReadonlyMap<Id, number> {
	const ids = new Set(take?.joints);
	return new Map(
		[...ids].flatMap((id) => {
			const loads = connectorLoads(take!, store, id);
			return loads ? [[id, loads.force.reduce((a, b) => Math.max(a, b), 0)] as const] : [];
		}),
	);
}

/** The frame in which a number of a connector was greatest; the first of several. */
export const frameOfMost = (firstFrame: number, values: readonly number[]): number =>
	firstFrame + values.indexOf(values.reduce((a, b) => Math.max(a, b), Number.NEGATIVE_INFINITY));

/** By connector: what each of its joints bears at a frame as a share of the most force that any joint of the take ever bears. */
export function loadShares(take: Loaded, store: FrameStore, frame: number): ReadonlyMap<Id, readonly number[]> {
	const shares = new Map<Id, number[]>();
	const chunks = loadedChunks(take, store);
	const chunk = chunks.find(({ firstFrame, frames }) => frame >= firstFrame && frame < firstFrame + frames);
	if (!chunk) return shares;
	const most = mostForce(chunks);
	for (const [n, id] of take.joints!.entries()) {
		const own = chunk.loads[LOAD_STRIDE * ((frame - chunk.firstFrame) * chunk.joints + n)]!;
		const known = shares.get(id);
		const share = most > 0 ? own / most : 0;
		if (known) known.push(share);
		else shares.set(id, [share]);
	}
	return shares;
}

/** Chunks that know of the take's joints: not those of another take that it went on from. */
const loadedChunks = ({ joints = [], wentOn }: Loaded, { chunks }: FrameStore): readonly Chunk[] =>
	joints.length === 0
		? []
		: chunks.filter((chunk) => chunk.joints === joints.length && (wentOn === undefined || chunk.firstFrame > wentOn.frame));

const mostForce = (chunks: readonly Chunk[]): number => chunks.reduce((most, chunk) => Math.max(most, mostOf(chunk)), 0);

/** N. A chunk never changes, and the view asks at every frame. */
const known = new WeakMap<Chunk, number>();

function mostOf(chunk: Chunk): number {
	let most = known.get(chunk);
	if (most !== undefined) return most;
	most = 0;
	for (let k = 0; k < chunk.loads.length; k += LOAD_STRIDE) most = Math.max(most, chunk.loads[k]!);
	known.set(chunk, most);
	return most;
}
