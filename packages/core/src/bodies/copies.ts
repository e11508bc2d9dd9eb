import { worldScale } from "../animation";
import { type Copies, layOut, layoutById } from "../arrays";
import { bad, good, type Outcome, type Progress } from "../common";
import { type Mesh, reach, transformMesh } from "../mesh";
import type { ArraySource, Id, Shot } from "../shot";
import { poseIn } from "./pose";
import { buildMesh, meshHash, namedObjects, remember, type Workshop } from "./workshop";

/** An array as it is built: where its copies stand, and the meshes of its sources. */
interface BuiltArray {
	readonly copies: Copies;
	readonly sources: readonly { readonly id: Id; readonly mesh: Mesh }[];
}

/** Lays out the copies of an array object. */
export async function buildCopies(workshop: Workshop, shot: Shot, object: Id, progress: Progress): Promise<Outcome<BuiltArray>> {
	const item = shot.objects[object]!;
	const source = item.source as ArraySource;
	const layout = layoutById(source.layout);
	if (!layout) return bad(`“${item.name}” is laid out as “${source.layout}”, which this version does not know.`);
	const sources: { id: Id; mesh: Mesh }[] = [];
	for (const id of source.sources) {
		const mesh = await buildMesh(workshop, shot, id);
		if (!mesh.ok) return mesh;
		if (mesh.value.triangles.length === 0) return bad(`“${shot.objects[id]!.name}” has no solid that could be copied.`);
		sources.push({ id, mesh: mesh.value });
	}
	const hash = meshHash(shot, object);
	const known = workshop.copies.get(hash);
	if (known) return good({ copies: known, sources });
	const targets: Mesh[] = [];
	for (const id of namedObjects(shot, object, layout, source.options)) {
		const mesh = await buildMesh(workshop, shot, id);
		if (!mesh.ok) return mesh;
		targets.push(transformMesh(mesh.value, poseIn(shot, object, id)));
	}
	const made = await layOut(
		layout,
		targets,
		sources.map(({ mesh }) => reach(mesh)),
		source.options,
		progress,
	);
	if (!made.ok) return bad(`“${item.name}”: ${made.problems[0]!.message}`);
	const scale = worldScale(shot, object);
	const position = made.value.position.map((value, i) => value * scale[i % 3]!);
	return good({ copies: remember(workshop.copies, hash, { ...made.value, position }, 40), sources });
}
