import { worldPose } from "../animation";
import { type Baked, type BakeOptions, bake, bakeMotion } from "../bake";
import { type Body, bodyMoves, bodyPose, colouringPicture, crackOf, drawnMesh, insideMaterialOf, lookOf, materialOf } from "../bodies";
import { isCrumb, pieceOfCrumb } from "../bonds";
import { crumbledAt, EventKind, type FrameStore, hardestBlows, posesAt, wokenAt } from "../cache";
import { ageAt, coloursMove, linear, makeColours } from "../colouring";
import { changedMesh, evaluateLinks, followsLinks, followsShapeKeys, UNLINKED } from "../links";
import { quatAt, tripleAt, type Vec3, vec3 } from "../maths";
import { type AssetRef, type Colouring, type Id, type OptionValues, objectPath, type Shot, tickOfFrame } from "../shot";
import { crackShape, keyedShape } from "./changing";
import { filmView, filmWish, pngSequence, video } from "./filmed";
import { frameCache } from "./frameCache";
import { glb } from "./glb";
import { glbSkin } from "./glbSkin";
import { glbSmall } from "./glbSmall";
import { readPixels } from "./picture";
import { itemPose } from "./posed";
import { objSequence, plySequence } from "./sequences";
import { csv, json, jsonLines } from "./transforms";
import type { ExportEvent, ExportItem, ExportScene, TakeFormat } from "./types";
import { usda, usdaPoints, usdz } from "./usd";

/** Every format a take can be written in. A new one is a file beside this and a place here. */
export const TAKE_FORMATS: readonly TakeFormat[] = [
	glb,
	glbSmall,
	glbSkin,
	usda,
	usdaPoints,
	usdz,
	objSequence,
	plySequence,
	csv,
	json,
	jsonLines,
	frameCache,
	pngSequence,
	video,
];

export interface ExportRange {
	readonly firstFrame: number;
	readonly lastFrame: number;
}

/** A range in parts of at most so many frames; whole where absent. */
export function splitRange(range: ExportRange, frames = Number.POSITIVE_INFINITY): ExportRange[] {
	const parts: ExportRange[] = [];
	for (let first = range.firstFrame; first <= range.lastFrame; first += frames)
		parts.push({ firstFrame: first, lastFrame: Math.min(range.lastFrame, first + frames - 1) });
	return parts;
}

/** A take, with what it takes to draw it. */
export interface TakeSource {
	readonly shot: Shot;
	/** With crumbs. */
	readonly bodies: readonly Body[];
	/** As the take counts them. */
	readonly takeBodies: readonly { readonly id: string; readonly path?: string }[];
	readonly store: FrameStore;
	/** Bytes of the pictures that bodies wear, see `picturesOf`; those that are missing are left out. */
	readonly pictures?: ReadonlyMap<AssetRef, Uint8Array>;
}

/** What is to be written of it. */
export interface ExportWish {
	readonly range: ExportRange;
	readonly keys: BakeOptions;
	/** Ids of objects and of single bodies; everything where absent. */
	readonly only?: readonly string[] | undefined;
	/** Of the format; its defaults where absent. */
	readonly options?: OptionValues | undefined;
	/** For pictures: the first one where absent. */
	readonly camera?: Id | undefined;
	/** For pictures, in the place of the option. */
	readonly size?: { readonly width: number; readonly height: number } | undefined;
}

/** A file to be made of a take, here or by a worker. */
export interface FileOrder extends ExportWish {
	/** A take format's id. */
	readonly format: string;
	/** How things are coloured now; the take's snapshot says how they were. */
	readonly colouring?: Colouring | undefined;
}

/**
 * A baked take as a scene to write: everything that is asked for and not hidden, moving where the take, keys or links
 * move it. Throws where that is nothing.
 */
