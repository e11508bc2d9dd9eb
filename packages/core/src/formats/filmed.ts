import { encode } from "fast-png";
import { cameraPose, fieldOfViewAt, worldPose } from "../animation";
import { linear, linearOf, type Pixels } from "../colouring";
import { Cancelled, report } from "../common";
import { drawFrame, type FilmItem, type FilmView } from "../film";
import { lookAlong, rotate, tan, type Vec3, vec3 } from "../maths";
import { bounds, type DrawMesh, drawMesh, type Mesh } from "../mesh";
import {
	type Described,
	type Id,
	LIGHT_DEFAULTS,
	type LightSource,
	type OptionValues,
	orderedObjects,
	type Shot,
	tickOfFrame,
} from "../shot";
import { frameStem } from "./names";
import { readPixels } from "./picture";
import { isThere, itemPose, meshAt } from "./posed";
import type { ExportItem, ExportScene, OneFileFormat, SequenceFormat } from "./types";

/** Through which camera, and how large. */
export interface FilmWish {
	readonly width: number;
	readonly height: number;
	/** A camera of the shot; the first one where absent; one that has everything in sight where there is none. */
	readonly camera?: Id | undefined;
}

export const FILM_DEFAULTS: FilmWish = { width: 1280, height: 720 };

const FILM_OPTIONS: Described["options"] = {
	size: {
		kind: "choice",
		label: "Size",
		help: "Pixels across and down",
		default: "1280x720",
		choices: [
			{ id: "640x360", label: "640 × 360", help: "To look at" },
			{ id: "1280x720", label: "1280 × 720", help: "HD" },
			{ id: "1920x1080", label: "1920 × 1080", help: "Full HD" },
			{ id: "3840x2160", label: "3840 × 2160", help: "4K: nine times the time of HD" },
		],
	},
};

/** What the options of a format that is filmed ask for. */
export function filmWish({ size }: OptionValues, camera?: Id): FilmWish {
	const [width, height] = typeof size === "string" ? size.split("x").map(Number) : [];
	return { ...FILM_DEFAULTS, ...(width && height && { width, height }), camera };
}

/** Numbered pictures as the shot's camera sees them, drawn without a graphics card. */
export const pngSequence: SequenceFormat = {
	id: "png",
	colours: "frames",
	label: "Pictures (PNG)",
	extension: "png",
	mime: "image/png",
	help: "A picture for each frame through the shot's camera, drawn without a graphics card: for workers and farms",
	options: FILM_OPTIONS,
	shared: () => [],
	frame: (scene, frame) => {
		const { width, height, rgb } = filmed(scene, frame);
		return { name: `${frameStem(scene, frame)}.png`, bytes: encode({ width, height, data: rgb, channels: 3, depth: 8 }) };
	},
};

/** 0 to 51: the less, the better and the larger. */
const QUANTISER = 20;

/** The same as a video. Its encoder needs Node: workers and the command line make it. */
export const video: OneFileFormat = {
	id: "video",
	colours: "frames",
	label: "Video (MP4)",
	extension: "mp4",
	mime: "video/mp4",
	help: "H.264 at true speed through the shot's camera, drawn without a graphics card; made by workers",
	options: FILM_OPTIONS,
	workersOnly: true,
	write: async (scene, progress) => {
		const encoder = await makeEncoder();
		try {
			const { width, height } = viewOf(scene);
			Object.assign(encoder, {
				width,
				height,
				frameRate: scene.fps,
				quantizationParameter: QUANTISER,
				groupOfPictures: Math.round(scene.fps),
			});
			encoder.initialize();
			for (let frame = scene.firstFrame; frame <= scene.lastFrame; frame++) {
				if (progress.signal?.aborted) throw new Cancelled();
				encoder.addFrameRgba(withAlpha(filmed(scene, frame)));
				await report(progress, (frame - scene.firstFrame + 1) / (scene.lastFrame - scene.firstFrame + 1), `Frame ${frame}`);
			}
			encoder.finalize();
			return withoutClock(encoder.FS.readFile(encoder.outputFilename).slice());
		} finally {
			encoder.delete();
		}
	},
};

/** The same film is the same file: boxes that say when it was made say nothing (ISO 14496-12, 8.2 to 8.4: two 32-bit times). */
function withoutClock(mp4: Uint8Array): Uint8Array {
	const view = new DataView(mp4.buffer, mp4.byteOffset, mp4.byteLength);
	const name = (at: number) => String.fromCharCode(...mp4.subarray(at + 4, at + 8));
	const visit = (from: number, to: number) => {
		for (let at = from; at + 8 <= to; at += Math.max(8, view.getUint32(at))) {
			const end = Math.min(to, at + view.getUint32(at));
			if (["moov", "trak", "mdia"].includes(name(at))) visit(at + 8, end);
			else if (["mvhd", "tkhd", "mdhd"].includes(name(at))) mp4.fill(0, at + 12, at + 20);
		}
	};
	visit(0, mp4.length);
	return mp4;
}

