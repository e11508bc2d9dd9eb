import { setKeptPlaces } from "@rubble/core/shot";
import { Hint } from "~/controls/Hint";
import { Fact, Section } from "~/controls/Section";
import { pickedMovers } from "~/workbench/store/selectors";
import { goOn, keepFrame, runAlone, settle } from "~/workbench/store/session";
import { useWorkbench } from "~/workbench/store/store";

/** Where a run begins, and dressing a set by letting things fall. */
export function StartSection() {
	const state = useWorkbench();
	const { shot, frame, frames, run: running, kept, perform } = state;
	const picked = pickedMovers(state).length;
	const loose = pickedMovers(state, true).length;
	const stored = frames.chunks.some((chunk) => frame >= chunk.firstFrame && frame < chunk.firstFrame + chunk.frames);
	const busy = running !== null;
	const last = shot.settings.lastFrame;
	const whom = picked > 0 ? "picked things" : "everything that is active";
	return (
		<Section title="Start and rest" aside={loose > 0 ? `${loose.toLocaleString("en")} picked` : undefined}>
			{shot.keptPlaces && (
				<>
					<Fact label="Stand at kept places" value={kept.used.toLocaleString("en")} />
					{kept.unused > 0 && <Fact label="Fit nothing any more" value={kept.unused.toLocaleString("en")} tone="warning" />}
				</>
			)}
			<Hint
				text={`Lets ${loose > 0 ? "picked things" : "everything that is active"} fall onto what is there until all is at rest, keeps the places and takes physics away. Stop it when it is good`}
			>
				<button type="button" className="button" disabled={busy} onClick={() => void settle()}>
					{loose > 0 ? "Settle picked and keep" : "Settle and keep"}
				</button>
			</Hint>
			<div className="grid grid-cols-2 gap-1.5">
				<Hint text={`The next run begins with ${whom} where this frame has them`}>
					<button type="button" className="button" disabled={busy || !stored} onClick={() => void keepFrame(false)}>
						Start from {frame}
					</button>
				</Hint>
				<Hint text={`Frames up to ${frame} stay as they are; from there on the shot as it is now holds. It becomes a take of its own`}>
					<button type="button" className="button" disabled={busy || !stored || frame >= last} onClick={() => void goOn(frame)}>
						Go on from {frame}
					</button>
				</Hint>
				<Hint text={`Keeps ${whom} where this frame has them and takes physics away`}>
					<button type="button" className="button" disabled={busy || !stored} onClick={() => void keepFrame(true)}>
						Keep as set
					</button>
				</Hint>
				<Hint text="Runs with nothing active but what is picked, into a take of its own">
					<button type="button" className="button" disabled={busy || picked === 0} onClick={runAlone}>
						Run it alone
					</button>
				</Hint>
				{shot.keptPlaces && (
					<Hint text="Pieces and copies stand where they were made again">
						<button type="button" className="button" onClick={() => perform(setKeptPlaces(null))}>
							Forget places
						</button>
					</Hint>
				)}
			</div>
		</Section>
	);
}
