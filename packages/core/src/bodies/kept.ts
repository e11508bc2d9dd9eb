import { type Pose, worldPose } from "../animation";
import { bad, good, hashText, type Outcome } from "../common";
import { type AssetRef, type Command, placeObject, removeLayer, type Shot, setKeptPlaces, setKeys, together } from "../shot";
import type { Body } from "./build";
import { keyedInside, poseInside } from "./pose";
import type { Workshop } from "./workshop";

/**
 * Where pieces and copies were left by a run, each in its object's frame, so that moving the object takes them along.
 * `mesh` tells whether a body still is what it was: after breaking anew, the pieces of old places are others.
 */
export interface KeptPlaces {
	readonly format: "mighty-rubble-places";
	readonly version: 1;
	/** By body id: mesh, x y z in metres, quaternion x y z w. */
	readonly bodies: Readonly<Record<string, readonly [mesh: string, ...pose: readonly number[]]>>;
}

export const encodePlaces = (places: KeptPlaces): Uint8Array => new TextEncoder().encode(JSON.stringify(places));

export function decodePlaces(bytes: Uint8Array): Outcome<KeptPlaces> {
	try {
		const places = JSON.parse(new TextDecoder("utf-8", { fatal: true }).decode(bytes)) as KeptPlaces;
		const fits =
			places.format === "mighty-rubble-places" &&
			places.version === 1 &&
			Object.values(places.bodies).every(([mesh, ...pose]) => typeof mesh === "string" && pose.length === 7 && pose.every(Number.isFinite));
		if (fits) return good(places);
	} catch {
		// Said below.
	}
	return bad("The kept places of pieces and copies are damaged. Forget them in Run, or open the shot's file again.");
}

/** The shot's kept places; none where nothing was kept. */
export async function keptPlaces(workshop: Workshop, shot: Shot): Promise<Outcome<KeptPlaces | undefined>> {
	const asset = shot.keptPlaces;
	if (!asset) return good(undefined);
	try {
		const known = workshop.places.get(asset) ?? (await workshop.loadPlaces?.(asset));
		if (!known) throw new Error("they are not stored here");
		workshop.places.set(asset, known);
		return good(known);
	} catch (error) {
		return bad(`The kept places of pieces and copies cannot be read: ${(error as Error).message}. Forget them in Run.`);
	}
}

/** The body at its kept place, if it has one and still is what it was. */
export function standing<T extends Pick<Body, "id" | "meshKey">>(places: KeptPlaces | undefined, body: T): T {
	const kept = places?.bodies[body.id];
	if (!kept || kept[0] !== meshMark(body)) return body;
	const [x, y, z, ...turn] = kept.slice(1) as number[];
	return { ...body, kept: { translation: [x!, y!, z!], rotation: turn as unknown as Pose["rotation"] } };
}

const meshMark = ({ meshKey }: Pick<Body, "meshKey">): string => hashText(meshKey).slice(0, 12);

/**
 * Bodies where a run has left them, as a shot: whole objects are placed there, of pieces and copies a table is made that
 * is to be stored. `poses`: 7 per body of `ids`, world poses. Bodies of other kinds than active stay.
 */
export function keepPlaces(
	shot: Shot,
	bodies: readonly Body[],
	ids: readonly string[],
	poses: ArrayLike<number>,
	before: KeptPlaces | undefined,
	/** Which of the bodies; all that are active where absent. */
	chosen?: ReadonlySet<string>,
): { readonly placed: Command; readonly places: KeptPlaces | undefined; readonly count: number } {
	const index = new Map(ids.map((id, i) => [id, i]));
	const table: Record<string, readonly [string, ...number[]]> = { ...before?.bodies };
	const commands: Command[] = [];
	let derived = 0;
	let count = 0;
	for (const body of bodies) {
		const i = index.get(body.id);
		if (i === undefined || body.settings.kind !== "active" || (chosen && !chosen.has(body.id) && !chosen.has(body.object))) continue;
		count++;
		const at = (k: number) => poses[7 * i + k]!;
		const pose: Pose = { translation: [at(0), at(1), at(2)], rotation: [at(3), at(4), at(5), at(6)] };
		if (body.origin === "object") {
			const inside = keyedInside(shot, body.object, pose, 0);
			// Keys would put it back where they have it.
			commands.push(
				placeObject(body.object, inside),
				setKeys(body.object, "translation", []),
				setKeys(body.object, "rotation", []),
				...(shot.objects[body.object]!.keys.layers ?? []).map(() => removeLayer(body.object, 0)),
			);
			continue;
		}
		const { translation, rotation } = poseInside(worldPose(shot, body.object, 0), pose);
		table[body.id] = [meshMark(body), ...translation, ...rotation];
		derived++;
	}
	return {
		placed: together("Keep places", commands),
		places: derived > 0 ? { format: "mighty-rubble-places", version: 1, bodies: sorted(table) } : undefined,
		count,
	};
}

/** Equal places give equal bytes. */
const sorted = <T>(table: Readonly<Record<string, T>>): Record<string, T> =>
	Object.fromEntries(Object.entries(table).sort(([a], [b]) => (a < b ? -1 : 1)));

/** Everything that `keepPlaces` gives as one command, once its table is stored as `asset`. */
export const withPlaces = (placed: Command, asset: AssetRef | undefined, more: readonly Command[] = []): Command =>
	together("Keep places", [placed, ...(asset ? [setKeptPlaces(asset)] : []), ...more]);