async function makeEncoder() {
	// Named in a variable: bundles for browsers leave it out.
	const encoders = "h264-mp4-encoder";
	type Encoders = typeof import("h264-mp4-encoder");
	return withoutNewListeners(async () => {
		const found = (await import(/* @vite-ignore */ encoders)) as Partial<Encoders> & { default?: Encoders };
		return (found.createH264MP4Encoder ?? found.default!.createH264MP4Encoder)();
	});
}

/** What Node's `process` is here. */
interface Listening {
	readonly listeners: (event: string) => readonly ((...given: unknown[]) => void)[];
	readonly removeListener: (event: string, listener: (...given: unknown[]) => void) => void;
}

/**
 * Takes back what is listened to for errors meanwhile. The encoder ends the whole process where any promise fails that nobody waits for: a
 * worker that had made a video did not outlive its database's being away.
 */
async function withoutNewListeners<T>(make: () => Promise<T>): Promise<T> {
	const { process } = globalThis as unknown as { readonly process: Listening };
	const before = ["uncaughtException", "unhandledRejection"].map((event) => ({ event, known: new Set(process.listeners(event)) }));
	try {
		return await make();
	} finally {
		for (const { event, known } of before)
			for (const listener of [...process.listeners(event)]) if (!known.has(listener)) process.removeListener(event, listener);
	}
}

function withAlpha({ width, height, rgb }: Pixels): Uint8Array {
	const out = new Uint8Array(4 * width * height).fill(255);
	for (let i = 0; i < width * height; i++) out.set(rgb.subarray(3 * i, 3 * i + 3), 4 * i);
	return out;
}

function viewOf({ view }: ExportScene): FilmView {
	if (!view) throw new Error("There is no view to take pictures through.");
	return view;
}

const filmed = (scene: ExportScene, frame: number): Pixels =>
	drawFrame(
		scene.items.filter((item) => isThere(item, frame)).map((item) => filmItem(scene, item, frame)),
		viewOf(scene),
		frame,
	);

function filmItem(scene: ExportScene, item: ExportItem, frame: number): FilmItem {
	const drawn = drawnOnce(meshAt(item, frame));
	const { indices, outsideIndices, uv } = drawn;
	const sides = [item.outside, item.inside].map(({ colour }) => item.colourAt?.(frame) ?? linearOf(colour));
	const pictures = item.colourAt ? [] : [pixelsOf(item.picture), pixelsOf(item.insidePicture)];
	return {
		...drawn,
		...itemPose(scene, item, frame),
		scale: item.scale,
		paint(triangle, b0, b1, b2, into) {
			const side = 3 * triangle < outsideIndices ? 0 : 1;
			const picture = pictures[side];
			if (!picture || uv.length === 0) return setColour(into, sides[side]!);
			const at = (k: 0 | 1) =>
				b0 * uv[2 * indices[3 * triangle]! + k]! +
				b1 * uv[2 * indices[3 * triangle + 1]! + k]! +
				b2 * uv[2 * indices[3 * triangle + 2]! + k]!;
			lookUp(picture, at(0), at(1), into);
		},
	};
}

const drawnMeshes = new WeakMap<Mesh, DrawMesh>();

/** Most meshes are the same in every frame. */
function drawnOnce(mesh: Mesh): DrawMesh {
	const drawn = drawnMeshes.get(mesh) ?? drawMesh(mesh);
	drawnMeshes.set(mesh, drawn);
	return drawn;
}

const setColour = (into: [number, number, number], from: readonly number[]): void => {
	for (let k = 0; k < 3; k++) into[k] = from[k]!;
};

/** A picture repeats beyond its rim. */
function lookUp({ width, height, rgb }: Pixels, u: number, v: number, into: [number, number, number]): void {
	const column = Math.min(width - 1, Math.floor((u - Math.floor(u)) * width));
	const row = Math.min(height - 1, Math.floor((v - Math.floor(v)) * height));
	for (let k = 0; k < 3; k++) into[k] = LINEAR[rgb[3 * (row * width + column) + k]!]!;
}

const LINEAR = Array.from({ length: 256 }, (_, i) => linear(i / 255));

