import { gravityAt } from "@rubble/core/animation";
import { formatNumber, setGravity, setSettings, simulationStart, tickOfFrame } from "@rubble/core/shot";
import type { RunPart } from "@rubble/core/simulation";
import { differences } from "@rubble/core/takes";
import { useMemo } from "react";
import { Segments } from "~/controls/Choice";
import { NumberField } from "~/controls/NumberField";
import { ProgressBar } from "~/controls/ProgressBar";
import { Fact, Section } from "~/controls/Section";
import { TextField } from "~/controls/TextField";
import { VectorField } from "~/controls/VectorField";
import { frameFacts } from "~/workbench/store/selectors";
import { changeTake, run, stopRun } from "~/workbench/store/session";
import { useWorkbench } from "~/workbench/store/store";
import type { LiveCost } from "~/workers/watchedEngine";
import { ColourSection } from "./ColourSection";
import { StartSection } from "./StartSection";
import { TakesSection } from "./TakesSection";

const RATES = [24, 25, 30, 60];

export function RunBench() {
	const state = useWorkbench();
	const { shot, perform } = state;
	const { settings } = shot;
	const tick = tickOfFrame(settings, state.frame);
	const set = (change: Partial<typeof settings>) => perform(setSettings(change));
	return (
		<>
			<StatusSection />
			<TakesSection />
			<StartSection />
			<Section title="Frames">
				<NumberField
					label="First"
					whole
					least={-10_000}
					most={settings.lastFrame}
					value={settings.firstFrame}
					onChange={(firstFrame) => set({ firstFrame })}
				/>
				<NumberField
					label="Last"
					whole
					least={settings.firstFrame}
					most={settings.firstFrame + 99_999}
					value={settings.lastFrame}
					onChange={(lastFrame) => set({ lastFrame })}
				/>
				<NumberField
					label="Simulation from"
					help="Until this frame nothing moves by itself; keys do"
					whole
					least={settings.firstFrame}
					most={settings.lastFrame}
					value={simulationStart(settings)}
					onChange={(startFrame) => set({ startFrame })}
				/>
				<NumberField
					label="Frame rate"
					unit="fps"
					help="Keys keep their seconds when this changes"
					least={1}
					most={240}
					value={settings.fps}
					onChange={(fps) => set({ fps })}
				/>
				<div className="flex justify-end gap-1">
					{RATES.map((rate) => (
						<button
							key={rate}
							type="button"
							className={`number rounded px-1.5 text-xs ${settings.fps === rate ? "bg-kelp-wash font-bold text-kelp" : "text-slate hover:text-ink"}`}
							onClick={() => set({ fps: rate })}
						>
							{rate}
						</button>
					))}
				</div>
			</Section>
			<Section title="Exactness">
				<NumberField
					label="Substeps"
					unit="per frame"
					help="More for thin, fast or heavy things; the run takes as much longer"
					least={1}
					most={50}
					digits={3}
					value={settings.stepsPerSecond / settings.fps}
					onChange={(substeps) => set({ stepsPerSecond: Math.min(1200, Math.max(1, substeps * settings.fps)) })}
				/>
				<NumberField
					label="Iterations"
					whole
					help="Of the contact solver in each substep"
					least={1}
					most={32}
					value={settings.solverIterations}
					onChange={(solverIterations) => set({ solverIterations })}
				/>
				<NumberField
					label="Divided up to"
					unit="×"
					help="Substeps in which something, or an end of it that spins, would cross more than its own thickness are done in 2, 4, 8 parts. 1: never; fast things are swept ahead all the same"
					whole
					least={1}
					most={16}
					value={settings.mostParts ?? 1}
					onChange={(mostParts) => set({ mostParts })}
				/>
				<Fact label="Step" value={`${formatNumber((1000 * settings.timeScale) / settings.stepsPerSecond, 3)} ms`} />
			</Section>
			<Section title="World">
				<VectorField
					label="Gravity"
					unit="m/s²"
					help="9.81 down on earth"
					value={gravityAt(settings, tick)}
					onChange={(gravity) => perform(setGravity(gravity, tick))}
				/>
				<NumberField
					label="Time scale"
					unit="×"
					help="Simulated seconds in a second of the shot: below 1 is slow motion. Keys stay where they are"
					least={0.01}
					most={100}
					value={settings.timeScale}
					onChange={(timeScale) => set({ timeScale })}
				/>
			</Section>
			<ColourSection />
		</>
	);
}