export function exportTake(source: TakeSource, wish: ExportWish): ExportScene & { readonly baked: Baked } {
	const { shot, bodies, takeBodies, store, pictures = new Map() } = source;
	const { range, keys, only, options = {}, camera, size } = wish;
	const wanted = only && new Set(only);
	const isWanted = ({ id, object }: Body) => !wanted || wanted.has(pieceOfCrumb(id)) || wanted.has(object);
	const index = new Map(takeBodies.map(({ id }, i) => [id, i]));
	const crumbled = crumbledAt(store);
	/** When a stone comes; those of what never crumbles are left out, of all parts of the take alike. */
	const comesAt = (body: Body) => (isCrumb(body) ? crumbled.get(index.get(body.crumbOf) ?? -1) : undefined);
	const shown = bodies.filter(
		(body) =>
			!body.endless &&
			isWanted(body) &&
			!shot.objects[body.object]!.hidden &&
			body.mesh.triangles.length > 0 &&
			(!isCrumb(body) || comesAt(body) !== undefined),
	);
	if (wanted && shown.length === 0) throw new Error("Nothing of what is picked is to be seen. Pick something else, or write everything.");
	const moving = shown.filter((body) => index.has(body.id));
	const baked = bake(
		store,
		range.firstFrame,
		range.lastFrame,
		moving.map((body) => index.get(body.id)!),
		keys,
	);
	const track = new Map(moving.map((body, n) => [body.id, n]));
	const tracks = [...baked.tracks];
	const changes = changesOver(shot, bodies, index, store);
	const items = shown.map((body) => {
		const item = exportItem(shot, body, pictures);
		let n = track.get(body.id) ?? -1;
		const change = changes(body);
		if (n < 0 && (change || bodyMoves(shot, body))) {
			n = tracks.length;
			tracks.push(
				bakeMotion(
					range.firstFrame,
					range.lastFrame,
					(frame) => {
						const { translation, rotation } = bodyPose(shot, body, tickOfFrame(shot.settings, frame));
						return { translation: vec3.add(translation, change?.movedAt(frame) ?? [0, 0, 0]), rotation };
					},
					keys,
				),
			);
		}
		const first = tracks[n];
		return {
			...item,
			// A crack that opens is written as it stands in the shot; what links and keys change, over the range.
			...(change?.shapes && { changing: keyedShape(range.firstFrame, range.lastFrame, change.meshAt) }),
			goneAt: crumbled.get(index.get(body.id) ?? -1),
			comesAt: comesAt(body),
			track: n,
			// A viewer without animation shows the first frame.
			...(first && { translation: triple(first.translations), rotation: quadruple(first.rotations) }),
		};
	});
	const scene = {
		name: shot.name,
		fps: shot.settings.fps,
		...range,
		items,
		tracks,
		events: namedEvents(takeBodies, store, range, wanted && new Set(moving.map(({ id }) => index.get(id)!))),
		options,
		coloursMove: shot.colouring !== undefined && coloursMove(shot.colouring),
		view: filmView(shot, items, { ...filmWish(options, camera), ...size }),
	};
	return { ...scene, items: coloured(shot, bodies, shown, scene, store, index, pictures), baked };
}

/** Things that stand still, as a scene to write. */
export const stillScene = (name: string, items: readonly ExportItem[]): ExportScene => ({
	name,
	fps: 24,
	firstFrame: 1,
	lastFrame: 1,
	items,
	tracks: [],
	events: [],
	options: {},
	coloursMove: false,
});

/** A body where it stands at the start, not moving. */
export function exportItem(shot: Shot, body: Body, pictures: ReadonlyMap<AssetRef, Uint8Array> = new Map()): ExportItem {
	const { translation, rotation } = bodyPose(shot, body, 0);
	const look = lookOf(shot, body);
	const time = body.opening && crackOf(shot, body.object);
	const mesh = drawnMesh(body, look);
	return {
		path: body.path,
		group: objectPath(shot, body.object),
		mesh,
		picture: look.outside && pictures.get(look.outside.picture),
		insidePicture: look.inside && pictures.get(look.inside.picture),
		changing: body.opening && time && crackShape(mesh, body.opening, time, shot.settings.firstFrame),
		outside: materialOf(shot, body),
		inside: insideMaterialOf(shot, body),
		scale: body.scale,
		translation,
		rotation,
		track: -1,
	};
}

/** Items with the colours of the shot's gradient: what moves by itself. */
function coloured(
	shot: Shot,
	all: readonly Body[],
	shown: readonly Body[],
	scene: ExportScene,
	store: FrameStore,
	index: ReadonlyMap<string, number>,
	pictures: ReadonlyMap<AssetRef, Uint8Array>,
): readonly ExportItem[] {
	const picture = colouringPicture(shot);
	const bytes = picture && pictures.get(picture);
	const pixels = bytes && readPixels(bytes);
	const colours = shot.colouring && makeColours(shot.colouring, pixels?.ok ? pixels.value : undefined);
	if (!colours?.ok) return scene.items;
	// Counted as the view does: hidden things too, so that chance gives both the same colours.
	const woken = wokenAt(store);
	const blowAt = hardestBlows(store);
	const order = new Map(all.filter(({ endless }) => !endless).map(({ id }, n) => [id, n]));
	return scene.items.map((item, n) => {
		const body = shown[n]!;
		if (body.settings.kind !== "active") return item;
		const start = bodyPose(shot, body, 0).translation;
		// A stone is coloured as its piece.
		const number = order.get(pieceOfCrumb(body.id))!;
		const wokenIn = woken.get(index.get(body.id) ?? -1);
		const colourAt = (frame: number): [number, number, number] => {
			const place = itemPose(scene, item, frame).translation;
			const before = itemPose(scene, item, Math.max(scene.firstFrame, frame - 1)).translation;
			const speed = frame > scene.firstFrame ? vec3.length(vec3.subtract(place, before)) * scene.fps : 0;
			const rgb: [number, number, number] = [0, 0, 0];
			const seconds = (frame - shot.settings.firstFrame) / scene.fps;
			const age = ageAt(shot.settings, body.settings.wake, wokenIn, frame);
			const blow = blowAt(index.get(body.id) ?? -1, frame);
			colours.value({ ...body, index: number, place, start, speed, seconds, age, blow }, rgb);
			return rgb.map(linear) as [number, number, number];
		};
		return { ...item, colourAt };
	});
}

