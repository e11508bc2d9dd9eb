import { correctionFor } from "@rubble/core/animation";
import { type Command, type Key, type Keyed, keyedOf, type Placement, poseObject, setKey, type Ticks, together } from "@rubble/core/shot";
import { currentKeyed } from "./selectors";
import type { WorkbenchState } from "./store";

type Edited = Pick<WorkbenchState, "shot" | "selection" | "curves" | "layer">;

/** Which correction of a motion is being edited; undefined where its own keys are. */
export const editedLayer = (state: Edited, id: string): number | undefined =>
	state.curves && state.layer !== null && currentKeyed(state) === id && keyedOf(state.shot, id)?.keys.layers?.[state.layer]
		? state.layer
		: undefined;

/** Keys of an object, or of one of its corrections, whatever they key. */
export function keysShown({ keys }: Keyed, layer: number | undefined): readonly Key<unknown>[] {
	const { translation, rotation } = layer === undefined ? keys : keys.layers![layer]!;
	return [...translation, ...rotation, ...(layer === undefined ? Object.values(keys.numbers ?? {}).flat() : [])];
}

/** Places an object at a tick: by the correction that is being edited, by its keys, or where it rests. */
export function poseNow(state: Edited, id: string, tick: Ticks, placement: Placement): Command {
	const layer = editedLayer(state, id);
	if (layer === undefined) return poseObject(id, tick, placement);
	const { scale, ...wanted } = placement;
	return together("Correct", [
		setKey(id, tick, correctionFor(keyedOf(state.shot, id)!, layer, tick, wanted), undefined, layer),
		...(scale ? [poseObject(id, tick, { scale })] : []),
	]);
}
