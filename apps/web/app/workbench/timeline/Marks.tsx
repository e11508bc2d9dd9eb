import type { BodyRow } from "@rubble/core/bodies";
import {
	frameOfTick,
	keyedOf,
	moveGravityKey,
	moveKey,
	setBody,
	setSettings,
	simulationStart,
	type Ticks,
	tickOfFrame,
} from "@rubble/core/shot";
import { useMemo } from "react";
import { editedLayer, keysShown } from "../store/correcting";
import { currentKeyed, nameOf, pickedParts, selectedBodies } from "../store/selectors";
import { useWorkbench } from "../store/store";

/** Places of the timeline in its own pixels, and frames by the pointer. */
interface Ruler {
	readonly x: (frame: number) => number;
	readonly toFrame: (clientX: number) => number;
}

interface MarkProps extends Ruler {
	readonly frame: number;
	readonly label: string;
	readonly look: string;
	readonly onMove: (frame: number) => void;
}

/** Goes to its frame on a click; can be dragged to another one. */
function Mark({ x, toFrame, frame, label, look, onMove }: MarkProps) {
	return (
		<button
			type="button"
			aria-label={label}
			title={label}
			className={`absolute size-3 -translate-x-1/2 hover:scale-125 ${look}`}
			style={{ left: x(frame) }}
			onPointerDown={(event) => {
				event.stopPropagation();
				event.currentTarget.setPointerCapture(event.pointerId);
			}}
			onPointerUp={(event) => {
				event.stopPropagation();
				const { shot, set } = useWorkbench.getState();
				const to = Math.max(shot.settings.firstFrame, toFrame(event.clientX));
				if (Math.abs(to - frame) >= 1) onMove(to);
				else set({ frame: Math.round(frame), playing: false });
			}}
		/>
	);
}

/** Keys of the picked object, those of gravity where none is picked. */
export function Keys(ruler: Ruler) {
	const state = useWorkbench();
	const { shot, perform } = state;
	const id = currentKeyed(state);
	const item = id === undefined ? undefined : keyedOf(shot, id);
	const name = id === undefined ? "gravity" : nameOf(state, id);
	const layer = id === undefined ? undefined : editedLayer(state, id);
	const keys = item ? keysShown(item, layer) : (shot.settings.gravityKeys ?? []);
	const ticks = [...new Set(keys.map((key) => key.tick))].sort((a, b) => a - b);
	const move = (from: Ticks, to: Ticks) => perform(id !== undefined && item ? moveKey(id, from, to, layer) : moveGravityKey(from, to));
	return (
		<>
			{ticks.map((tick) => {
				const frame = frameOfTick(shot.settings, tick);
				return (
					<Mark
						key={tick}
						{...ruler}
						frame={frame}
						label={`Key of ${name} at frame ${Number(frame.toFixed(2))}`}
						look="top-[40px] rotate-45 rounded-[1px] bg-dusk"
						onMove={(to) => move(tick, tickOfFrame(shot.settings, to))}
					/>
				);
			})}
		</>
	);
}

/** Where the simulation starts, unless that is at the first frame. */
export function SimulationStart(ruler: Ruler) {
	const { shot, perform } = useWorkbench();
	const start = simulationStart(shot.settings);
	if (start === shot.settings.firstFrame) return null;
	return (
		<Mark
			{...ruler}
			frame={start}
			label={`Simulation from frame ${start}`}
			look="top-[40px] rounded-r-full border-l-2 border-ink bg-kelp"
			onMove={(to) => perform(setSettings({ startFrame: Math.round(to) }))}
		/>
	);
}

/** Where what is picked wakes, as far as that is at a frame. */
export function Wakes(ruler: Ruler) {
	const { shot, bodies, selection, perform } = useWorkbench();
	const woken = useMemo(() => wakeFrames(selectedBodies({ shot, bodies, selection })), [shot, bodies, selection]);
	const all = woken.size === 1 ? pickedParts({ shot, selection }) : undefined;
	return (
		<>
			{[...woken].map(([frame, ids]) => (
				<Mark
					key={frame}
					{...ruler}
					frame={frame}
					label={`Wakes at frame ${frame}${ids.length > 1 ? `: ${ids.length.toLocaleString("en")} bodies` : ""}`}
					look="top-[40px] rounded-full border-2 border-kelp bg-chalk"
					onMove={(to) => perform(setBody(all ?? ids, { wake: { when: "frame", frame: Math.round(to) } }))}
				/>
			))}
		</>
	);
}

/** Who wakes at which frame; of those that move by themselves. */
function wakeFrames(bodies: readonly BodyRow[]): Map<number, string[]> {
	const frames = new Map<number, string[]>();
	for (const { id, settings } of bodies) {
		if (settings.kind !== "active" || settings.wake.when !== "frame") continue;
		const ids = frames.get(settings.wake.frame);
		if (ids) ids.push(id);
		else frames.set(settings.wake.frame, [id]);
	}
	return frames;
}
