import { BatchedMesh, type BufferAttribute, Color, type Intersection } from "three";
import type { Drawing } from "~/workers/messages";
import { type Batch, dress, makeGeometry, makeMaterial, paintVertices } from "./batch";

const WHITE = new Color("#ffffff");

/** Bodies with a mesh each, in one draw call. Taken over in steps, since thousands of pieces take longer than a frame. */
export function* makePieceBatch(drawing: Drawing, onLoad: () => void): Generator<void, Batch> {
	const { material, crack } = makeMaterial(drawing, onLoad);
	const count = drawing.ids.length;
	const mesh = new BatchedMesh(count, drawing.positions.length / 3, drawing.indices.length, material);
	mesh.sortObjects = false;
	mesh.perObjectFrustumCulled = false;
	mesh.frustumCulled = false;
	mesh.castShadow = true;
	mesh.receiveShadow = true;
	for (let i = 0; i < count; i++) {
		mesh.setColorAt(mesh.addInstance(mesh.addGeometry(makeGeometry(drawing, i))), WHITE);
		yield;
	}
	let painted = "";
	return {
		drawing,
		root: mesh,
		setLooks(looks) {
			const look = looks[0];
			if (!look) return;
			dress(material, look.outside);
			const colours = `${look.outside.colour} ${look.inside.colour}`;
			if (painted === colours) return;
			painted = colours;
			const attribute = mesh.geometry.getAttribute("color") as BufferAttribute;
			for (let m = 0; m < looks.length; m++) paintVertices(drawing, m, look, WHITE, (vertex, r, g, b) => attribute.setXYZ(vertex, r, g, b));
			attribute.needsUpdate = true;
		},
		setCrack({ tip, width }) {
			crack.crackTip.value = tip;
			crack.crackWidth.value = width;
		},
		setMatrix: (body, matrix) => mesh.setMatrixAt(body, matrix),
		getMatrix: (body, into) => mesh.getMatrixAt(body, into),
		setColour: (body, colour) => mesh.setColorAt(body, colour),
		sphereOf: (body, into) => mesh.getBoundingSphereAt(body, into) !== null,
		pick(raycaster) {
			mesh.computeBoundingSphere();
			const [hit] = raycaster.intersectObject(mesh, false) as (Intersection & { batchId?: number })[];
			return hit?.batchId === undefined ? undefined : { body: hit.batchId, hit };
		},
		dispose() {
			mesh.dispose();
			material.dispose();
		},
	};
}
