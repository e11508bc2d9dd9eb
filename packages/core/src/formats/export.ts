import { type Baked, type BakeOptions, bake } from "../bake";
import { type Body, bodyPose, crackOf, drawnMesh, insideMaterialOf, lookOf, materialOf } from "../bodies";
import type { FrameStore } from "../cache";
import { type AssetRef, objectPath, type Shot } from "../shot";
import { glb } from "./glb";
import { csv, json } from "./transforms";
import type { ExportItem, ExportScene, TakeFormat } from "./types";

/** Every format a take can be written in. A new one is a file beside this and a line here. */
export const TAKE_FORMATS: readonly TakeFormat[] = [glb, csv, json];

/** A baked take as a scene to write: everything that is not hidden, moving where the take has tracks for it. */
export function exportTake(
	shot: Shot,
	bodies: readonly Body[],
	takeBodies: readonly { readonly id: string }[],
	store: FrameStore,
	range: { readonly firstFrame: number; readonly lastFrame: number },
	options: BakeOptions,
	/** Bytes of the pictures that bodies wear, see `picturesOf`; those that are missing are left out. */
	pictures: ReadonlyMap<AssetRef, Uint8Array> = new Map(),
): ExportScene & { readonly baked: Baked } {
	const index = new Map(takeBodies.map(({ id }, i) => [id, i]));
	const shown = bodies.filter((body) => !body.endless && !shot.objects[body.object]!.hidden && body.mesh.triangles.length > 0);
	const moving = shown.filter((body) => index.has(body.id));
	const baked = bake(
		store,
		range.firstFrame,
		range.lastFrame,
		moving.map((body) => index.get(body.id)!),
		options,
	);
	const track = new Map(moving.map((body, n) => [body.id, n]));
	return {
		name: shot.name,
		fps: shot.settings.fps,
		firstFrame: range.firstFrame,
		items: shown.map((body) => {
			const n = track.get(body.id) ?? -1;
			const first = baked.tracks[n];
			const item = exportItem(shot, body, pictures);
			// A viewer without animation shows the first frame.
			return first ? { ...item, track: n, translation: triple(first.translations), rotation: quadruple(first.rotations) } : item;
		}),
		baked,
	};
}

/** A body where it stands at the start, not moving. */
export function exportItem(shot: Shot, body: Body, pictures: ReadonlyMap<AssetRef, Uint8Array> = new Map()): ExportItem {
	const { translation, rotation } = bodyPose(shot, body, 0);
	const look = lookOf(shot, body);
	const time = body.opening && crackOf(shot, body.object);
	return {
		path: body.path,
		group: objectPath(shot, body.object),
		mesh: drawnMesh(body, look),
		picture: look.outside && pictures.get(look.outside.picture),
		insidePicture: look.inside && pictures.get(look.inside.picture),
		opening: body.opening && time && { ...body.opening, time },
		outside: materialOf(shot, body),
		inside: insideMaterialOf(shot, body),
		scale: body.scale,
		translation,
		rotation,
		track: -1,
	};
}

const triple = (a: Float32Array): [number, number, number] => [a[0]!, a[1]!, a[2]!];
const quadruple = (a: Float32Array): [number, number, number, number] => [a[0]!, a[1]!, a[2]!, a[3]!];
