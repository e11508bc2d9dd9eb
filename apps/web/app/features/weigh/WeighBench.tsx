import type { BodyRow } from "@rubble/core/bodies";
import { degrees } from "@rubble/core/maths";
import {
	type BodyKind,
	type BodySettings,
	type ColliderChoice,
	formatNumber,
	formatQuantity,
	setBody,
	type WakeRule,
} from "@rubble/core/shot";
import { Volleyball } from "lucide-react";
import { Picker, Segments } from "~/controls/Choice";
import { KIND_LABELS, KindGlyph } from "~/controls/KindGlyph";
import { NumberField } from "~/controls/NumberField";
import { Fact, Section } from "~/controls/Section";
import { VectorField } from "~/controls/VectorField";
import { currentObject, selectedBodies } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";

import { KeysSection } from "../keys/KeysSection";
import { throwBallAt } from "./throwBall";

const KINDS: readonly BodyKind[] = ["active", "passive", "animated", "none"];
const KIND_HELP: Record<BodyKind, string> = {
	active: "Moves by itself",
	passive: "Holds still; others bounce off it",
	animated: "Moves by its keys, pushes others, is not pushed",
	none: "Takes no part",
};
const COLLIDERS: readonly { id: ColliderChoice; label: string }[] = [
	{ id: "auto", label: "Automatic" },
	{ id: "sphere", label: "Sphere" },
	{ id: "box", label: "Box" },
	{ id: "hull", label: "Convex hull" },
	{ id: "parts", label: "Convex parts" },
	{ id: "mesh", label: "Exact mesh" },
];

export function WeighBench() {
	const state = useWorkbench();
	const { shot, selection, perform } = state;
	const bodies = selectedBodies(state);
	const object = currentObject(state);
	if (bodies.length === 0)
		return <p className="p-3.5 text-slate">Pick objects or pieces in the view or the ledger. A rule in the ledger picks many at once.</p>;
	const set = (settings: BodySettings) => perform(setBody(selection, settings));
	const kinds = [...new Set(bodies.map((body) => body.settings.kind))];
	const kind = kinds.length === 1 ? kinds[0]! : "";
	const moving = bodies.some((body) => body.settings.kind === "active");
	const name =
		selection.length === 1
			? bodies.length === 1
				? bodies[0]!.path
				: `${shot.objects[object!]?.name} · ${bodies.length.toLocaleString("en")} pieces`
			: `${bodies.length.toLocaleString("en")} bodies`;
	return (
		<>
			<Section title={name}>
				<div className="grid grid-cols-4 gap-1.5" role="radiogroup" aria-label="Kind of body">
					{KINDS.map((item) => (
						<button
							key={item}
							type="button"
							role="radio"
							aria-checked={kind === item}
							title={KIND_HELP[item]}
							className={`button h-12! flex-col gap-0! px-0! text-xs ${kind === item ? "border-kelp! bg-kelp-wash! text-kelp!" : ""}`}
							onClick={() => set({ kind: item })}
						>
							<KindGlyph kind={item} size={17} />
							{KIND_LABELS[item]}
						</button>
					))}
				</div>
				{kind !== "" && <p className="text-xs text-slate">{KIND_HELP[kind]}.</p>}
				{kind === "" && <p className="text-xs text-slate">Mixed: {kinds.join(", ")}.</p>}
				{selection.length === 1 && object !== undefined && !bodies[0]!.endless && bodies[0]!.origin !== "copy" && (
					<button
						type="button"
						className="button"
						title="A steel ball comes at it and wakes it; aim, speed and weight can be changed afterwards"
						onClick={() => throwBallAt(object)}
					>
						<Volleyball size={15} /> Throw a ball at it
					</button>
				)}
			</Section>
			{kind !== "none" && (
				<>
					{!bodies.every((body) => body.endless) && <MassSection bodies={bodies} set={set} />}
					<ColliderSection bodies={bodies} set={set} />
					<Section title="Surface">
						<NumberField
							label="Friction"
							help="Of two that touch, the mean counts"
							least={0}
							most={10}
							value={numbers(bodies, "friction")}
							onChange={(friction) => set({ friction })}
						/>
						<NumberField
							label="Bounce"
							help="0 to 1; of two that touch, the greater counts"
							least={0}
							most={1}
							value={numbers(bodies, "bounce")}
							onChange={(bounce) => set({ bounce })}
						/>
					</Section>
				</>
			)}
			{moving && <WakeSection bodies={bodies} set={set} />}
			{moving && (
				<Section title="Start">
					<VectorField
						label="Velocity"
						unit="m/s"
						help="With which it begins to move"
						value={bodies[0]!.settings.velocity}
						onChange={(velocity) => set({ velocity })}
					/>
					<VectorField
						label="Spin"
						unit="°/s"
						help="With which it begins to turn"
						factor={degrees(1)}
						value={bodies[0]!.settings.spin}
						onChange={(spin) => set({ spin })}
					/>
				</Section>
			)}
			{object !== undefined && kind === "animated" && <KeysSection id={object} />}
		</>
	);
}

type Setter = (settings: BodySettings) => void;

