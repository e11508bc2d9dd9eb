import type { Id, Material } from "@rubble/core/shot";
import {
	BatchedMesh,
	BufferAttribute,
	BufferGeometry,
	Color,
	FrontSide,
	type Intersection,
	Matrix4,
	MeshStandardMaterial,
	Quaternion,
	type Raycaster,
	type Scene,
	Sphere,
	Vector3,
} from "three";
import type { Drawing } from "~/workers/messages";

/** Everything that is drawn as a solid: one batch for each object, one draw call each. */
export interface Bodies {
	/** Takes over changed drawings and drops what is gone. */
	readonly sync: (drawings: Readonly<Record<Id, Drawing>>) => void;
	readonly setLook: (object: Id, outside: Material, inside: Material, hidden: boolean, pickable: boolean) => void;
	/** Where a body stands; unknown ids are passed over. */
	readonly setPose: (
		id: string,
		position: ArrayLike<number>,
		at: number,
		rotation: ArrayLike<number>,
		rotationAt: number,
		push: readonly number[] | undefined,
	) => void;
	readonly setColour: (id: string, colour: Color | undefined) => void;
	/** The body under a ray, nearest first. */
	readonly pick: (raycaster: Raycaster) => { readonly id: string; readonly distance: number; readonly point: Vector3 } | undefined;
	/** Middles of all shown bodies, for a selection by frame. */
	readonly eachCentre: (visit: (id: string, centre: Vector3) => void) => void;
	readonly matrixOf: (id: string, into: Matrix4) => boolean;
	readonly boundsOf: (ids: readonly string[], into: Sphere) => boolean;
	readonly dispose: () => void;
}

interface Batch {
	readonly drawing: Drawing;
	readonly mesh: BatchedMesh;
	readonly material: MeshStandardMaterial;
	pickable: boolean;
	outside: string;
	inside: string;
}

const WHITE = new Color("#ffffff");

