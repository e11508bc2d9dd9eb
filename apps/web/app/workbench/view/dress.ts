import { type Id, MATERIALS, tickOfFrame } from "@rubble/core/shot";
import type { Bodies } from "./bodies";
import type { Linked } from "./linked";
import type { PosedState } from "./poses";
import type { Stage } from "./stage";

/** Materials, hidden things, lights and ground as the shot has them. */
export function dress(stage: Stage, bodies: Bodies, linked: Linked, state: PosedState): void {
	const { objects, materials, settings } = state.shot;
	const lookOf = (source: Id) => {
		const outside = materials[objects[source]?.material ?? ""] ?? FALLBACK;
		return { outside, inside: materials[outside.inside ?? ""] ?? outside };
	};
	for (const [id, item] of Object.entries(objects)) bodies.setLook(id, lookOf, item.hidden || linked.objects().has(id), !item.locked);
	const ground = state.bodies.find((body) => body.endless);
	const item = ground && objects[ground.object];
	stage.setScenery(state.shot, tickOfFrame(settings, state.frame));
	stage.setGround(item && !item.hidden ? materials[item.material]!.colour : undefined, item?.translation[1] ?? 0);
}

/** While a source of copies is gone and they are not built anew yet. */
const FALLBACK = Object.values(MATERIALS)[0]!;
