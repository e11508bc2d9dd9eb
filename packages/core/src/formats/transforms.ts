import { poseAt } from "../bake";
import { bytesOf, float } from "./text";
import type { ExportScene, OneFileFormat } from "./types";

/** A table of keys: frame, seconds, name, place in metres, rotation as a quaternion. */
export const csv: OneFileFormat = {
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
export const json: OneFileFormat = {
	id: "json",
	label: "JSON",
	extension: "json",
	mime: "application/json",
	help: "Places and rotations by name, for scripts",
	write: (scene) => {
		const bodies = scene.items
			.filter((item) => scene.tracks[item.track])
			.map((item) => {
				const track = scene.tracks[item.track]!;
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

/** A line of JSON for the head, for each frame with all transforms, and for each event, in the order of time. */
export const jsonLines: OneFileFormat = {
	id: "jsonl",
	label: "JSON Lines",
	extension: "jsonl",
	mime: "application/x-ndjson",
	help: "Every frame and every event on a line of its own, for scripts that read as they go",
	write: (scene) => {
		const moving = scene.items.filter((item) => scene.tracks[item.track]);
		const lines: unknown[] = [
			{
				format: "mighty-rubble-lines",
				version: 1,
				name: scene.name,
				fps: scene.fps,
				frames: [scene.firstFrame, scene.lastFrame],
				units: { length: "m", rotation: "quaternion xyzw", up: "y" },
				bodies: moving.map((item) => item.path),
			},
		];
		let next = 0;
		const events = [...scene.events].sort((a, b) => a.frame - b.frame);
		for (let frame = scene.firstFrame; frame <= scene.lastFrame; frame++) {
			const poses = moving.map((item) => poseAt(scene.tracks[item.track]!, frame));
			lines.push({
				frame,
				seconds: float((frame - scene.firstFrame) / scene.fps),
				translations: poses.map(({ translation }) => translation.map(float)),
				rotations: poses.map(({ rotation }) => rotation.map(float)),
			});
			for (; next < events.length && events[next]!.frame <= frame; next++) {
				const { what, a, b, value, unit, at, ...event } = events[next]!;
				lines.push({ event: what, frame: event.frame, a, ...(b && { b }), value: float(value), unit, ...(at && { at: at.map(float) }) });
			}
		}
		return bytesOf(`${lines.map((line) => JSON.stringify(line)).join("\n")}\n`);
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
		const track = scene.tracks[item.track];
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

const shortest = (value: number): string => String(float(value));
const quoted = (text: string): string => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
const group = (values: readonly number[], size: number): number[][] =>
	Array.from({ length: values.length / size }, (_, i) => values.slice(i * size, (i + 1) * size));
