import { appendFileSync } from "node:fs";
import validator from "gltf-validator";
import { type Counter, downloaded, press, type Session, state } from "./browser";

/** With RUBBLE_JOURNEYS, a line of a journey's acts, keys and minutes goes into that file, for `docs/journeys.md`. */
export function noteActs(journey: number, { acts, keys, minutes }: Counter): void {
	const line = JSON.stringify({ journey, acts: acts(), keys: keys(), minutes: Number(minutes().toFixed(1)) });
	if (process.env.RUBBLE_JOURNEYS) appendFileSync(process.env.RUBBLE_JOURNEYS, `${line}\n`);
}

/** Bakes the take on show to a GLB file that an independent reader accepts. */
export async function bakedGlb(session: Session): Promise<Uint8Array> {
	await session.page.keyboard.press("7");
	await press(session.page, "Bake and download");
	const file = await downloaded(session, "glb");
	const report = await validator.validateBytes(file);
	expect(report.issues.messages.filter(({ severity }) => severity < 2)).toEqual([]);
	expect(report.info).toMatchObject({ animationCount: 1 });
	return file;
}

/**
 * The end of a journey: its take as a GLB file that an independent reader accepts, in which what moved moves over the frames
 * that were stored.
 */
export async function handOver(session: Session, journey: number, counter?: Counter): Promise<void> {
	if (counter) noteActs(journey, counter);
	const { page } = session;
	const { accessors, animations, nodes } = contents(await bakedGlb(session));
	const seconds = Math.max(...animations[0]!.samplers.map(({ input }) => accessors[input]!.max![0]!));
	const stored = await state(page, (s) => {
		const last = s.frames.chunks[s.frames.chunks.length - 1]!;
		return (last.firstFrame + last.frames - 1 - s.shot.settings.firstFrame!) / s.shot.settings.fps!;
	});
	expect(seconds).toBeCloseTo(stored, 4);
	expect(nodes.every(({ name }) => name !== undefined && name !== "")).toBe(true);
}

interface Contents {
	readonly nodes: readonly { readonly name?: string }[];
	readonly accessors: readonly { readonly max?: readonly number[] }[];
	readonly animations: readonly { readonly samplers: readonly { readonly input: number }[] }[];
}

/** The first part of a GLB file: 12 bytes of head, the length of the part, `JSON`, the text (glTF 2.0, 4.4). */
function contents(file: Uint8Array): Contents {
	const length = new DataView(file.buffer, file.byteOffset).getUint32(12, true);
	return JSON.parse(new TextDecoder().decode(file.subarray(20, 20 + length))) as Contents;
}
