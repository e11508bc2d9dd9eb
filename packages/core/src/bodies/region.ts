import { worldPose, worldScale } from "../animation";
import type { Hash } from "../common";
import { inverse, rotate, type Vec3, vec3 } from "../maths";
import { containment, type Mesh } from "../mesh";
import type { Id, RegionSource, Shot, Ticks } from "../shot";
import { buildMesh, meshHash, reportMesh, type Workshop } from "./workshop";

/** Whether a place of the world, metres, lies in a region. */
export type RegionTest = (place: Vec3) => boolean;

/** Whether a point lies in a region's own form, in its axes: one metre across before its size, or as the object is whose form it has. */
export type Inside = (x: number, y: number, z: number) => boolean;

const FORMS: Readonly<Record<"box" | "ball", Inside>> = {
	box: (x, y, z) => Math.max(Math.abs(x), Math.abs(y), Math.abs(z)) <= 0.5,
	ball: (x, y, z) => x * x + y * y + z * z <= 0.25,
};
/** Sorting the triangles of a mesh is done once. */
const KNOWN = new WeakMap<Mesh, Inside>();

/** The closed mesh that a region has the form of; undefined for boxes and balls, and where it is gone or open. */
export async function regionMesh(workshop: Workshop, shot: Shot, id: Id): Promise<Mesh | undefined> {
	const object = solidOf(shot, id);
	if (object === undefined) return undefined;
	const mesh = await buildMesh(workshop, shot, object);
	return mesh.ok && mesh.value.triangles.length > 0 && reportMesh(workshop, shot, object, mesh.value).closed ? mesh.value : undefined;
}

/** The form of a region. In what is none, or has the form of nothing, there is nothing. */
export async function insideOf(workshop: Workshop, shot: Shot, id: Id): Promise<Inside> {
	const source = shot.objects[id]?.source;
	if (source?.kind === "region" && source.form !== "solid") return FORMS[source.form];
	const mesh = await regionMesh(workshop, shot, id);
	if (!mesh) return () => false;
	const inside = KNOWN.get(mesh) ?? containment(mesh);
	KNOWN.set(mesh, inside);
	return inside;
}

/** A test whether places lie in a region at a tick. `inside`: its form, see `insideOf`. */
export function regionAt(shot: Shot, id: Id, tick: Ticks, inside: Inside): RegionTest {
	const { translation, rotation } = worldPose(shot, id, tick);
	const back = inverse(rotation);
	const shrink = worldScale(shot, id).map((s) => 1 / Math.abs(s)) as unknown as Vec3;
	return (place) => inside(...vec3.multiply(rotate(back, vec3.subtract(place, translation)), shrink));
}

/** All regions of a shot as they are at the first frame: which of them a place lies in. */
export async function regionsAround(workshop: Workshop, shot: Shot): Promise<(place: Vec3) => readonly Id[]> {
	const tests: [Id, RegionTest][] = [];
	for (const id of Object.keys(shot.objects))
		if (shot.objects[id]!.source.kind === "region") tests.push([id, regionAt(shot, id, 0, await insideOf(workshop, shot, id))]);
	return (place) => tests.flatMap(([id, test]) => (test(place) ? [id] : []));
}

/** Whether one of these regions has this name, or this part of one. */
export const isNamed =
	(shot: Shot, regions: readonly Id[]) =>
	(name: string): boolean =>
		regions.some((id) => shot.objects[id]?.name.toLowerCase().includes(name));

/** What hashes say of a region's form: that of an object changes with it. */
export function regionForm(shot: Shot, id: Id): readonly [RegionSource, Hash?] {
	const source = shot.objects[id]!.source as RegionSource;
	const object = solidOf(shot, id);
	return object === undefined ? [source] : [source, meshHash(shot, object)];
}

function solidOf(shot: Shot, id: Id): Id | undefined {
	const source = shot.objects[id]?.source;
	const object = source?.kind === "region" && source.form === "solid" ? source.solid : undefined;
	return object !== undefined && shot.objects[object] ? object : undefined;
}
