import type { Chunk } from "../cache";
import { type Hash, hashText } from "../common";
import type { Id, Shot } from "../shot";
import { BUILD_ID, frameHashes } from "./hashes";
import type { SimScene } from "./scene";

/** What a run leaves behind beside its frames. Immutable; the shot may go on changing. */
export interface Take {
	readonly format: "mighty-rubble-take";
	readonly version: 1;
	readonly name: string;
	/** The document as it was when it ran. */
	readonly snapshot: Shot;
	readonly build: string;
	readonly bodies: readonly { readonly id: string; readonly path: string }[];
	/** The connector of each joint; takes of older builds have none. */
	readonly joints?: readonly Id[] | undefined;
	/** Where it went on from the frame of another take with other settings. */
	readonly wentOn?: { readonly take: string; readonly frame: number } | undefined;
	/** One per frame that is stored, from the first of the range on. */
	readonly frameHashes: readonly Hash[];
	readonly chunks: readonly StoredChunk[];
}

/** Where a chunk of frames is to be found, and what lets a run go on after it. */
export interface StoredChunk {
	readonly firstFrame: number;
	readonly frames: number;
	/** SHA-256 of the encoded chunk. */
	readonly hash: Hash;
	/** SHA-256 of the encoded checkpoint at its end; null where the run was cut short. */
	readonly checkpoint: Hash | null;
}

export const makeTake = (name: string, shot: Shot, scene: Pick<SimScene, "ids" | "paths" | "shown" | "joints">): Take => ({
	format: "mighty-rubble-take",
	version: 1,
	name,
	snapshot: shot,
	build: BUILD_ID,
	bodies: scene.ids.slice(0, scene.shown).map((id, i) => ({ id, path: scene.paths[i]! })),
	joints: scene.joints.map(({ connector }) => connector),
	frameHashes: [],
	chunks: [],
});

/**
 * The hashes that frames of a take must have to hold for a shot whose own are `hashes`. Where it went on from another
 * take those before are what they are, and those after follow from them and the shot.
 */
export function hashesOver(take: Pick<Take, "wentOn" | "frameHashes" | "snapshot"> | undefined, hashes: readonly Hash[]): readonly Hash[] {
	if (!take?.wentOn) return hashes;
	const count = take.wentOn.frame - take.snapshot.settings.firstFrame + 1;
	const before = take.frameHashes.slice(0, count);
	return [...before, ...hashes.slice(count).map((hash) => hashText(`${before[count - 1]}|${hash}`))];
}

/** The take with one more chunk; chunks that began at or after it are dropped. */
export function withChunk(
	take: Take,
	chunk: Pick<Chunk, "firstFrame" | "frames">,
	hash: Hash,
	checkpoint: Hash | null,
	hashes: readonly Hash[] = hashesOver(take, frameHashes(take.snapshot)),
): Take {
	const chunks = [
		...take.chunks.filter((other) => other.firstFrame < chunk.firstFrame),
		{ firstFrame: chunk.firstFrame, frames: chunk.frames, hash, checkpoint },
	];
	return { ...take, chunks, frameHashes: hashes.slice(0, chunk.firstFrame + chunk.frames - take.snapshot.settings.firstFrame) };
}

/** One hash for all motion: equal takes moved alike, bit for bit. */
export const takeHash = (take: Take): Hash => hashText(take.chunks.map((chunk) => chunk.hash).join());

/**
 * What of a take still holds for a shot with these frame hashes: the chunks up to the last checkpoint before the first
 * stale frame, that checkpoint, and the first frame that is to be made.
 */
export function whatHolds(
	take: Take | undefined,
	hashes: readonly Hash[],
	firstFrame: number,
): { readonly kept: readonly StoredChunk[]; readonly checkpoint: Hash | null; readonly begun: number } {
	const last = take && chunkToGoOnFrom(take, hashes);
	if (!last) return { kept: [], checkpoint: null, begun: firstFrame };
	const kept = take.chunks.filter((chunk) => chunk.firstFrame <= last.firstFrame);
	return { kept, checkpoint: last.checkpoint, begun: last.firstFrame + last.frames };
}

/** The last chunk from whose end a run of a shot with these frame hashes may go on. */
export function chunkToGoOnFrom(take: Take, hashes: readonly Hash[]): StoredChunk | undefined {
	const first = take.snapshot.settings.firstFrame;
	return [...take.chunks].reverse().find((chunk) => {
		const end = chunk.firstFrame + chunk.frames - 1 - first;
		return chunk.checkpoint !== null && end < hashes.length && hashes[end] === take.frameHashes[end];
	});
}
