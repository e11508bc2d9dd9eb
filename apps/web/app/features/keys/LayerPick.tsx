import { addLayer, changeLayer, keyedOf, removeLayer, tickOfFrame } from "@rubble/core/shot";
import { Eye, EyeOff, Layers, Trash2 } from "lucide-react";
import { Dropdown } from "~/controls/Choice";
import { useWorkbench } from "~/workbench/store/store";

/** Frames before and after the one on show within which a new correction fades in and out. */
const FADE = 12;
const OWN = "own";

/** What of a motion is edited: its own keys, or a correction over them. Nothing where it has none. */
export function LayerPick({ id, layer }: { id: string; layer: number | undefined }) {
	const { shot, perform, set } = useWorkbench();
	const layers = keyedOf(shot, id)!.keys.layers ?? [];
	const current = layer === undefined ? undefined : layers[layer];
	if (layers.length === 0) return null;
	return (
		<div className="flex shrink-0 items-center gap-1" role="group" aria-label="Corrections">
			<div className="min-w-28 flex-1">
				<Dropdown
					label="What is edited"
					value={layer === undefined ? OWN : String(layer)}
					options={[
						{ id: OWN, label: "Its own keys" },
						...layers.map(({ name, muted }, n) => ({ id: String(n), label: muted ? `${name} (muted)` : name })),
					]}
					onChange={(chosen) => set({ layer: chosen === OWN ? null : Number(chosen) })}
				/>
			</div>
			{current && layer !== undefined && (
				<>
					<button
						type="button"
						className="button px-2!"
						aria-pressed={current.muted}
						aria-label={current.muted ? `Apply ${current.name}` : `Mute ${current.name}`}
						title={current.muted ? "It has no effect now" : "Without its effect, for the moment"}
						onClick={() => perform(changeLayer(id, layer, { muted: !current.muted }))}
					>
						{current.muted ? <EyeOff size={13} /> : <Eye size={13} />}
					</button>
					<button
						type="button"
						className="button px-2!"
						aria-label={`Remove ${current.name}`}
						onClick={() => {
							perform(removeLayer(id, layer));
							set({ layer: null });
						}}
					>
						<Trash2 size={13} />
					</button>
				</>
			)}
		</div>
	);
}

/** Begins a correction around the frame on show. */
export function CorrectHere({ id }: { id: string }) {
	const { shot, frame, perform, set } = useWorkbench();
	const add = () => {
		const { firstFrame, lastFrame } = shot.settings;
		const count = keyedOf(shot, id)!.keys.layers?.length ?? 0;
		const ends = [Math.max(firstFrame, frame - FADE), Math.min(lastFrame, frame + FADE)] as const;
		perform(addLayer(id, `Correction ${count + 1}`, [tickOfFrame(shot.settings, ends[0]), tickOfFrame(shot.settings, ends[1])]));
		set({ layer: count });
	};
	return (
		<button
			type="button"
			className="button px-2!"
			title={`A correction over the motion, within ${FADE} frames of this one: move or turn it, its keys stay as they are`}
			onClick={add}
		>
			<Layers size={13} /> Correct here
		</button>
	);
}
