import { isKeyed, layerAt, uncorrectedPose } from "@rubble/core/animation";
import { keyedNumbers } from "@rubble/core/shaping";
import {
	type Easing,
	frameOfTick,
	isBodiless,
	keyedOf,
	objectOf,
	removeKey,
	type Shot,
	setBody,
	setEasing,
	setKey,
	tickOfFrame,
	together,
} from "@rubble/core/shot";
import { ChartSpline } from "lucide-react";
import { toast } from "sonner";
import { Segments } from "~/controls/Choice";
import { Section } from "~/controls/Section";
import { editedLayer, keysShown } from "~/workbench/store/correcting";
import { useWorkbench } from "~/workbench/store/store";

/** Keys of an object, a piece or a copy: where it is when. They make it an animated body. */
export function KeysSection({ id }: { id: string }) {
	const state = useWorkbench();
	const { shot, frame, curves, perform, set } = state;
	const item = keyedOf(shot, id)!;
	const whole = shot.objects[id];
	const layer = editedLayer(state, id);
	const tick = tickOfFrame(shot.settings, frame);
	const keys = keysShown(item, layer);
	const here = keys.some((key) => key.tick === tick);
	const easings = new Set(keys.map((key) => key.easing));
	const ticks = [...new Set(keys.map((key) => key.tick))].sort((a, b) => a - b);
	return (
		<Section
			title={layer === undefined ? "Keys" : item.keys.layers![layer]!.name}
			aside={
				ticks.length > 0
					? `${ticks.length} at ${ticks
							.slice(0, 6)
							.map((t) => Number(frameOfTick(shot.settings, t).toFixed(1)))
							.join(", ")}${ticks.length > 6 ? " …" : ""}`
					: undefined
			}
		>
			{ticks.length === 0 && <p className="text-slate">Go to a frame, place the object, set a key. Two keys make a motion.</p>}
			<div className="flex gap-1.5">
				<button
					type="button"
					className="button flex-1"
					title="Keep place and turn at this frame (K); from the first key on it is animated"
					onClick={() => keyHere([id])}
				>
					{here ? "Key again" : "Set key"} at <span className="number">{frame}</span>
				</button>
				<button type="button" className="button flex-1" disabled={!here} onClick={() => perform(removeKey(id, tick, layer))}>
					Remove key
				</button>
			</div>
			{isKeyed(item) && (
				<Segments
					compact
					label="Between keys"
					help="How it goes from one key to the next"
					value={easings.size === 1 ? [...easings][0]! : ""}
					options={[
						{ id: "linear", label: "Linear", help: "Even speed" },
						{ id: "eased", label: "Eased", help: "Slow out of a key and into the next" },
						{ id: "stepped", label: "Stepped", help: "Stays, then jumps" },
						{ id: "curved", label: "Curved", help: "A smooth curve through all keys" },
					]}
					onChange={(easing) => perform(setEasing(id, easing as Easing, layer))}
				/>
			)}
			{(isKeyed(item) || item.keys.numbers) && (
				<button type="button" className="button" aria-pressed={curves} onClick={() => set({ curves: !curves })}>
					<ChartSpline size={14} /> {curves ? "Close the curves" : "Edit as curves"}
				</button>
			)}
			{(isKeyed(item) || (whole && keyedNumbers(whole).length > 0)) && takesNoPart(shot, id) && (
				<p className="text-ochre">
					It {isKeyed(item) ? "moves" : "changes"} by keys but pushes nothing.{" "}
					<button type="button" className="link-action" onClick={() => perform(setBody([id], { kind: "animated" }))}>
						Make it animated
					</button>
				</p>
			)}
			{ticks.length > 0 && !here && (
				<button
					type="button"
					className="self-start text-xs text-slate hover:text-ink"
					onClick={() => set({ frame: Math.round(frameOfTick(shot.settings, ticks[0]!)) })}
				>
					To the first key
				</button>
			)}
		</Section>
	);
}

/** Whether it is an object that could be a body, and is none. */
const takesNoPart = (shot: Shot, id: string): boolean =>
	shot.objects[id] !== undefined && !isBodiless(shot.objects[id]) && (shot.bodies[id]?.kind ?? "none") === "none";

/** Keys places and turns where they are at the frame on show. What took no part so far pushes others from then on. */
export function keyHere(ids: readonly string[]): void {
	const state = useWorkbench.getState();
	const { shot, frame, perform } = state;
	const free = ids.filter((id) => keyedOf(shot, id) && !shot.objects[objectOf(shot, id)!]!.locked);
	if (free.length === 0) return;
	const tick = tickOfFrame(shot.settings, frame);
	const keys = free.map((id) => {
		const item = keyedOf(shot, id)!;
		const layer = editedLayer(state, id);
		return layer === undefined
			? setKey(id, tick, uncorrectedPose(item, tick), item.keys.translation[0]?.easing ?? "linear")
			: setKey(id, tick, layerAt(item.keys.layers![layer]!, tick), undefined, layer);
	});
	const join = free.filter((id) => takesNoPart(shot, id) && !isKeyed(shot.objects[id]!));
	perform(together("Set key", join.length > 0 ? [...keys, setBody(join, { kind: "animated" })] : keys));
	if (join.length === 1) toast.info(`${shot.objects[join[0]!]!.name} goes by its keys now and pushes what it meets.`);
	else if (join.length > 1) toast.info(`${join.length} objects go by their keys now and push what they meet.`);
}
