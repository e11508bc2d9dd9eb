import { pieceOfCrumb } from "@rubble/core/bonds";
import type { Id } from "@rubble/core/shot";
import { Color, Matrix4, Quaternion, type Raycaster, type Scene, Sphere, Vector3 } from "three";
import type { Drawing } from "~/workers/messages";
import type { Batch, Look } from "./batch";
import { makeCopyBatch } from "./copyBatch";
import { makePieceBatch } from "./pieceBatch";

/** Everything that is drawn as a solid: one batch for each object. */
export interface Bodies {
	/** Takes over changed drawings and drops what is gone. Large ones come in slices; what they replace stays until then. */
	readonly sync: (drawings: Readonly<Record<Id, Drawing>>) => void;
	/** `lookOf`: what an object's outside and inside faces look like. */
	readonly setLook: (object: Id, lookOf: (source: Id) => Look, hidden: boolean, pickable: boolean) => void;
	/** How far the crack of an object's pieces is open. */
	readonly setCrack: (object: Id, state: { readonly tip: number; readonly width: number }) => void;
	/** Where a body stands; unknown ids are passed over. */
	readonly setPose: (
		id: string,
		position: ArrayLike<number>,
		at: number,
		rotation: ArrayLike<number>,
		rotationAt: number,
		push: readonly number[] | undefined,
	) => void;
	/** Takes a body out of the picture until it is placed again. */
	readonly hide: (id: string) => void;
	readonly setColour: (id: string, colour: Color | undefined) => void;
	/** The body under a ray, nearest first. */
	readonly pick: (raycaster: Raycaster) => { readonly id: string; readonly distance: number; readonly point: Vector3 } | undefined;
	/** Middles of all shown bodies, for a selection by frame. */
	readonly eachCentre: (visit: (id: string, centre: Vector3) => void) => void;
	readonly matrixOf: (id: string, into: Matrix4) => boolean;
	readonly boundsOf: (ids: readonly string[], into: Sphere) => boolean;
	readonly dispose: () => void;
}

interface Shown {
	readonly batch: Batch;
	pickable: boolean;
}

const WHITE = new Color("#ffffff");
/** Where nothing is drawn. */
const NOWHERE = new Matrix4().makeScale(0, 0, 0);
/** Up to this many meshes are taken over at once. */
const AT_ONCE = 1500;
/** What a slice may take of a frame. ms */
const SLICE = 8;

