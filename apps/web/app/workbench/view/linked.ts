import { worldPose, worldScale } from "@rubble/core/animation";
import { changedMesh, evaluateLinks, followsLinks, followsShapeKeys, type LinkedObject, UNLINKED } from "@rubble/core/links";
import type { Vec3 } from "@rubble/core/maths";
import { drawMesh } from "@rubble/core/mesh";
import { shapedAt } from "@rubble/core/shaping";
import { type Id, type Shot, type Ticks, tickOfFrame } from "@rubble/core/shot";
import {
	BufferAttribute,
	BufferGeometry,
	Group,
	LineBasicMaterial,
	LineSegments,
	Matrix4,
	Mesh,
	MeshStandardMaterial,
	type Scene,
} from "three";
import type { Drawing } from "~/workers/messages";
import type { Bodies } from "./bodies";
import { formEdges } from "./formEdges";
import { PICKED } from "./overlays";
import type { PosedState } from "./poses";

/** Objects whose shape or place follows others by links, or whose shape is keyed: drawn by themselves, anew at each frame. */
export interface Linked {
	/** Ids of objects that are drawn here instead of among the bodies. */
	readonly objects: () => ReadonlySet<Id>;
	/** Call after bodies have been put in their places. */
	readonly follow: (state: PosedState) => void;
	/** Outlines of those that are picked. */
	readonly setSelection: (objects: ReadonlySet<Id>) => void;
	/** Does something while no outlines are seen. */
	readonly without: (work: () => void) => void;
	readonly dispose: () => void;
}

interface Drawn {
	readonly mesh: Mesh<BufferGeometry, MeshStandardMaterial>;
	readonly outline: LineSegments;
	/** What it was made from. */
	readonly key: string;
}

export function makeLinked(scene: Scene, bodies: Bodies): Linked {
	const root = new Group();
	scene.add(root);
	const meshes = new Map<Id, Drawn>();
	const outlines = new LineBasicMaterial({ color: PICKED, depthTest: false, transparent: true });
	let picked: ReadonlySet<Id> = new Set();
	let drawn = new Set<Id>();
	const matrix = new Matrix4();
	const remove = (id: Id) => {
		const known = meshes.get(id);
		if (!known) return;
		root.remove(known.mesh);
		known.mesh.geometry.dispose();
		known.mesh.material.dispose();
		known.outline.geometry.dispose();
		meshes.delete(id);
	};
	return {
		objects: () => drawn,
		follow(state) {
			const { shot, frame } = state;
			const tick = tickOfFrame(shot.settings, frame);
			const placeAt = (id: Id): Vec3 | undefined => {
				const first = state.bodies.find((body) => body.object === id);
				if (first && bodies.matrixOf(first.id, matrix)) return [matrix.elements[12]!, matrix.elements[13]!, matrix.elements[14]!];
				return shot.objects[id] && worldPose(shot, id, tick).translation;
			};
			const placeThen = (id: Id): Vec3 | undefined => shot.objects[id] && worldPose(shot, id, 0).translation;
			const made = Object.keys(shot.links).length > 0 ? evaluateLinks(shot, tick, placeAt, placeThen) : new Map<Id, LinkedObject>();
			drawn = new Set([...made.keys()].filter((id) => followsLinks(shot, id)));
			for (const id of Object.keys(shot.objects)) if (followsShapeKeys(shot, id)) drawn.add(id);
			for (const id of [...meshes.keys()]) if (!drawn.has(id)) remove(id);
			for (const id of drawn) {
				const link = made.get(id) ?? UNLINKED;
				const item = shapedAt(shot.objects[id]!, tick);
				const key = JSON.stringify([item.source, item.frame, item.bend, link.parameters, worldScale(shot, id), link.keeps]);
				let known = meshes.get(id);
				if (known?.key !== key) {
					remove(id);
					const geometry = geometryOf(shot, id, link, tick, state.drawings[id]?.straight);
					const outline = new LineSegments(
						new BufferGeometry().setAttribute("position", new BufferAttribute(formEdges(geometry), 3)),
						outlines,
					);
					outline.renderOrder = 1;
					known = { mesh: new Mesh(geometry, new MeshStandardMaterial()), outline, key };
					known.mesh.castShadow = known.mesh.receiveShadow = true;
					root.add(known.mesh.add(outline));
					meshes.set(id, known);
				}
				const { colour, roughness, metalness } = shot.materials[item.material]!;
				known.mesh.material.setValues({ color: colour, roughness, metalness });
				known.outline.visible = picked.has(id);
				known.mesh.visible = !item.hidden && (!state.alone || state.alone.includes(id));
				const { translation, rotation } = worldPose(shot, id, tick);
				known.mesh.position.set(...(translation.map((v, k) => v + link.moved[k]!) as [number, number, number]));
				known.mesh.quaternion.set(...rotation);
			}
		},
		setSelection(objects) {
			picked = objects;
			for (const [id, { outline }] of meshes) outline.visible = picked.has(id);
		},
		without(work) {
			outlines.visible = false;
			work();
			outlines.visible = true;
		},
		dispose() {
			outlines.dispose();
			for (const id of [...meshes.keys()]) remove(id);
			scene.remove(root);
		},
	};
}

function geometryOf(shot: Shot, id: Id, link: LinkedObject, tick: Ticks, straight: Drawing["straight"]): BufferGeometry {
	const { positions, normals, indices } = drawMesh(changedMesh(shot, id, link, tick, straight));
	const geometry = new BufferGeometry();
	geometry.setAttribute("position", new BufferAttribute(positions, 3));
	geometry.setAttribute("normal", new BufferAttribute(normals, 3));
	geometry.setIndex(new BufferAttribute(indices, 1));
	return geometry;
}
