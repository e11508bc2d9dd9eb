import { type Dimension, formatQuantity, type Id } from "@rubble/core/shot";
import { connectorLoads, frameOfMost } from "@rubble/core/takes";
import { useMemo } from "react";
import { Fact, Section } from "~/controls/Section";
import { SeriesChart } from "~/takes/SeriesChart";
import { frameFacts } from "~/workbench/store/selectors";
import { useWorkbench, type WorkbenchState } from "~/workbench/store/store";

/** What a connector bore in the take on show: what its break load is to be measured by. */
export function LoadSection({ id }: { id: Id }) {
	const state = useWorkbench();
	const { take, frames, frame, shot, set } = state;
	const loads = useMemo(() => (take ? connectorLoads(take.take, frames, id) : undefined), [take, frames, id]);
	if (!loads || !take) return null;
	const { options } = shot.connectors[id]!;
	const { firstFrame, force, moment, joint } = loads;
	const { stale, stored } = frameFacts(state);
	const count = take.take.joints!.filter((one) => one === id).length;
	const at = Math.min(Math.max(frame - firstFrame, 0), force.length - 1);
	const breaks = options.breaks === "load";
	const bears = moment.some((value) => value > 0);
	const rows = [
		{ label: "Force", dimension: "force", values: force, limit: breaks ? options.force : undefined },
		...(bears ? [{ label: "Moment", dimension: "moment", values: moment, limit: breaks ? options.moment : undefined } as const] : []),
	] as const;
	const worst = frameOfMost(firstFrame, force);
	return (
		<Section title="Load" aside={stale <= stored ? `${take.name}, out of date` : take.name}>
			{rows.map(({ label, dimension, values, limit }) => (
				<Most key={label} label={label} dimension={dimension} values={values} firstFrame={firstFrame} at={at} limit={limit} />
			))}
			{count > 1 && <Fact label="Where" value={between(state, id, count, joint[worst - firstFrame]!)} />}
			<SeriesChart
				title="Force"
				unit="N"
				curves={[{ id, name: "force", frames: force.map((_, n) => firstFrame + n), values: force }]}
				colourOf={() => "var(--color-kelp)"}
				frame={frame}
			/>
			{!breaks && (
				<p className="text-xs text-slate">
					Let it break at a load, and every substep is looked at: jerks shorter than a frame are seen, too.
				</p>
			)}
			{worst !== frame && (
				<button type="button" className="button" onClick={() => set({ frame: worst, playing: false })}>
					Go to frame {worst}, where it bears most
				</button>
			)}
		</Section>
	);
}

/** What a joint of a connector holds together, by name; by number where the shot has other ones by now. */
function between({ ties, bodies }: Pick<WorkbenchState, "ties" | "bodies">, id: Id, count: number, k: number): string {
	const joints = ties?.joints.filter(({ connector }) => connector === id) ?? [];
	const joint = joints.length === count ? joints[k] : undefined;
	if (!ties || !joint) return `joint ${k + 1} of ${count}`;
	const name = (i: number): string => bodies.find((body) => body.id === ties.ids[i])?.path ?? "the world";
	return `${name(joint.a)} – ${name(joint.b)}`;
}

/** A load now, at most, and of what it may be. */
function Most({
	label,
	dimension,
	values,
	firstFrame,
	at,
	limit,
}: {
	label: string;
	dimension: Dimension;
	values: readonly number[];
	firstFrame: number;
	at: number;
	limit: unknown;
}) {
	const frame = frameOfMost(firstFrame, values);
	const most = values[frame - firstFrame]!;
	const of = typeof limit === "number" ? ` of ${formatQuantity(limit, dimension)}` : "";
	return (
		<>
			<Fact label={`${label} now`} value={formatQuantity(values[at]!, dimension)} />
			<Fact
				label={`${label} at most`}
				value={`${formatQuantity(most, dimension)}${of}, frame ${frame}`}
				{...(typeof limit === "number" && most > limit && { tone: "warning" as const })}
			/>
		</>
	);
}
