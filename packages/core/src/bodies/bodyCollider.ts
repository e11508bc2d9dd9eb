import { worldPose, worldScale } from "../animation";
import { hashValue, inTurns } from "../common";
import type { Shot } from "../shot";
import { cropSolid } from "../solid";
import type { Body } from "./build";
import { type FittedCollider, fittingCollider, partsOptions, scaleCollider } from "./collider";
import { measuresOf } from "./measures";
import { bodyPose, poseInside } from "./pose";
import { regionForm, regionMesh } from "./region";
import { buildMesh, meshHash, remember, type Workshop } from "./workshop";

/**
 * The body's collider, or that of the shape that stands in for it, or of the part of its shape that lies in a region. `pause`: waited
 * for in between, as many hulls of an uneven body take tens of seconds; what it throws ends the work.
 */
export async function colliderOf(workshop: Workshop, shot: Shot, body: Body, pause?: () => Promise<void>): Promise<FittedCollider> {
	const { proxy } = body.settings;
	const part = await cropped(workshop, shot, body);
	if (part) return bodyCollider(workshop, { ...body, ...part }, pause);
	if (proxy === "" || !shot.objects[proxy] || body.endless) return bodyCollider(workshop, body, pause);
	const mesh = await buildMesh(workshop, shot, proxy);
	if (!mesh.ok || mesh.value.triangles.length === 0) return bodyCollider(workshop, body, pause);
	const fitted = await bodyCollider(workshop, { ...body, mesh: mesh.value, meshKey: meshHash(shot, proxy) }, pause);
	// What counts is how far it is from the shape that is seen.
	const stands = measuresOf(mesh.value).volume * body.scale ** 3;
	return { ...fitted, error: body.volume > 0 ? ((1 + fitted.error) * stands) / body.volume - 1 : 0 };
}

/** What of a body's shape lies in the region that it is cropped to; undefined where it is not, or nothing would be left. */
async function cropped(workshop: Workshop, shot: Shot, body: Body): Promise<Pick<Body, "mesh" | "meshKey"> | undefined> {
	const region = shot.objects[body.settings.crop];
	if (region?.source.kind !== "region" || body.endless || body.scale !== 1) return undefined;
	const place = poseInside(bodyPose(shot, body, 0), worldPose(shot, body.settings.crop, 0));
	const size = worldScale(shot, body.settings.crop);
	const meshKey = `${body.meshKey} in ${hashValue([...regionForm(shot, body.settings.crop), place, size])}`;
	const { form } = region.source;
	const tool = form === "solid" ? await regionMesh(workshop, shot, body.settings.crop) : form;
	if (!tool) return undefined;
	const mesh =
		workshop.meshes.get(meshKey) ?? remember(workshop.meshes, meshKey, cropSolid(workshop.solids, body.mesh, tool, place, size), 300);
	return mesh.triangles.length > 0 ? { mesh, meshKey } : undefined;
}

/** The body's collider, found once per mesh and choice. */
export async function bodyCollider(workshop: Workshop, body: Body, pause?: () => Promise<void>): Promise<FittedCollider> {
	if (body.endless) return { shape: { kind: "ground" }, choice: "ground", error: 0 };
	const { collider, kind } = body.settings;
	const parts = partsOptions(body.settings);
	const key = `${body.meshKey} ${collider} ${kind === "active"} ${Object.values(parts).join(" ")}`;
	const fitted =
		workshop.colliders.get(key) ??
		remember(workshop.colliders, key, await inTurns(fittingCollider(workshop.solids, body.mesh, collider, kind, parts), pause), 200_000);
	return body.scale === 1 ? fitted : scaleCollider(fitted, body.scale);
}
