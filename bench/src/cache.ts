import { type Chunk, decodeChunk, encodeChunk, NO_EVENTS, POSE_STRIDE } from "@rubble/core/cache";
import { hashBytes } from "@rubble/core/common";
import { type Bench, median, type Row } from "./types";

/** 24 frames of bodies that all move, each its own way. */
export function chunkOf(bodies: number, firstFrame = 1): Chunk {
	const frames = 24;
	const poses = new Float32Array(frames * bodies * POSE_STRIDE);
	for (let f = 0; f < frames; f++)
		for (let b = 0; b < bodies; b++) {
			const at = (f * bodies + b) * POSE_STRIDE;
			const angle = 0.01 * f * (1 + (b % 7));
			poses.set([b % 50, 10 - 0.004 * f * f, Math.floor(b / 50), 0, Math.sin(angle / 2), 0, Math.cos(angle / 2)], at);
		}
	return {
		firstFrame,
		frames,
		bodies,
		poses,
		contacts: new Uint32Array(frames),
		awake: new Uint32Array(frames).fill(bodies),
		energy: new Float32Array(frames),
		joints: 0,
		loads: new Float32Array(0),
		events: NO_EVENTS,
	};
}

const row = (bodies: number): Row => ({
	name: `24 frames of ${bodies.toLocaleString("en")} bodies`,
	run: async () => {
		const chunk = chunkOf(bodies);
		const bytes = encodeChunk(chunk);
		return {
			MB: bytes.length / 1e6,
			"bytes a body and frame": bytes.length / bodies / 24,
			"write ms": await median(5, () => encodeChunk(chunk)),
			"read ms": await median(5, () => decodeChunk(bytes)),
			"SHA-256 ms": await median(5, () => hashBytes(bytes)),
		};
	},
});

export const cache: Bench = { id: "cache", title: "Cache: one chunk written and read", rows: [300, 3_000, 30_000].map(row) };
