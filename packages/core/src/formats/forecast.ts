import { type ExportScene, isSequence, type TakeFormat } from "./types";
import { zipFiles } from "./zip";

/** Frames and tracks that are really written to tell the size of the whole. */
const PROBED_FRAMES = 3;
const PROBED_TRACKS = 64;

/**
 * About how many bytes a format will make of a scene: a part of it is written, and the rest taken to be alike. Undefined
 * for what only workers can make.
 */
export async function forecastSize(scene: ExportScene, format: TakeFormat): Promise<number | undefined> {
	if (format.workersOnly) return undefined;
	if (isSequence(format)) {
		const count = scene.lastFrame - scene.firstFrame + 1;
		const probes = Math.min(PROBED_FRAMES, count);
		const frames = Array.from({ length: probes }, (_, n) =>
			format.frame(scene, scene.firstFrame + Math.round(((n + 0.5) * count) / probes - 0.5)),
		);
		const shared = format.shared(scene);
		const own = (await zipFiles(frames, probes)).length;
		return Math.round((own * count) / probes + (shared.length > 0 ? (await zipFiles(shared, shared.length)).length : 0));
	}
	const write = async (tracks: ReadonlySet<number>) => {
		const items = scene.items.map((item) => (tracks.has(item.track) ? item : { ...item, track: -1 }));
		return (await format.write({ ...scene, items }, {})).length;
	};
	const still = await write(new Set());
	const count = scene.tracks.length;
	if (count === 0) return still;
	const every = Math.max(1, count / PROBED_TRACKS);
	const probed = Array.from({ length: Math.ceil(count / every) }, (_, n) => Math.floor(n * every));
	const keys = (tracks: readonly number[]) => tracks.reduce((sum, n) => sum + scene.tracks[n]!.frames.length, 0);
	const all = keys(scene.tracks.map((_, n) => n));
	return Math.round(still + (((await write(new Set(probed))) - still) * all) / keys(probed));
}
