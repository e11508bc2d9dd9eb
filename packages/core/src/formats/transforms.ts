import { bytesOf } from "./text";
import type { ExportScene, TakeFormat } from "./types";

/** A table of keys: frame, seconds, name, place in metres, rotation as a quaternion. */
export const csv: TakeFormat = {
	id: "csv",
	label: "CSV",
	extension: "csv",
	mime: "text/csv",
	help: "A table of places and rotations",
	write: (scene) => {
		const lines = ["frame,seconds,name,x,y,z,qx,qy,qz,qw"];
		eachKey(scene, ({ path, frame, seconds, translation, rotation }) => {
			lines.push([frame, shortest(seconds), quoted(path), ...translation.map(shortest), ...rotation.map(shortest)].join(","));
		});
		return bytesOf(`${lines.join("\n")}\n`);
	},
};

/** The same keys by body, as JSON. */
export const json: TakeFormat = {
	id: "json",
	label: "JSON",
	extension: "json",
	mime: "application/json",
	help: "Places and rotations by name, for scripts",
	write: (scene) => {
		const bodies = scene.items
			.filter((item) => scene.baked?.tracks[item.track])
			.map((item) => {
				const track = scene.baked!.tracks[item.track]!;
				return {
					name: item.path,
					frames: [...track.frames],
					translations: group([...track.translations].map(float), 3),
					rotations: group([...track.rotations].map(float), 4),
				};
			});
		return bytesOf(
			`${JSON.stringify({ format: "mighty-rubble-transforms", version: 1, name: scene.name, fps: scene.fps, firstFrame: scene.firstFrame, units: { length: "m", rotation: "quaternion xyzw", up: "y" }, bodies })}\n`,
		);
	},
};

interface KeyRow {
	readonly path: string;
	readonly frame: number;
	readonly seconds: number;
	readonly translation: readonly number[];
	readonly rotation: readonly number[];
}

function eachKey(scene: ExportScene, visit: (key: KeyRow) => void): void {
	for (const item of scene.items) {
		const track = scene.baked?.tracks[item.track];
		if (!track) continue;
		track.frames.forEach((frame, k) => {
			visit({
				path: item.path,
				frame,
				seconds: (frame - scene.firstFrame) / scene.fps,
				translation: [...track.translations.subarray(3 * k, 3 * k + 3)],
				rotation: [...track.rotations.subarray(4 * k, 4 * k + 4)],
			});
		});
	}
}

/** Nine significant digits hold any float32. */
const float = (value: number): number => Number(value.toPrecision(9));
const shortest = (value: number): string => String(float(value));
const quoted = (text: string): string => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
const group = (values: readonly number[], size: number): number[][] =>
	Array.from({ length: values.length / size }, (_, i) => values.slice(i * size, (i + 1) * size));