function StatusSection() {
	const state = useWorkbench();
	const { run: running, lastRun, frames, frame } = state;
	const { stored, stale, first, last } = frameFacts(state);
	const chunk = frames.chunks.find((c) => frame >= c.firstFrame && frame < c.firstFrame + c.frames);
	const at = chunk ? frame - chunk.firstFrame : 0;
	const card = state.takes.find(({ id }) => id === state.take?.id);
	const missing = Math.max(0, last - Math.min(stored, stale - 1));
	const perFrame = lastRun && lastRun.frames > 0 ? lastRun.milliseconds / lastRun.frames : undefined;
	if (running?.settles)
		return (
			<Section title="Settling">
				<Fact label={running.what} value={running.at >= running.from ? `frame ${running.at}` : ""} />
				<p className="text-slate">It ends when all is at rest. Stop it when it is good: things are kept as they lie.</p>
				<button type="button" className="button" onClick={stopRun}>
					Stop and keep (Ctrl .)
				</button>
			</Section>
		);
	if (running) {
		const passed = (performance.now() - running.startedAt) / 1000;
		const done = running.at - running.from + 1;
		const left = done > 0 ? (passed / done) * (last - running.at) : undefined;
		return (
			<Section title="Running">
				<ProgressBar label="Run" fraction={running.fraction} />
				<Fact label={running.what} value={left === undefined ? "" : `about ${Math.max(1, Math.round(left))} s left`} />
				{running.cost && (
					<>
						<Fact label="A frame" value={`${formatNumber(running.cost.frame, 3)} ms · ${formatNumber(1000 / running.cost.frame, 2)} fps`} />
						<CostOfParts cost={running.cost} />
						<Fact label="Awake" value={running.cost.awake.toLocaleString("en")} />
						{running.cost.divided > 1 && <Fact label="Substeps divided" value={`${running.cost.divided} ×`} />}
						{running.cost.swept > 0 && <Fact label="Fast, swept ahead" value={running.cost.swept.toLocaleString("en")} />}
						<Fact label="Contacts that bear" value={running.cost.contacts.toLocaleString("en")} />
					</>
				)}
				<button type="button" className="button" onClick={stopRun}>
					Stop (Ctrl .)
				</button>
			</Section>
		);
	}
	return (
		<Section title="Take" aside={state.take ? state.take.name : undefined}>
			<FollowSwitch />
			{stored < first ? (
				<p className="text-slate">Not run yet. Every frame that is made can be jumped to at once.</p>
			) : (
				<>
					<Fact label="Stored" value={`${first}–${stored} of ${last}`} />
					{card && <TextField label="Note" value={card.note} onChange={(note) => void changeTake(card.id, { note })} />}
					{state.take?.take.wentOn && (
						<Fact label="Went on from" value={`${state.take.take.wentOn.take}, frame ${state.take.take.wentOn.frame}`} />
					)}
					{stale <= stored && (
						<>
							<Fact label="Out of date" value={`from frame ${stale}`} tone="warning" />
							<Changes />
						</>
					)}
					{perFrame !== undefined && <Fact label="Last run" value={`${formatNumber(perFrame, 3)} ms a frame`} />}
					{chunk && <Fact label="Awake now" value={chunk.awake[at]!.toLocaleString("en")} />}
					{chunk && <Fact label="Motion energy" value={energy(chunk.energy[at]!)} />}
				</>
			)}
			<button type="button" className="button button-primary mt-1" onClick={() => void run()}>
				{missing === 0 ? "All up to date" : stale > first && stored >= first ? `Run from frame ${Math.min(stored + 1, stale)}` : "Run"}
				{missing > 0 && perFrame !== undefined ? ` · about ${Math.max(1, Math.round((missing * perFrame) / 1000))} s` : ""}
			</button>
		</Section>
	);
}

/** Whether edits are run by themselves, or held until Run is pressed. */
function FollowSwitch() {
	const { follows, set } = useWorkbench();
	return (
		<Segments
			label="Edits"
			value={follows ? "follow" : "hold"}
			options={[
				{ id: "hold", label: "Hold", help: "Edits are collected until Run is pressed" },
				{ id: "follow", label: "Run", help: "What an edit makes out of date is run as soon as you pause" },
			]}
			onChange={(id) => set({ follows: id === "follow" })}
		/>
	);
}

const PARTS: readonly { readonly id: RunPart; readonly label: string }[] = [
	{ id: "engine", label: "engine" },
	{ id: "bonds", label: "bonds" },
	{ id: "connectors", label: "connectors" },
	{ id: "forces", label: "forces" },
	{ id: "storing", label: "storing" },
];
/** What takes less of a frame is not named. */
const WORTH_NAMING = 0.01;

/** Where the time of a frame goes. */
function CostOfParts({ cost: { frame, parts } }: { cost: LiveCost }) {
	return PARTS.filter(({ id }) => parts[id] > WORTH_NAMING * frame).map(({ id, label }) => (
		<Fact key={id} label={`of it ${label}`} value={`${formatNumber(parts[id], 3)} ms`} />
	));
}

/** What has changed since the take on show ran. */
const MOST_CHANGES = 5;
function Changes() {
	const shot = useWorkbench((state) => state.shot);
	const snapshot = useWorkbench((state) => state.take?.take.snapshot);
	const rows = useMemo(() => (snapshot ? differences([snapshot, shot]) : []), [snapshot, shot]);
	return (
		<ul className="text-xs text-slate" aria-label="Changed since then">
			{rows.slice(0, MOST_CHANGES).map(({ label, texts: [was, is] }) => (
				<li key={label} className="flex justify-between gap-3">
					<span className="truncate">{label}</span>
					<span className="number shrink-0">{was?.startsWith("set-up") ? "changed" : `${was} → ${is}`}</span>
				</li>
			))}
			{rows.length > MOST_CHANGES && <li>and {rows.length - MOST_CHANGES} more</li>}
		</ul>
	);
}

const energy = (joules: number): string => (joules >= 1000 ? `${formatNumber(joules / 1000, 3)} kJ` : `${formatNumber(joules, 3)} J`);