/** What links and keys do to the shape of a body over the stored frames; undefined where they do nothing. */
function changesOver(shot: Shot, bodies: readonly Body[], index: ReadonlyMap<string, number>, store: FrameStore) {
	const first = new Map<Id, string>();
	for (const body of bodies) if (!first.has(body.object)) first.set(body.object, body.id);
	const at = (frame: number) => {
		const tick = tickOfFrame(shot.settings, frame);
		const place = (id: Id): Vec3 | undefined => {
			const n = index.get(first.get(id) ?? "");
			const poses = n === undefined ? undefined : posesAt(store, frame);
			if (poses) return [poses[7 * n!]!, poses[7 * n! + 1]!, poses[7 * n! + 2]!];
			return shot.objects[id] && worldPose(shot, id, tick).translation;
		};
		return evaluateLinks(shot, tick, place, (id) => shot.objects[id] && worldPose(shot, id, 0).translation);
	};
	const any = Object.values(shot.links).some(({ hidden }) => !hidden);
	return ({ object, straight }: Body) => {
		const start = any && followsLinks(shot, object) ? at(shot.settings.firstFrame).get(object) : undefined;
		const keyed = followsShapeKeys(shot, object);
		if (!start && !keyed) return undefined;
		const linkAt = (frame: number) => (start && at(frame).get(object)) ?? UNLINKED;
		return {
			shapes: keyed || start?.parameters !== undefined,
			movedAt: (frame: number): Vec3 => linkAt(frame).moved,
			meshAt: (frame: number) => changedMesh(shot, object, linkAt(frame), tickOfFrame(shot.settings, frame), straight),
		};
	};
}

const EVENT_WORDS: Readonly<Record<number, readonly [what: string, unit: string]>> = {
	[EventKind.Contact]: ["contact", "N s"],
	[EventKind.Wake]: ["woken", "m/s"],
	[EventKind.Lost]: ["lost", "m"],
	[EventKind.Pulled]: ["bond pulled", "Pa"],
	[EventKind.Sheared]: ["bond sheared", "Pa"],
	[EventKind.Crushed]: ["bond crushed", "Pa"],
	[EventKind.Parted]: ["connector parted", "N or N m"],
	[EventKind.Repeated]: ["step cut off", "times"],
	[EventKind.Dust]: ["dust", "kg"],
	[EventKind.Crumbled]: ["crumbled", "kg"],
};

/** `about`: numbers of the bodies that are meant; all where absent. */
function namedEvents(
	bodies: readonly { readonly path?: string }[],
	store: FrameStore,
	range: ExportRange,
	about: ReadonlySet<number> | undefined,
): ExportEvent[] {
	const name = (i: number) => (i < 0 ? "" : (bodies[i]?.path ?? String(i)));
	const events: ExportEvent[] = [];
	for (const { events: found } of store.chunks)
		found.frame.forEach((frame, e) => {
			if (frame < range.firstFrame || frame > range.lastFrame) return;
			if (about && !about.has(found.a[e]!) && !about.has(found.b[e]!)) return;
			const [what, unit] = EVENT_WORDS[found.kind[e]!] ?? ["event", ""];
			const place = tripleAt(found.place, e);
			const at = Number.isNaN(place[0]) ? undefined : place;
			events.push({ frame, what, a: name(found.a[e]!), b: name(found.b[e]!), value: found.value[e]!, unit, at });
		});
	return events;
}

const triple = (a: Float32Array) => tripleAt(a, 0) as [number, number, number];
const quadruple = (a: Float32Array) => quatAt(a, 0) as [number, number, number, number];