const numbers = (bodies: readonly BodyRow[], field: "density" | "friction" | "bounce"): number[] =>
	bodies.map((body) => body.settings[field]);

function MassSection({ bodies, set }: { bodies: readonly BodyRow[]; set: Setter }) {
	const total = bodies.reduce((sum, body) => sum + body.mass, 0);
	const volume = bodies.reduce((sum, body) => sum + body.volume, 0);
	const given = bodies.some((body) => body.settings.mass !== undefined);
	return (
		<Section title="Mass" aside={formatQuantity(total, "mass", 4)}>
			{!given && (
				<NumberField
					label="Density"
					unit="kg/m³"
					help="From the material, unless given here"
					least={0.01}
					most={30_000}
					value={numbers(bodies, "density")}
					onChange={(density) => set({ density })}
				/>
			)}
			{given && (
				<NumberField
					label={bodies.length > 1 ? "Mass each" : "Mass"}
					unit="kg"
					least={1e-6}
					most={1e9}
					value={bodies.map((body) => body.mass)}
					onChange={(mass) => set({ mass })}
				/>
			)}
			<div className="flex justify-between text-xs text-slate">
				<span className="number">{formatQuantity(volume, "volume", 4)} in all</span>
				<button
					type="button"
					className="link-action"
					onClick={() => set(given ? { mass: undefined } : { mass: Number((total / bodies.length).toPrecision(4)) })}
				>
					{given ? "From density" : "Give the mass"}
				</button>
			</div>
		</Section>
	);
}

function ColliderSection({ bodies, set }: { bodies: readonly BodyRow[]; set: Setter }) {
	const { colliders, set: setView, showColliders } = useWorkbench();
	const choices = [...new Set(bodies.map((body) => body.settings.collider))];
	const known = bodies.flatMap((body) => (colliders[body.id] ? [colliders[body.id]!] : []));
	const tally = new Map<string, number>();
	for (const { choice } of known) tally.set(choice, (tally.get(choice) ?? 0) + 1);
	const worst = known.reduce((most, { error }) => (Math.abs(error) > Math.abs(most) ? error : most), 0);
	const hulls = known.reduce((sum, { parts }) => sum + parts, 0);
	return (
		<Section title="Collider">
			<Picker
				label="Shape"
				help="What touches others. Automatic takes the simplest that fits within 2 % of the volume"
				value={choices.length === 1 ? choices[0]! : ""}
				options={COLLIDERS}
				onChange={(collider) => set({ collider: collider as ColliderChoice })}
			/>
			{known.length > 0 && (
				<>
					<Fact
						label="Chosen"
						value={[...tally]
							.map(([choice, count]) => (known.length === 1 ? choice : `${count.toLocaleString("en")} ${choice}`))
							.join(", ")}
					/>
					<Fact
						label="Volume error"
						value={`${worst >= 5e-5 ? "+" : ""}${formatNumber(Math.abs(worst) < 5e-5 ? 0 : worst * 100, 2)} %`}
						{...(Math.abs(worst) > 0.1 && { tone: "warning" as const })}
					/>
					{hulls > known.length && <Fact label="Hulls" value={hulls.toLocaleString("en")} />}
				</>
			)}
			<button
				type="button"
				className="link-action self-start text-xs"
				aria-pressed={showColliders}
				onClick={() => setView({ showColliders: !showColliders })}
			>
				{showColliders ? "Hide colliders in the view" : "Show colliders in the view"}
			</button>
		</Section>
	);
}

function WakeSection({ bodies, set }: { bodies: readonly BodyRow[]; set: Setter }) {
	const first = useWorkbench((state) => state.shot.settings.firstFrame);
	const rules = bodies.map((body) => body.settings.wake);
	const whens = [...new Set(rules.map((rule) => rule.when))];
	const rule: WakeRule | undefined = whens.length === 1 ? rules[0] : undefined;
	return (
		<Section title="Wakes">
			<Segments
				label="When"
				help="Until then it stays where it is, whatever leans on it"
				value={rule?.when ?? ""}
				options={[
					{ id: "start", label: "Start", help: "From the first frame" },
					{ id: "frame", label: "Frame", help: "At a frame" },
					{ id: "touched", label: "Touched", help: "When something comes at it" },
				]}
				onChange={(when) =>
					set({ wake: when === "frame" ? { when, frame: first + 24 } : when === "touched" ? { when, leastSpeed: 0.5 } : { when: "start" } })
				}
			/>
			{rule?.when === "frame" && (
				<NumberField
					label="Frame"
					whole
					value={rules.map((r) => (r.when === "frame" ? r.frame : first))}
					onChange={(frame) => set({ wake: { when: "frame", frame } })}
				/>
			)}
			{rule?.when === "touched" && (
				<NumberField
					label="Least speed"
					unit="m/s"
					help="Slower touches do not wake it; keyed strikers count too"
					least={0}
					most={1000}
					value={rules.map((r) => (r.when === "touched" ? r.leastSpeed : 0))}
					onChange={(leastSpeed) => set({ wake: { when: "touched", leastSpeed } })}
				/>
			)}
		</Section>
	);
}
