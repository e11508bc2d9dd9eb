import { changesShape, keyTicks, meshAt, onlyBends, straightShape } from "../shaping";
import type { Shot, Ticks } from "../shot";
import type { Body } from "./build";
import { partsOptions } from "./collider";
import { makePatches, type Patches, type PatchPose } from "./patches";
import { remember, type Workshop } from "./workshop";

/** The patches that the collider of a body follows whose shape changes by keys, and where they are at a tick. */
export interface LivePatches extends Pick<Patches, "count" | "error"> {
	readonly at: (tick: Ticks) => readonly PatchPose[];
}

/** Times between two keys at which it is looked how far patches stray. */
const LOOKS = 4;

/** Undefined where a body's shape stays, or where it moves by itself and so keeps the shape of the first frame. */
export function livePatches(workshop: Workshop, shot: Shot, body: Body): LivePatches | undefined {
	const { kind, proxy } = body.settings;
	if (kind === "active" || kind === "none" || body.origin !== "object" || proxy !== "" || !changesShape(shot, body.object))
		return undefined;
	const straight = body.straight ?? (onlyBends(shot.objects[body.object]!) ? straightShape(shot, body.object, 0) : undefined);
	const surface = (tick: Ticks) => ({ ...meshAt(shot, body.object, tick, straight), uv: new Float32Array(0) });
	const ticks = keyTicks(shot.objects[body.object]!);
	const looks = ticks.flatMap((tick, n) =>
		n === 0 ? [tick] : Array.from({ length: LOOKS }, (_, k) => ticks[n - 1]! + ((tick - ticks[n - 1]!) * (k + 1)) / LOOKS),
	);
	const parts = partsOptions(body.settings);
	const key = `${body.meshKey} patches ${Object.values(parts).join(" ")}`;
	const patches =
		workshop.patches.get(key) ?? remember(workshop.patches, key, makePatches(workshop.solids, surface(0), looks.map(surface), parts), 100);
	let known: { readonly tick: Ticks; readonly poses: readonly PatchPose[] }[] = [];
	return {
		count: patches.count,
		error: patches.error,
		at(tick) {
			const found = known.find((entry) => entry.tick === tick) ?? { tick, poses: patches.fit(surface(tick)) };
			// A step asks for its beginning and its end, again and again.
			known = [found, ...known.filter((entry) => entry !== found)].slice(0, 3);
			return found.poses;
		},
	};
}