/** `onReady`: a drawing that came in slices, or its picture, has just been taken over; its bodies have neither look nor place yet. */
export function makeBodies(scene: Scene, onReady: () => void): Bodies {
	const shown = new Map<Id, Shown>();
	const places = new Map<string, { shown: Shown; body: number }>();
	const coming = new Map<Id, { drawing: Drawing; timer: ReturnType<typeof setTimeout> }>();
	const matrix = new Matrix4();
	const position = new Vector3();
	const rotation = new Quaternion();
	const one = new Vector3(1, 1, 1);
	const sphere = new Sphere();

	const remove = (object: Id) => {
		const old = shown.get(object);
		if (!old) return;
		scene.remove(old.batch.root);
		old.batch.dispose();
		for (const id of old.batch.drawing.ids) places.delete(id);
		shown.delete(object);
	};
	const stopComing = (object: Id) => {
		clearTimeout(coming.get(object)?.timer);
		coming.delete(object);
	};
	const show = (batch: Batch) => {
		remove(batch.drawing.object);
		const entry: Shown = { batch, pickable: true };
		shown.set(batch.drawing.object, entry);
		for (const [body, id] of batch.drawing.ids.entries()) places.set(id, { shown: entry, body });
		scene.add(batch.root);
	};
	const fillInSlices = (drawing: Drawing, work: Generator<void, Batch>) => {
		const slice = () => {
			const until = performance.now() + SLICE;
			do {
				const { done, value } = work.next();
				if (!done) continue;
				coming.delete(drawing.object);
				show(value);
				onReady();
				return;
			} while (performance.now() < until);
			coming.set(drawing.object, { drawing, timer: setTimeout(slice, 4) });
		};
		coming.set(drawing.object, { drawing, timer: setTimeout(slice, 0) });
	};
	const take = (drawing: Drawing) => {
		const meshes = drawing.sources.length;
		if (meshes < drawing.ids.length || drawing.scale.some((scale) => scale !== 1)) return show(makeCopyBatch(drawing, onReady));
		const work = makePieceBatch(drawing, onReady);
		if (meshes > AT_ONCE) return fillInSlices(drawing, work);
		for (;;) {
			const { done, value } = work.next();
			if (done) return show(value);
		}
	};
	return {
		sync(drawings) {
			for (const object of [...shown.keys(), ...coming.keys()])
				if (!drawings[object]) {
					remove(object);
					stopComing(object);
				}
			for (const drawing of Object.values(drawings)) {
				const { object } = drawing;
				if (shown.get(object)?.batch.drawing === drawing || coming.get(object)?.drawing === drawing) continue;
				stopComing(object);
				if (drawing.indices.length > 0) take(drawing);
				else remove(object);
			}
		},
		setLook(object, lookOf, hidden, pickable) {
			const entry = shown.get(object);
			if (!entry) return;
			entry.batch.root.visible = !hidden;
			entry.pickable = pickable && !hidden;
			entry.batch.setLooks(entry.batch.drawing.sources.map(lookOf));
		},
		setCrack(object, state) {
			shown.get(object)?.batch.setCrack?.(state);
		},
		setPose(id, p, at, q, qAt, push) {
			const place = places.get(id);
			if (!place) return;
			position.set(p[at]!, p[at + 1]!, p[at + 2]!);
			if (push) position.set(position.x + push[0]!, position.y + push[1]!, position.z + push[2]!);
			rotation.set(q[qAt]!, q[qAt + 1]!, q[qAt + 2]!, q[qAt + 3]!);
			place.shown.batch.setMatrix(place.body, matrix.compose(position, rotation, one));
		},
		hide(id) {
			const place = places.get(id);
			place?.shown.batch.setMatrix(place.body, NOWHERE);
		},
		setColour(id, colour) {
			const place = places.get(id);
			place?.shown.batch.setColour(place.body, colour ?? WHITE);
		},
		pick(raycaster) {
			let best: { id: string; distance: number; point: Vector3 } | undefined;
			for (const { batch, pickable } of shown.values()) {
				if (!pickable) continue;
				const found = batch.pick(raycaster);
				if (found && (!best || found.hit.distance < best.distance))
					best = { id: pieceOfCrumb(batch.drawing.ids[found.body]!), distance: found.hit.distance, point: found.hit.point };
			}
			return best;
		},
		eachCentre(visit) {
			for (const { batch, pickable } of shown.values()) {
				if (!pickable) continue;
				batch.drawing.ids.forEach((id, body) => {
					batch.getMatrix(body, matrix);
					// What is taken out of the picture has no size.
					if (matrix.determinant() !== 0) visit(pieceOfCrumb(id), position.setFromMatrixPosition(matrix));
				});
			}
		},
		matrixOf(id, into) {
			const place = places.get(id);
			if (!place) return false;
			place.shown.batch.getMatrix(place.body, into);
			return true;
		},
		boundsOf(ids, into) {
			into.makeEmpty();
			for (const id of ids) {
				const place = places.get(id);
				if (!place?.shown.batch.sphereOf(place.body, sphere)) continue;
				place.shown.batch.getMatrix(place.body, matrix);
				into.union(sphere.applyMatrix4(matrix));
			}
			return !into.isEmpty();
		},
		dispose() {
			for (const object of [...coming.keys()]) stopComing(object);
			for (const object of [...shown.keys()]) remove(object);
		},
	};
}