const read = new WeakMap<Uint8Array, Pixels | null>();

function pixelsOf(bytes: Uint8Array | undefined): Pixels | undefined {
	if (!bytes) return undefined;
	let known = read.get(bytes);
	if (known === undefined) {
		const pixels = readPixels(bytes);
		known = pixels.ok ? pixels.value : null;
		read.set(bytes, known);
	}
	return known ?? undefined;
}

/** What the usual sun of a shot without lights is, and what light units are as multiples of it. As in the page's view. */
const USUAL_SUN: Vec3 = vec3.normalize([-0.45, -1.5, -0.8]);
const SUN = 2.1;
const SUN_UNIT = LIGHT_DEFAULTS.sun.strength / SUN;
const LAMP_UNIT = 2500;
/** From where everything is seen when a shot has no camera. */
const FROM: Vec3 = vec3.normalize([5, 2.4, 6.5]);
const FIELD_OF_VIEW = 36;

/** How a shot is filmed. `items`: as they are at the first frame of the range. */
export function filmView(shot: Shot, items: readonly ExportItem[], { width, height, camera }: FilmWish): FilmView {
	const objects = orderedObjects(shot).filter((id) => !shot.objects[id]!.hidden);
	const through = camera ?? objects.find((id) => shot.objects[id]!.source.kind === "camera");
	const lights = objects.filter((id) => shot.objects[id]!.source.kind === "light");
	const sourceOf = (id: Id) => shot.objects[id]!.source as LightSource;
	const suns = lights.filter((id) => sourceOf(id).light === "sun");
	const ground = objects.map((id) => shot.objects[id]!).find(({ source }) => source.kind === "shape" && source.shape === "ground");
	const backdrop = linearOf(shot.scenery.backdrop);
	const still = overview(items, width / height);
	const tick = (frame: number) => tickOfFrame(shot.settings, frame);
	return {
		width,
		height,
		backdrop,
		sky: shot.scenery.sky,
		ground: ground && {
			height: ground.translation[1],
			// Toned towards the backdrop: the ground must not outshine what stands on it.
			colour: vec3.scale(vec3.mix(linearOf(shot.materials[ground.material]!.colour), backdrop, 0.45), 0.8),
		},
		cameraAt: (frame) => {
			const source = through && shot.objects[through]?.source;
			return source && source.kind === "camera"
				? { ...cameraPose(shot, through, tick(frame)), fieldOfView: fieldOfViewAt(shot, through, tick(frame)) }
				: still;
		},
		sunAt: (frame) => {
			const [sun] = suns;
			if (sun)
				return {
					direction: rotate(worldPose(shot, sun, tick(frame)).rotation, [0, 0, -1]),
					colour: vec3.scale(linearOf(sourceOf(sun).colour), sourceOf(sun).strength / SUN_UNIT),
				};
			return lights.length === 0 ? { direction: USUAL_SUN, colour: vec3.scale(linearOf(LIGHT_DEFAULTS.sun.colour), SUN) } : undefined;
		},
		lampsAt: (frame) =>
			lights
				.filter((id) => sourceOf(id).light === "lamp")
				.map((id) => ({
					place: worldPose(shot, id, tick(frame)).translation,
					colour: vec3.scale(linearOf(sourceOf(id).colour), sourceOf(id).strength / LAMP_UNIT),
				})),
	};
}

/** A camera that has everything in sight. */
function overview(items: readonly ExportItem[], aspect: number) {
	const low = [Infinity, Infinity, Infinity];
	const high = [-Infinity, -Infinity, -Infinity];
	for (const { mesh, scale, translation } of items) {
		const { min, max } = bounds(mesh);
		const reach = scale * Math.max(vec3.length(min), vec3.length(max));
		for (let k = 0; k < 3; k++) {
			low[k] = Math.min(low[k]!, translation[k]! - reach);
			high[k] = Math.max(high[k]!, translation[k]! + reach);
		}
	}
	const any = items.length > 0;
	const middle = low.map((value, k) => (any ? (value + high[k]!) / 2 : 0)) as unknown as Vec3;
	const radius = any ? vec3.length(low.map((value, k) => (high[k]! - value) / 2) as unknown as Vec3) : 1;
	const half = tan((FIELD_OF_VIEW * Math.PI) / 360) * Math.min(1, aspect);
	return {
		translation: vec3.add(middle, vec3.scale(FROM, (0.9 * radius * Math.sqrt(1 + half * half)) / half)),
		rotation: lookAlong(vec3.scale(FROM, -1)),
		fieldOfView: FIELD_OF_VIEW,
	};
}
