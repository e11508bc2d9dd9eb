import { gravityAt, numberAt } from "@rubble/core/animation";
import { FORCES, forceById } from "@rubble/core/forces";
import {
	addObject,
	type ForceSource,
	freeName,
	type Id,
	type OptionSpec,
	type OptionValue,
	optionDefaults,
	orderedObjects,
	removeGravityKey,
	setFlags,
	setForceOption,
	setGravity,
	setNumberKey,
	shownOptions,
	tickOfFrame,
} from "@rubble/core/shot";
import { ArrowUpFromLine, Eye, EyeOff, Shell, Spline, Tornado, Waves, Wind } from "lucide-react";
import { useEffect } from "react";
import { Labelled } from "~/controls/Labelled";
import { RuleField } from "~/controls/RuleField";
import { Section } from "~/controls/Section";
import { TileButton } from "~/controls/TileButton";
import { VectorField } from "~/controls/VectorField";
import { PlainOption } from "~/features/options/PlainOption";
import { setSeveral } from "~/features/options/several";
import { newId } from "~/workbench/ids";
import { currentObject } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";
import { sightNow } from "~/workbench/view/eye";
import { Diamond, KeyDiamond } from "../keys/KeyDiamond";
import { KeysSection } from "../keys/KeysSection";
import { PlaceSection } from "../shape/PlaceSection";
import { WorldsSection } from "./WorldsSection";

const ICONS: Readonly<Record<string, React.ReactNode>> = {
	push: <ArrowUpFromLine size={18} />,
	radial: <Shell size={18} />,
	whirl: <Tornado size={18} />,
	wind: <Wind size={18} />,
	turbulence: <Waves size={18} />,
	stream: <Spline size={18} />,
};

/** What drives things: gravity, forces, worlds. */
export function PushBench() {
	const { shotId, shot, selection, set } = useWorkbench();
	const id = currentObject({ shot, selection });
	const source = id === undefined ? undefined : shot.objects[id]?.source;
	// The arrows of the fields are what this stage is about.
	// biome-ignore lint/correctness/useExhaustiveDependencies: another shot begins with nothing shown.
	useEffect(() => {
		set({ showForces: true });
		return () => set({ showForces: false });
	}, [set, shotId]);
	return (
		<>
			<Section title="Add a force">
				<div className="grid grid-cols-3 gap-1.5">
					{FORCES.map((force) => (
						<TileButton key={force.id} label={force.label} title={force.help} icon={ICONS[force.id]} onClick={() => addForce(force.id)} />
					))}
				</div>
			</Section>
			{id !== undefined && source?.kind === "force" ? (
				<>
					<ForceSection id={id} />
					<PlaceSection id={id} />
					<KeysSection id={id} />
				</>
			) : (
				<>
					<ForceList />
					<GravitySection />
					<WorldsSection />
				</>
			)}
		</>
	);
}

/** A force in the middle of what the view looks at, a little above the ground. */
export function addForce(kind: string): void {
	const { perform, select, shot } = useWorkbench.getState();
	const force = forceById(kind)!;
	const id = newId();
	const { target } = sightNow();
	perform(
		addObject({
			id,
			name: freeName(shot, force.label),
			source: { kind: "force", force: kind, options: optionDefaults(force) },
			translation: [target[0], Math.max(0, target[1]), target[2]],
		}),
	);
	select([id]);
}

function ForceSection({ id }: { id: Id }) {
	const { shot, perform } = useWorkbench();
	const item = shot.objects[id]!;
	const source = item.source as ForceSource;
	const force = forceById(source.force);
	if (!force) return <p className="p-3.5 text-rust">{item.name} is a force that this version does not know.</p>;
	return (
		<Section title={item.name} aside={force.label}>
			<p className="text-slate">{force.help}.</p>
			{shownOptions(force, source.options).map(([name, spec]) =>
				name === "strength" ? (
					<StrengthOption key={name} id={id} spec={spec} />
				) : (
					<ForceOption
						key={name}
						id={id}
						spec={spec}
						value={source.options[name]}
						onChange={(value) => perform(setForceOption(id, name, value))}
						onSeveral={(texts) =>
							perform(setSeveral(shownOptions(force, source.options), name, texts, (...one) => setForceOption(id, ...one)))
						}
					/>
				),
			)}
		</Section>
	);
}

