import { worldPose } from "../animation";
import { bad, good, type Outcome } from "../common";
import { type Vec3, vec3 } from "../maths";
import { bounds, boundsCentre, joinMeshes, type Mesh, shells, topology, transformMesh } from "../mesh";
import type { Id, Shot } from "../shot";
import { fromSolid, scoped, toSolid } from "../solid";
import { buildMesh, type Workshop } from "./workshop";

/** A mesh about its own middle, and where that stands in the world. */
export interface Reworked {
	readonly mesh: Mesh;
	readonly translation: Vec3;
}

const middled = (mesh: Mesh): Reworked => {
	const translation = boundsCentre(bounds(mesh));
	return { mesh: transformMesh(mesh, { translation: vec3.scale(translation, -1) }), translation };
};

async function worldMesh(workshop: Workshop, shot: Shot, id: Id): Promise<Outcome<Mesh>> {
	const mesh = await buildMesh(workshop, shot, id);
	return mesh.ok ? good(transformMesh(mesh.value, worldPose(shot, id, 0))) : mesh;
}

/** Several objects as one solid: where they overlap they are united. Open meshes are laid side by side. */
export async function mergeObjects(workshop: Workshop, shot: Shot, ids: readonly Id[]): Promise<Outcome<Reworked>> {
	const meshes: Mesh[] = [];
	for (const id of ids) {
		const mesh = await worldMesh(workshop, shot, id);
		if (!mesh.ok) return mesh;
		if (mesh.value.triangles.length > 0) meshes.push(mesh.value);
	}
	if (meshes.length < 2) return bad("Pick two or more objects with a mesh to merge them.");
	if (meshes.some((mesh) => !topology(mesh).closed)) return good(middled(joinMeshes(meshes)));
	const { solids } = workshop;
	return good(
		middled(
			scoped((keep) =>
				fromSolid(keep(solids.Manifold.union(meshes.map((mesh) => keep(toSolid(solids, { ...mesh, uv: new Float32Array(0) })))))),
			),
		),
	);
}

/** The connected parts of an object, largest first. */
export async function splitObject(workshop: Workshop, shot: Shot, id: Id): Promise<Outcome<Reworked[]>> {
	const mesh = await worldMesh(workshop, shot, id);
	if (!mesh.ok) return mesh;
	const parts = shells(mesh.value);
	if (parts.length < 2) return bad(`“${shot.objects[id]!.name}” is of one part.`);
	return good(parts.sort((a, b) => b.triangles.length - a.triangles.length).map(middled));
}
