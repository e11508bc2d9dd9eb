import { type BufferAttribute, Color, Group, InstancedMesh, Matrix4, Vector3 } from "three";
import type { Drawing } from "~/workers/messages";
import { type Batch, dress, makeGeometry, makeMaterial, paintVertices } from "./batch";

const WHITE = new Color("#ffffff");

/** Copies: each mesh is held once and drawn for all its bodies in one call. */
export function makeCopyBatch(drawing: Drawing, onLoad: () => void): Batch {
	const root = new Group();
	const bodiesOf: number[][] = drawing.sources.map(() => []);
	/** The place of each body among those of its mesh. */
	const slot = Uint32Array.from(drawing.mesh, (mesh, body) => bodiesOf[mesh]!.push(body) - 1);
	const parts = bodiesOf.map((bodies, m) => {
		const geometry = makeGeometry(drawing, m);
		geometry.computeBoundingSphere();
		const { material } = makeMaterial(drawing, onLoad);
		const mesh = new InstancedMesh(geometry, material, bodies.length);
		mesh.frustumCulled = false;
		mesh.castShadow = true;
		mesh.receiveShadow = true;
		for (let i = 0; i < bodies.length; i++) mesh.setColorAt(i, WHITE);
		root.add(mesh);
		return { mesh, material };
	});
	const partOf = (body: number) => parts[drawing.mesh[body]!]!.mesh;
	const scaled = new Matrix4();
	const size = new Vector3();
	return {
		drawing,
		root,
		setLooks(looks) {
			looks.forEach((look, m) => {
				const { mesh, material } = parts[m]!;
				dress(material, look.outside);
				const attribute = mesh.geometry.getAttribute("color") as BufferAttribute;
				const first = drawing.vertexStart[m]!;
				paintVertices(drawing, m, look, WHITE, (vertex, r, g, b) => attribute.setXYZ(vertex - first, r, g, b));
				attribute.needsUpdate = true;
			});
		},
		setMatrix(body, matrix) {
			const mesh = partOf(body);
			const scale = drawing.scale[body]!;
			mesh.setMatrixAt(slot[body]!, scale === 1 ? matrix : scaled.copy(matrix).scale(size.setScalar(scale)));
			mesh.instanceMatrix.needsUpdate = true;
		},
		getMatrix: (body, into) => partOf(body).getMatrixAt(slot[body]!, into),
		setColour(body, colour) {
			const mesh = partOf(body);
			mesh.setColorAt(slot[body]!, colour);
			mesh.instanceColor!.needsUpdate = true;
		},
		sphereOf(body, into) {
			const sphere = partOf(body).geometry.boundingSphere;
			if (sphere) into.copy(sphere);
			return sphere !== null;
		},
		pick(raycaster) {
			let best: ReturnType<Batch["pick"]>;
			parts.forEach(({ mesh }, m) => {
				mesh.computeBoundingSphere();
				const [hit] = raycaster.intersectObject(mesh, false);
				if (hit?.instanceId !== undefined && (!best || hit.distance < best.hit.distance))
					best = { body: bodiesOf[m]![hit.instanceId]!, hit };
			});
			return best;
		},
		dispose() {
			for (const { mesh, material } of parts) {
				mesh.geometry.dispose();
				mesh.dispose();
				material.dispose();
			}
		},
	};
}
