import { isKeyed, moves } from "@rubble/core/animation";
import { type BodyRow, startFromKeys } from "@rubble/core/bodies";
import { degrees } from "@rubble/core/maths";
import {
	type BodyKind,
	type BodySettings,
	type ColliderChoice,
	copyBody,
	formatNumber,
	formatQuantity,
	setBody,
	tickOfFrame,
	type WakeRule,
} from "@rubble/core/shot";
import { CopyCheck, Crop, Volleyball } from "lucide-react";
import { toast } from "sonner";
import { Picker, Segments } from "~/controls/Choice";
import { KIND_LABELS, KindGlyph } from "~/controls/KindGlyph";
import { Labelled } from "~/controls/Labelled";
import { NumberField } from "~/controls/NumberField";
import { RuleField } from "~/controls/RuleField";
import { Fact, Section } from "~/controls/Section";
import { currentKeyed, currentObject, nameOf, pickedParts, selectedBodies } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";

import { KeysSection } from "../keys/KeysSection";
import { MotionSection } from "../keys/MotionSection";
import { BodyVectorField } from "./BodyVectorField";
import { cropToTake } from "./cropToTake";
import { throwBallAt } from "./throwBall";

const KINDS: readonly BodyKind[] = ["active", "passive", "animated", "none"];
const KIND_HELP: Record<BodyKind, string> = {
	active: "Moves by itself",
	passive: "Holds still; others bounce off it",
	animated: "Moves by its keys, pushes others, is not pushed",
	none: "Takes no part",
};
const KIND_KEYS: Partial<Record<BodyKind, string>> = { active: "A", passive: "P" };
const COLLIDERS: readonly { id: ColliderChoice; label: string }[] = [
	{ id: "auto", label: "Automatic" },
	{ id: "sphere", label: "Sphere" },
	{ id: "box", label: "Box" },
	{ id: "capsule", label: "Capsule" },
	{ id: "cylinder", label: "Cylinder" },
	{ id: "cone", label: "Cone" },
	{ id: "hull", label: "Convex hull" },
	{ id: "shells", label: "A hull per part" },
	{ id: "parts", label: "Convex parts" },
	{ id: "mesh", label: "Exact mesh" },
	{ id: "plain", label: "Flat, while trying" },
];