function ForceOption({
	id,
	spec,
	value,
	onChange,
	onSeveral,
}: {
	id: Id;
	spec: OptionSpec;
	value: OptionValue | undefined;
	onChange: (value: OptionValue) => void;
	onSeveral?: (texts: readonly string[]) => void;
}) {
	switch (spec.kind) {
		case "number":
		case "choice":
		case "objects":
		case "places":
		case "curve":
			return <PlainOption own={id} spec={spec} value={value} onChange={onChange} onSeveral={onSeveral} />;
		case "rule":
			return (
				<Labelled label={spec.label} help={spec.help} top>
					<RuleField label={spec.label} rule={String(value ?? "")} placeholder="everything" onChange={onChange} />
				</Labelled>
			);
		default:
			return null;
	}
}

/** A strength that can be keyed. */
function StrengthOption({ id, spec }: { id: Id; spec: OptionSpec }) {
	const { shot, frame, perform } = useWorkbench();
	const item = shot.objects[id]!;
	const source = item.source as ForceSource;
	const tick = tickOfFrame(shot.settings, frame);
	const keys = item.keys.numbers?.strength ?? [];
	const by = source.options.by === "force" ? "N" : undefined;
	const shown = by && spec.kind === "number" ? { ...spec, unit: by } : spec;
	const value = numberAt(item, "strength", tick) ?? source.options.strength;
	return (
		<div className="flex items-center gap-1.5">
			<div className="min-w-0 flex-1">
				<ForceOption
					id={id}
					spec={shown}
					value={value}
					onChange={(next) =>
						perform(
							keys.length > 0 && typeof next === "number" ? setNumberKey(id, "strength", tick, next) : setForceOption(id, "strength", next),
						)
					}
				/>
			</div>
			<KeyDiamond id={id} name="strength" label="the strength" value={Number(value)} />
		</div>
	);
}

function ForceList() {
	const { shot, perform, select } = useWorkbench();
	const forces = orderedObjects(shot).filter((id) => shot.objects[id]!.source.kind === "force");
	return (
		<Section title="Forces" aside={forces.length > 0 ? forces.length : undefined}>
			{forces.length === 0 && (
				<p className="text-slate">Only gravity pulls. Add a force: it stands where you look, and can be moved and keyed.</p>
			)}
			{forces.map((id) => {
				const { name, hidden, source } = shot.objects[id]!;
				return (
					<div key={id} className="flex items-center gap-2">
						<button type="button" className="link-action min-w-0 flex-1 truncate text-left" onClick={() => select([id])}>
							{name}
						</button>
						<span className="text-xs text-slate">{hidden ? "off" : forceById((source as ForceSource).force)?.label}</span>
						<button
							type="button"
							className="button px-2!"
							aria-label={hidden ? `Turn ${name} on` : `Turn ${name} off`}
							onClick={() => perform(setFlags([id], { hidden: !hidden }))}
						>
							{hidden ? <EyeOff size={14} /> : <Eye size={14} />}
						</button>
					</div>
				);
			})}
		</Section>
	);
}

const GRAVITIES = [
	{ label: "Earth", gravity: [0, -9.81, 0] },
	{ label: "Moon", gravity: [0, -1.62, 0] },
	{ label: "None", gravity: [0, 0, 0] },
] as const;

function GravitySection() {
	const { shot, frame, perform } = useWorkbench();
	const tick = tickOfFrame(shot.settings, frame);
	const keys = shot.settings.gravityKeys ?? [];
	const here = keys.some((key) => key.tick === tick);
	const gravity = gravityAt(shot.settings, tick);
	return (
		<Section title="Gravity" aside={keys.length > 0 ? `keyed: frame ${frame}` : undefined}>
			<div className="flex items-end gap-1.5">
				<div className="min-w-0 flex-1">
					<VectorField
						label="Pull"
						unit="m/s²"
						help="Of the main world; other worlds have their own. Burst pulls towards a point"
						value={gravity}
						onChange={(next) => perform(setGravity(next, tick))}
					/>
				</div>
				<Diamond
					here={here}
					count={keys.length}
					label="gravity"
					onPress={() => perform(here ? removeGravityKey(tick) : setGravity(gravity, tick, true))}
				/>
			</div>
			<div className="flex gap-1.5">
				{GRAVITIES.map(({ label, gravity: next }) => (
					<button key={label} type="button" className="button flex-1" onClick={() => perform(setGravity([...next], tick))}>
						{label}
					</button>
				))}
			</div>
		</Section>
	);
}
