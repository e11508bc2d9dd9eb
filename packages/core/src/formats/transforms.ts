import { poseAt } from "../bake";
import { type Quat, quatAt, tripleAt, type Vec3 } from "../maths";
import { SPACE_OPTIONS, spaceOf } from "./space";
import { bytesOf, float } from "./text";
import type { ExportScene, OneFileFormat } from "./types";

/** A table of keys: frame, seconds, name, place in metres, rotation as a quaternion. */
export const csv: OneFileFormat = {
	id: "csv",
	label: "CSV",
	extension: "csv",
	mime: "text/csv",
	help: "A table of places and rotations",
	options: SPACE_OPTIONS,
	write: (scene) => {
		const lines = ["frame,seconds,name,x,y,z,qx,qy,qz,qw"];
		const { place, turn } = spaceOf(scene);
		eachKey(scene, ({ path, frame, seconds, translation, rotation }) => {
			lines.push([frame, shortest(seconds), quoted(path), ...place(translation).map(shortest), ...turn(rotation).map(shortest)].join(","));
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
	options: SPACE_OPTIONS,
	write: (scene) => {
		const { up, unit, place, turn } = spaceOf(scene);
		const bodies = scene.items
			.filter((item) => scene.tracks[item.track])
			.map((item) => {
				const track = scene.tracks[item.track]!;
				return {
					name: item.path,
					frames: [...track.frames],
					translations: Array.from(track.frames, (_, k) => place(tripleAt(track.translations, k)).map(float)),
					rotations: Array.from(track.frames, (_, k) => turn(quatAt(track.rotations, k)).map(float)),
				};
			});
		return bytesOf(
			`${JSON.stringify({ format: "mighty-rubble-transforms", version: 1, name: scene.name, fps: scene.fps, firstFrame: scene.firstFrame, units: { length: unit, rotation: "quaternion xyzw", up }, bodies })}\n`,
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
	options: SPACE_OPTIONS,
	write: (scene) => {
		const { up, unit, place, turn } = spaceOf(scene);
		const moving = scene.items.filter((item) => scene.tracks[item.track]);
		const lines: unknown[] = [
			{
				format: "mighty-rubble-lines",
				version: 1,
				name: scene.name,
				fps: scene.fps,
				frames: [scene.firstFrame, scene.lastFrame],
				units: { length: unit, rotation: "quaternion xyzw", up },
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
				translations: poses.map(({ translation }) => place(translation).map(float)),
				rotations: poses.map(({ rotation }) => turn(rotation).map(float)),
			});
			for (; next < events.length && events[next]!.frame <= frame; next++) {
				const { what, a, b, value, unit, at, ...event } = events[next]!;
				lines.push({
					event: what,
					frame: event.frame,
					a,
					...(b && { b }),
					value: float(value),
					unit,
					...(at && { at: place(at).map(float) }),
				});
			}
		}
		return bytesOf(`${lines.map((line) => JSON.stringify(line)).join("\n")}\n`);
	},
};

interface KeyRow {
	readonly path: string;
	readonly frame: number;
	readonly seconds: number;
	/** World, metres. */
	readonly translation: Vec3;
	readonly rotation: Quat;
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
				translation: tripleAt(track.translations, k),
				rotation: quatAt(track.rotations, k),
			});
		});
	}
}

const shortest = (value: number): string => String(float(value));
const quoted = (text: string): string => (/[",\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text);