export function WeighBench() {
	const state = useWorkbench();
	const { shot, perform } = state;
	const picked = pickedParts(state);
	const bodies = selectedBodies(state);
	const object = currentObject(state);
	const keyed = currentKeyed(state);
	if (bodies.length === 0)
		return <p className="p-3.5 text-slate">Pick objects or pieces in the view or the ledger. A rule in the ledger picks many at once.</p>;
	const set = (settings: BodySettings) => perform(setBody(picked, settings));
	const kinds = [...new Set(bodies.map((body) => body.settings.kind))];
	const kind = kinds.length === 1 ? kinds[0]! : "";
	const sameWorld = new Set(bodies.map((body) => body.settings.world)).size === 1;
	const moving = bodies.some((body) => body.settings.kind === "active");
	const others = Object.keys(shot.worlds).length;
	const BelongsTo = others === 1 ? Segments : Picker;
	const name =
		bodies.length === 1
			? bodies[0]!.path
			: picked.length === 1
				? `${shot.objects[object!]?.name} · ${bodies.length.toLocaleString("en")} pieces`
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
							title={`${KIND_HELP[item]}${KIND_KEYS[item] ? ` (${KIND_KEYS[item]})` : ""}`}
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
				{picked.length > 1 && (
					<button
						type="button"
						className="button"
						title="What was picked last gives its kind, mass, collider, surface and start to the others"
						onClick={() => perform(copyBody(picked[picked.length - 1]!, picked))}
					>
						<CopyCheck size={15} /> <span className="min-w-0 truncate">All like {nameOf(state, picked[picked.length - 1]!)}</span>
					</button>
				)}
				{picked.length === 1 && object !== undefined && !bodies[0]!.endless && bodies[0]!.origin !== "copy" && (
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
						<PairFacts bodies={bodies} />
						{moving && (
							<NumberField
								label="Rolling"
								help="Rolling resistance: the slope on which it just begins to roll; 0.01 hard on hard, 0.1 on sand"
								least={0}
								most={10}
								value={bodies.map((body) => body.settings.rolling)}
								onChange={(rolling) => set({ rolling })}
							/>
						)}
						<NumberField
							label="Margin"
							unit="mm"
							factor={1000}
							help="Room that its collider keeps around it; 1 mm calms thin things"
							least={0}
							most={1}
							value={bodies.map((body) => body.settings.margin)}
							onChange={(margin) => set({ margin })}
						/>
					</Section>
					{moving && (
						<Section title="Centre of mass">
							<BodyVectorField
								label="Moved by"
								unit="m"
								help="From where its shape has it; “Centres” above the view shows where it is"
								bodies={bodies}
								field="centre"
							/>
						</Section>
					)}
					{others > 0 && (
						<Section title="World">
							<BelongsTo
								label="Belongs to"
								help="Only bodies of one world meet"
								value={sameWorld ? bodies[0]!.settings.world || MAIN : ""}
								options={[
									{ id: MAIN, label: "Main world" },
									...Object.entries(shot.worlds).map(([id, world]) => ({ id, label: world.name })),
								]}
								onChange={(world) => set({ world: world === MAIN ? undefined : world })}
							/>
						</Section>
					)}
				</>
			)}
			{moving && <WakeSection bodies={bodies} set={set} />}
			{moving && (
				<Section title="Start">
					{object !== undefined && moves(shot, object) && (
						<>
							<p className="text-xs text-slate">
								It follows its keys until it wakes, and then takes their speed and spin along.{" "}
								{isKeyed(shot.objects[object]!) && (
									<button
										type="button"
										className="link-action"
										title="The numbers below become the speed and spin that it has by its keys at the frame on show; then the keys go"
										onClick={() =>
											perform(
												startFromKeys(
													shot,
													object,
													state.bodies.filter((body) => body.object === object),
													tickOfFrame(shot.settings, state.frame),
												),
											)
										}
									>
										Make numbers of them
									</button>
								)}
							</p>
							<div className="flex items-center gap-1.5">
								<label className="flex flex-1 items-center gap-2 text-slate">
									<input
										type="checkbox"
										className="size-4 accent-(--kelp)"
										checked={bodies[0]!.settings.backAt !== undefined}
										onChange={(event) => set({ backAt: event.target.checked ? shot.settings.lastFrame : undefined })}
									/>
									Back to its keys
								</label>
								{bodies[0]!.settings.backAt !== undefined && (
									<NumberField
										compact
										label="Back at frame"
										unit="frame"
										whole
										value={bodies.map((body) => body.settings.backAt ?? shot.settings.lastFrame)}
										onChange={(backAt) => set({ backAt })}
									/>
								)}
							</div>
						</>
					)}
					<BodyVectorField label="Velocity" unit="m/s" help="With which it begins to move" bodies={bodies} field="velocity" />
					<BodyVectorField label="Spin" unit="°/s" help="With which it begins to turn" factor={degrees(1)} bodies={bodies} field="spin" />
					<NumberField
						label="Rests below"
						unit="m/s"
						help="Slower than this it may come to rest; 0 never lets it"
						least={0}
						most={100}
						value={bodies.map((body) => body.settings.restSpeed)}
						onChange={(restSpeed) => set({ restSpeed })}
					/>
					<NumberField
						label="Rests after"
						unit="s"
						help="So long on the spot it calms down; its heap sleeps after twice as long"
						least={0}
						most={60}
						value={bodies.map((body) => body.settings.restAfter)}
						onChange={(restAfter) => set({ restAfter })}
					/>
					<NumberField
						label="Slows"
						unit="/s"
						help="Damping of its speed: the share that is lost in a second, about; forces of still air are better for falls"
						least={0}
						most={100}
						value={bodies.map((body) => body.settings.linearDamping)}
						onChange={(linearDamping) => set({ linearDamping })}
					/>
					<NumberField
						label="Spin slows"
						unit="/s"
						help="Damping of its turning"
						least={0}
						most={100}
						value={bodies.map((body) => body.settings.angularDamping)}
						onChange={(angularDamping) => set({ angularDamping })}
					/>
				</Section>
			)}
			{keyed !== undefined && keyed !== object && <MotionSection id={keyed} />}
			{keyed !== undefined && (kind === "animated" || keyed !== object || moves(shot, keyed)) && <KeysSection id={keyed} />}
		</>
	);
}

/** What stands for no other world in a list. */
const MAIN = "main";
const NOBODY = "itself";
const EVERYWHERE = "everywhere";
type Touched = Extract<WakeRule, { when: "touched" }>;