export function makeBodies(scene: Scene): Bodies {
	const batches = new Map<Id, Batch>();
	const places = new Map<string, { batch: Batch; index: number }>();
	const matrix = new Matrix4();
	const position = new Vector3();
	const rotation = new Quaternion();
	const one = new Vector3(1, 1, 1);
	const sphere = new Sphere();

	const remove = (object: Id) => {
		const batch = batches.get(object);
		if (!batch) return;
		scene.remove(batch.mesh);
		batch.mesh.dispose();
		batch.material.dispose();
		for (const id of batch.drawing.ids) places.delete(id);
		batches.delete(object);
	};
	const add = (drawing: Drawing) => {
		const material = new MeshStandardMaterial({ vertexColors: true, side: FrontSide });
		const mesh = makeBatch(drawing, material);
		const batch: Batch = { drawing, mesh, material, pickable: true, outside: "", inside: "" };
		batches.set(drawing.object, batch);
		for (const [index, id] of drawing.ids.entries()) places.set(id, { batch, index });
		scene.add(mesh);
	};
	return {
		sync(drawings) {
			for (const object of [...batches.keys()]) if (drawings[object] !== batches.get(object)!.drawing) remove(object);
			for (const drawing of Object.values(drawings)) if (!batches.has(drawing.object) && drawing.indices.length > 0) add(drawing);
		},
		setLook(object, outside, inside, hidden, pickable) {
			const batch = batches.get(object);
			if (!batch) return;
			batch.mesh.visible = !hidden;
			batch.pickable = pickable && !hidden;
			const { material } = batch;
			material.roughness = outside.roughness;
			material.metalness = Math.min(outside.metalness, 0.35); // nothing to mirror here but a plain backdrop
			material.opacity = outside.opacity;
			material.transparent = outside.opacity < 1;
			material.depthWrite = outside.opacity >= 1;
			if (batch.outside === outside.colour && batch.inside === inside.colour) return;
			batch.outside = outside.colour;
			batch.inside = inside.colour;
			paint(batch);
		},
		setPose(id, p, at, q, qAt, push) {
			const place = places.get(id);
			if (!place) return;
			position.set(p[at]!, p[at + 1]!, p[at + 2]!);
			if (push) position.set(position.x + push[0]!, position.y + push[1]!, position.z + push[2]!);
			rotation.set(q[qAt]!, q[qAt + 1]!, q[qAt + 2]!, q[qAt + 3]!);
			place.batch.mesh.setMatrixAt(place.index, matrix.compose(position, rotation, one));
		},
		setColour(id, colour) {
			const place = places.get(id);
			place?.batch.mesh.setColorAt(place.index, colour ?? WHITE);
		},
		pick(raycaster) {
			let best: (Intersection & { batchId?: number }) | undefined;
			let owner: Batch | undefined;
			for (const batch of batches.values()) {
				if (!batch.pickable) continue;
				batch.mesh.computeBoundingSphere();
				const [hit] = raycaster.intersectObject(batch.mesh, false) as (Intersection & { batchId?: number })[];
				if (hit && (!best || hit.distance < best.distance)) {
					best = hit;
					owner = batch;
				}
			}
			return best && owner && best.batchId !== undefined
				? { id: owner.drawing.ids[best.batchId]!, distance: best.distance, point: best.point }
				: undefined;
		},
		eachCentre(visit) {
			for (const batch of batches.values()) {
				if (!batch.pickable) continue;
				batch.drawing.ids.forEach((id, index) => {
					batch.mesh.getMatrixAt(index, matrix);
					visit(id, position.setFromMatrixPosition(matrix));
				});
			}
		},
		matrixOf(id, into) {
			const place = places.get(id);
			if (!place) return false;
			place.batch.mesh.getMatrixAt(place.index, into);
			return true;
		},
		boundsOf(ids, into) {
			into.makeEmpty();
			for (const id of ids) {
				const place = places.get(id);
				if (!place) continue;
				if (!place.batch.mesh.getBoundingSphereAt(place.index, sphere)) continue;
				place.batch.mesh.getMatrixAt(place.index, matrix);
				into.union(sphere.applyMatrix4(matrix));
			}
			return !into.isEmpty();
		},
		dispose() {
			for (const object of [...batches.keys()]) remove(object);
		},
	};
}

function makeBatch(drawing: Drawing, material: MeshStandardMaterial): BatchedMesh {
	const count = drawing.ids.length;
	const mesh = new BatchedMesh(count, drawing.positions.length / 3, drawing.indices.length, material);
	mesh.sortObjects = false;
	mesh.perObjectFrustumCulled = false;
	mesh.frustumCulled = false;
	mesh.castShadow = true;
	mesh.receiveShadow = true;
	for (let i = 0; i < count; i++) {
		const v0 = drawing.vertexStart[i]!;
		const v1 = drawing.vertexStart[i + 1]!;
		const geometry = new BufferGeometry();
		geometry.setAttribute("position", new BufferAttribute(drawing.positions.subarray(3 * v0, 3 * v1), 3));
		geometry.setAttribute("normal", new BufferAttribute(drawing.normals.subarray(3 * v0, 3 * v1), 3));
		geometry.setAttribute("color", new BufferAttribute(new Float32Array(3 * (v1 - v0)).fill(1), 3));
		geometry.setIndex(new BufferAttribute(drawing.indices.subarray(drawing.indexStart[i]!, drawing.indexStart[i + 1]!), 1));
		const id = mesh.addGeometry(geometry);
		const instance = mesh.addInstance(id);
		mesh.setColorAt(instance, WHITE);
	}
	return mesh;
}

/** Vertex colours carry the material, outside and inside; the instance's colour tints both. */
function paint({ mesh, drawing, outside, inside }: Batch): void {
	const attribute = mesh.geometry.getAttribute("color") as BufferAttribute;
	const out = new Color(outside);
	const within = new Color(inside);
	for (let v = 0; v < drawing.inside.length; v++) {
		const colour = drawing.inside[v] === 1 ? within : out;
		attribute.setXYZ(v, colour.r, colour.g, colour.b);
	}
	attribute.needsUpdate = true;
}
