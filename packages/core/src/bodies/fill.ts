import { worldPose } from "../animation";
import { estimateFill, type FillEstimate, type FillItem } from "../arrays";
import { hashValue } from "../common";
import { area, bounds, boundsSize, hollowOf, transformMesh } from "../mesh";
import type { Id, Shot } from "../shot";
import { measuresOf } from "./measures";
import { buildMesh, meshHash, remember, type Workshop } from "./workshop";

/** What a vessel would take. */
export interface FillFacts extends FillEstimate {
	/** m³ */
	readonly room: number;
}

/** How many copies of an array's sources fill what it is laid out in; undefined where it fills nothing. */
export async function estimateArrayFill(workshop: Workshop, shot: Shot, array: Id): Promise<FillFacts | undefined> {
	const { source } = shot.objects[array]!;
	if (source.kind !== "array") return undefined;
	const vessels = ((source.options.in ?? []) as readonly Id[]).filter((id) => shot.objects[id]);
	// The page asks after every edit; only a few of those change the answer.
	const hash = hashValue([meshHash(shot, array), vessels.map((id) => worldPose(shot, id, 0).rotation)]);
	const known = workshop.fills.get(hash);
	if (known) return known.facts;
	const items: FillItem[] = [];
	const mean = (Number(source.options.smallest ?? 1) + Number(source.options.largest ?? 1)) / 2;
	for (const id of source.sources) {
		const mesh = await buildMesh(workshop, shot, id);
		if (mesh.ok) items.push({ volume: measuresOf(mesh.value).volume * mean ** 3, area: area(mesh.value) * mean ** 2 });
	}
	let room = 0;
	let width = Number.POSITIVE_INFINITY;
	for (const id of vessels) {
		const mesh = await buildMesh(workshop, shot, id);
		if (!mesh.ok) continue;
		const turned = transformMesh(mesh.value, { rotation: worldPose(shot, id, 0).rotation });
		const hollow = source.options.room === "solid" ? undefined : hollowOf(turned);
		const volume = source.options.room === "solid" ? measuresOf(mesh.value).volume : (hollow?.volume ?? 0);
		const depth = hollow?.depth ?? boundsSize(bounds(turned))[1];
		room += volume;
		if (volume > 0) width = Math.min(width, 2 * Math.sqrt(volume / depth / Math.PI));
	}
	const facts = room > 0 && items.length > 0 ? { room, ...estimateFill(room, width, items) } : undefined;
	remember(workshop.fills, hash, { facts }, 40);
	return facts;
}