/** How the surfaces of two picked things act on each other. */
function PairFacts({ bodies }: { bodies: readonly BodyRow[] }) {
	const [a, b] = bodies;
	if (bodies.length !== 2 || !a || !b) return null;
	return (
		<>
			<Fact label="Together, friction" value={`mean: ${formatNumber((a.settings.friction + b.settings.friction) / 2, 3)}`} />
			<Fact label="Together, bounce" value={`greater: ${formatNumber(Math.max(a.settings.bounce, b.settings.bounce), 3)}`} />
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
	const { shot, reports, colliders, set: setView, showColliders } = useWorkbench();
	const ran = useWorkbench(({ frames }) => frames.chunks.length > 0);
	const own = new Set(bodies.map((body) => body.object));
	const others = Object.keys(shot.objects)
		.filter((id) => !own.has(id) && reports[id]?.closed && shot.objects[id]!.source.kind !== "array")
		.map((id) => ({ id, label: shot.objects[id]!.name }));
	const proxies = [...new Set(bodies.map((body) => body.settings.proxy))];
	const choices = [...new Set(bodies.map((body) => body.settings.collider))];
	const crops = [...new Set(bodies.map((body) => body.settings.crop))];
	const regions = Object.keys(shot.objects)
		.filter((id) => shot.objects[id]!.source.kind === "region")
		.map((id) => ({ id, label: shot.objects[id]!.name }));
	const still = bodies.every((body) => body.settings.kind !== "active" && !body.endless);
	const known = bodies.flatMap((body) => (colliders[body.id] ? [colliders[body.id]!] : []));
	const tally = new Map<string, number>();
	for (const { choice } of known) tally.set(choice, (tally.get(choice) ?? 0) + 1);
	const worst = known.reduce((most, { error }) => (Math.abs(error) > Math.abs(most) ? error : most), 0);
	const deepest = known.reduce<number | undefined>(
		(most, { depth }) => (depth === undefined ? most : Math.max(most ?? 0, depth)),
		undefined,
	);
	const hulls = known.reduce((sum, { parts }) => sum + parts, 0);
	const triangles = known.reduce((sum, one) => sum + one.triangles, 0);
	return (
		<Section title="Collider">
			<Picker
				label="Shape"
				help="What touches others. Automatic takes the simplest that fits within 2 % of the volume"
				value={choices.length === 1 ? choices[0]! : ""}
				options={COLLIDERS}
				onChange={(collider) => set({ collider: collider as ColliderChoice })}
			/>
			{(choices.includes("auto") || choices.includes("parts")) && known.some(({ choice }) => choice === "parts") && (
				<>
					<NumberField
						label="Most hulls"
						help="Convex parts of one body; more follow its hollows better and run slower"
						whole
						least={1}
						most={256}
						value={bodies.map((body) => body.settings.hulls)}
						onChange={(hulls) => set({ hulls })}
					/>
					<NumberField
						label="Until within"
						unit="%"
						factor={100}
						help="Parts are cut until all together exceed the real volume by no more than this"
						least={0.001}
						most={10}
						value={bodies.map((body) => body.settings.hullError)}
						onChange={(hullError) => set({ hullError })}
					/>
					<NumberField
						label="Buries at most"
						unit="mm"
						zero="any depth"
						factor={1000}
						help="And until no part buries the real surface deeper than this: how far from it things may stop. 0: any depth"
						least={0}
						value={bodies.map((body) => body.settings.hullDepth)}
						onChange={(hullDepth) => set({ hullDepth })}
					/>
				</>
			)}
			{others.length > 0 && (
				<Picker
					label="Proxy"
					help="Another object whose shape collides in its place, laid pivot on pivot: a plain one for a rich one"
					value={proxies.length === 1 ? proxies[0] || NOBODY : ""}
					options={[{ id: NOBODY, label: "Itself" }, ...others]}
					onChange={(proxy) => set({ proxy: proxy === NOBODY ? undefined : proxy })}
				/>
			)}
			{regions.length > 0 && still && (
				<Picker
					label="Only in"
					help="Only what of it lies in this region collides: a strip of terrain where things fall"
					value={crops.length === 1 ? crops[0] || EVERYWHERE : ""}
					options={[{ id: EVERYWHERE, label: "Everywhere" }, ...regions]}
					onChange={(crop) => set({ crop: crop === EVERYWHERE ? undefined : crop })}
				/>
			)}
			{still && ran && (
				<button
					type="button"
					className="button"
					title="Collides only around the way that all took in the take on show, in a region that can be changed afterwards"
					onClick={() => void cropToTake([...own])}
				>
					<Crop size={14} /> Only where things go
				</button>
			)}
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
					{deepest !== undefined && <Fact label="Buries the surface by" value={`${formatQuantity(deepest, "length", 3)} at most`} />}
					{hulls > known.length && <Fact label="Hulls" value={hulls.toLocaleString("en")} />}
					{triangles > 0 && <Fact label="Triangles that collide" value={triangles.toLocaleString("en")} />}
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
	const shot = useWorkbench((state) => state.shot);
	const frame = useWorkbench((state) => state.frame);
	const first = shot.settings.firstFrame;
	const regions = Object.entries(shot.objects).flatMap(([id, { name, source }]) => (source.kind === "region" ? [{ id, label: name }] : []));
	const wakeBy = (when: string) => {
		if (when === "frame") set({ wake: { when, frame: frame > first ? frame : first + 24 } });
		else if (when === "touched") set({ wake: { when, leastSpeed: 0.5 } });
		else if (when === "region" && regions.length > 0) set({ wake: { when, region: regions[0]!.id, leastSpeed: 0 } });
		else if (when === "region") toast("There is no region yet. Add one in Shape: it can be moved and keyed.");
		else set({ wake: { when: "start" } });
	};
	const rules = bodies.map((body) => body.settings.wake);
	const whens = [...new Set(rules.map((rule) => rule.when))];
	const rule: WakeRule | undefined = whens.length === 1 ? rules[0] : undefined;
	return (
		<Section title="Wakes">
			<Segments
				compact
				label="When"
				help="Until then it stays where it is, whatever leans on it"
				value={rule?.when ?? ""}
				options={[
					{ id: "start", label: "Start", help: "From where the simulation starts" },
					{ id: "frame", label: "Frame", help: "At a frame" },
					{ id: "touched", label: "Touched", help: "When something comes at it" },
					{ id: "region", label: "Region", help: "When a region reaches it, or it is in one" },
				]}
				onChange={(when) => wakeBy(when)}
			/>
			{rule?.when === "frame" && (
				<div className="flex items-center gap-1.5">
					<div className="min-w-0 flex-1">
						<NumberField
							label="Frame"
							help="The ring in the timeline: drag it"
							whole
							value={rules.map((r) => (r.when === "frame" ? r.frame : first))}
							onChange={(frame) => set({ wake: { when: "frame", frame } })}
						/>
					</div>
					<button
						type="button"
						className="button px-2!"
						title="At the frame on show"
						onClick={() => set({ wake: { when: "frame", frame } })}
					>
						Here
					</button>
				</div>
			)}
			{rule?.when === "touched" && (
				<NumberField
					label="Least speed"
					unit="m/s"
					help="Slower touches do not wake it; keyed strikers count too"
					least={0}
					most={1000}
					value={rules.map((r) => (r.when === "touched" ? r.leastSpeed : 0))}
					onChange={(leastSpeed) => set({ wake: { ...(rule as Touched), leastSpeed } })}
				/>
			)}
			{rule?.when === "touched" && (
				<NumberField
					label="Or least force"
					unit="N"
					help="What presses on it as hard wakes it at any speed; 0: only speed counts"
					least={0}
					most={1e9}
					value={rules.map((r) => (r.when === "touched" ? (r.leastForce ?? 0) : 0))}
					onChange={(leastForce) => set({ wake: { ...(rule as Touched), leastForce } })}
				/>
			)}
			{rule?.when === "touched" && (
				<Labelled label="By" help="A rule that says whose touch counts; anybody's where it is empty" top>
					<RuleField label="Woken by" rule={rule.by ?? ""} placeholder="anything" onChange={(by) => set({ wake: { ...rule, by } })} />
				</Labelled>
			)}
			{rule?.when === "region" && (
				<>
					<Picker
						label="Region"
						help="Wakes what has its centre in it"
						value={rule.region}
						options={regions}
						onChange={(region) => set({ wake: { ...rule, region } })}
					/>
					<NumberField
						label="Least speed"
						unit="m/s"
						help="How fast the region must pass; 0 for one that stands still"
						least={0}
						most={1000}
						value={rule.leastSpeed}
						onChange={(leastSpeed) => set({ wake: { ...rule, leastSpeed } })}
					/>
				</>
			)}
		</Section>
	);
}
