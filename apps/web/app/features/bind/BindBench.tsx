import { BOND_SET } from "@rubble/core/bonds";
import { CONNECTORS, connectorById } from "@rubble/core/connectors";
import { fromEuler, radians, type Vec3 } from "@rubble/core/maths";
import {
	addBondChange,
	changeBondSet,
	changeConnector,
	editBondChange,
	formatNumber,
	formatQuantity,
	type Id,
	removeBondChange,
	removeBondSet,
	removeConnectors,
	type Shot,
	setBondOption,
	setConnectorOption,
} from "@rubble/core/shot";
import { mostBorne } from "@rubble/core/takes";
import {
	Anchor,
	Brush,
	Cable,
	Eye,
	EyeOff,
	Filter,
	Link2,
	Lock,
	MoveHorizontal,
	Pin,
	RotateCw,
	Spline,
	Trash2,
	Waypoints,
} from "lucide-react";
import { useEffect, useMemo } from "react";
import { Labelled } from "~/controls/Labelled";
import { NumberField } from "~/controls/NumberField";
import { RuleField } from "~/controls/RuleField";
import { Fact, Section } from "~/controls/Section";
import { TextField } from "~/controls/TextField";
import { TileButton } from "~/controls/TileButton";
import { VectorField } from "~/controls/VectorField";
import { toEulerDegrees } from "~/features/shape/euler";
import { newId } from "~/workbench/ids";
import { filterBodies } from "~/workbench/ledger/rows";
import { useWorkbench } from "~/workbench/store/store";
import { BindOptions } from "./BindOptions";
import { bondPicked, pickedObjects } from "./bonds";
import { ChainSection } from "./ChainSection";
import { connectPicked } from "./connect";
import { LinksSection } from "./LinksSection";
import { LoadSection } from "./LoadSection";
import { PartnerField } from "./PartnerField";
import { bodiesPicked } from "./picked";
import { SlabsSection } from "./SlabsSection";

const ICONS: Readonly<Record<string, React.ReactNode>> = {
	fixed: <Lock size={18} />,
	pin: <Pin size={18} />,
	hinge: <RotateCw size={18} />,
	slider: <MoveHorizontal size={18} />,
	spring: <Spline size={18} />,
	rope: <Cable size={18} />,
};

/** What holds on to what: bonds, connectors, chains. */
export function BindBench() {
	const { shotId, shot, bound, set } = useWorkbench();
	// biome-ignore lint/correctness/useExhaustiveDependencies: another shot begins with nothing shown.
	useEffect(() => {
		set({ showTies: true });
		return () => set({ showTies: false, draw: null });
	}, [set, shotId]);
	const there = bound && (bound.kind === "bonds" ? shot.bondSets[bound.id] : shot.connectors[bound.id]);
	if (bound && there)
		return (
			<>
				<BackBar />
				{bound.kind === "bonds" ? <BondSetSection id={bound.id} /> : <ConnectorSection id={bound.id} />}
			</>
		);
	return (
		<>
			<BondList />
			<ConnectorList />
			<ChainSection />
			<LinksSection />
		</>
	);
}

/** Back to the list, and what can be done with the set or connector as a whole. */
function BackBar() {
	const { shot, bound, perform, set } = useWorkbench();
	if (!bound) return null;
	const { id, kind } = bound;
	const hidden = (kind === "bonds" ? shot.bondSets[id] : shot.connectors[id])?.hidden === true;
	return (
		<div className="flex items-center gap-1.5 border-b border-line px-3.5 py-2">
			<button type="button" className="flex-1 text-left hover:text-kelp" onClick={() => set({ bound: null })}>
				‹ All bonds and connectors
			</button>
			<button
				type="button"
				className="button px-2!"
				aria-label={hidden ? "Turn on" : "Turn off"}
				onClick={() => perform(kind === "bonds" ? changeBondSet(id, { hidden: !hidden }) : changeConnector(id, { hidden: !hidden }))}
			>
				{hidden ? <EyeOff size={14} /> : <Eye size={14} />}
			</button>
			<button
				type="button"
				className="button px-2!"
				aria-label={kind === "bonds" ? "Remove these bonds" : "Remove this connector"}
				onClick={() => {
					perform(kind === "bonds" ? removeBondSet(id) : removeConnectors([id]));
					set({ bound: null });
				}}
			>
				<Trash2 size={14} />
			</button>
		</div>
	);
}

interface BondCounts {
	count: number;
	/** Of them, to what holds still. */
	rooted: number;
	/** Highest share of a bond's strength that the own weight takes. */
	worst: number;
	/** What they tie, by id. */
	readonly bodies: Set<string>;
}

/** What each set makes. */
function useCounts(): ReadonlyMap<Id, Readonly<BondCounts>> {
	const ties = useWorkbench((state) => state.ties);
	const counts = new Map<Id, BondCounts>();
	ties?.bonds.set.forEach((set, k) => {
		const id = ties.sets[set]!;
		const known = counts.get(id) ?? { count: 0, rooted: 0, worst: 0, bodies: new Set<string>() };
		known.count++;
		known.rooted += ties.bonds.rooted[k]!;
		known.bodies.add(ties.ids[ties.bonds.bodies[2 * k]!]!);
		if (ties.bonds.rooted[k] === 0) known.bodies.add(ties.ids[ties.bonds.bodies[2 * k + 1]!]!);
		known.worst = Math.max(known.worst, ties.bonds.use[k]!);
		counts.set(id, known);
	});
	return counts;
}

function BondList() {
	const { shot, perform, set, selection } = useWorkbench();
	const counts = useCounts();
	const sets = Object.entries(shot.bondSets).sort(([, a], [, b]) => (a.name < b.name ? -1 : 1));
	const picked = pickedObjects();
	return (
		<Section title="Bonds" aside={sets.length > 0 ? sets.length : undefined}>
			{sets.length === 0 && (
				<p className="text-slate">Bonds hold pieces together until the stress in them is too high. Pick a broken object and bond it.</p>
			)}
			{sets.map(([id, { name, hidden }]) => (
				<Row
					key={id}
					name={name}
					note={hidden ? "off" : `${(counts.get(id)?.count ?? 0).toLocaleString("en")} bonds`}
					hidden={hidden}
					onPick={() => set({ bound: { kind: "bonds", id } })}
					onHide={() => perform(changeBondSet(id, { hidden: !hidden }))}
				/>
			))}
			<button type="button" className="button button-primary" disabled={selection.length === 0} onClick={bondPicked}>
				<Waypoints size={15} />{" "}
				{picked.length === 1 ? `Bond ${shot.objects[picked[0]!]?.name}` : picked.length > 1 ? "Bond what is picked" : "Pick what to bond"}
			</button>
		</Section>
	);
}

function Row({
	name,
	note,
	about,
	hidden,
	onPick,
	onHide,
}: {
	name: string;
	note: string;
	about?: string | undefined;
	hidden: boolean;
	onPick: () => void;
	onHide: () => void;
}) {
	return (
		<div className="flex items-center gap-2">
			<button type="button" className="link-action min-w-0 flex-1 truncate text-left" onClick={onPick}>
				{name}
			</button>
			<span className="number text-xs text-slate" title={about}>
				{note}
			</span>
			<button type="button" className="button px-2!" aria-label={hidden ? `Turn ${name} on` : `Turn ${name} off`} onClick={onHide}>
				{hidden ? <EyeOff size={14} /> : <Eye size={14} />}
			</button>
		</div>
	);
}

const RARE_BOND = ["by", "reach", "radius", "most", "among", "uneven", "grain", "yields", "fades", "fade", "seed", "toughness"];

function BondSetSection({ id }: { id: Id }) {
	const { shot, bodies, crumbs, perform } = useWorkbench();
	const counts = useCounts().get(id);
	const { name, options, changes, slabs = [] } = shot.bondSets[id]!;
	const stones = crumbs.filter(({ crumbSet }) => crumbSet === id).length;
	const small = bodies.filter((body) => counts?.bodies.has(body.id) && body.size <= Number(options.dust ?? 0)).length;
	return (
		<>
			<Section title="Bonds" aside={counts ? `${counts.count.toLocaleString("en")} bonds` : undefined}>
				<TextField label="Name" value={name} onChange={(next) => perform(changeBondSet(id, { name: next.trim() || name }))} />
				{counts && (
					<>
						<Fact label="Held by the ground" value={`${counts.rooted.toLocaleString("en")} of them`} />
						{counts.rooted > 0 && (
							<Fact
								label="Own weight takes"
								value={`${formatNumber(100 * counts.worst, 2)} %`}
								{...(counts.worst >= 1 && { tone: "error" as const })}
							/>
						)}
					</>
				)}
				<BindOptions
					described={BOND_SET}
					values={{ ...options, byHand: slabs.length }}
					rare={RARE_BOND}
					onChange={(option, value) => perform(setBondOption(id, option, value))}
				/>
				{counts && Number(options.dust ?? 0) > 0 && options.strength !== "endless" && (
					<Fact label="May crumble" value={`${small.toLocaleString("en")} of ${counts.bodies.size.toLocaleString("en")}`} />
				)}
				{stones > 0 && <Fact label="Stones of them" value={stones.toLocaleString("en")} />}
			</Section>
			{options.strength !== "endless" && <SlabsSection id={id} />}
			<ChangesSection id={id} changes={changes} />
		</>
	);
}

/** Weak lines, and what is made weaker or stronger by a choice or a rule. */
function ChangesSection({ id, changes }: { id: Id; changes: Shot["bondSets"][string]["changes"] }) {
	const { shot, bodies, perform, set, draw, selection } = useWorkbench();
	const drawing = draw?.what === "weak";
	const active = bodies.filter(({ settings }) => settings.kind === "active");
	return (
		<Section title="Weaker, stronger" aside={changes.length > 0 ? changes.length : undefined}>
			<div className="flex flex-wrap gap-1.5 *:flex-1">
				<button
					type="button"
					className="button"
					aria-pressed={drawing}
					onClick={() => set({ draw: drawing ? null : { what: "weak", set: id, factor: 0.2, reach: 0.2 } })}
				>
					<Brush size={14} /> Weak line
				</button>
				<button
					type="button"
					className="button"
					disabled={selection.length === 0}
					onClick={() => perform(addBondChange(id, { id: newId(), bodies: bodiesPicked(), rule: "", strokes: [], reach: 0, factor: 0.5 }))}
				>
					<Link2 size={14} /> What is picked
				</button>
				<button
					type="button"
					className="button"
					onClick={() => perform(addBondChange(id, { id: newId(), bodies: [], rule: "", strokes: [], reach: 0, factor: 1 }))}
				>
					<Filter size={14} /> By a rule
				</button>
			</div>
			{changes.map((change) => (
				<fieldset key={change.id} className="flex flex-col gap-1.5 rounded-md border border-line p-2">
					<div className="flex items-center justify-between gap-2">
						<span className="text-slate">
							{change.strokes.length > 0
								? "Along a line"
								: change.bodies.length > 0
									? `${change.bodies.length.toLocaleString("en")} pieces`
									: `By a rule, ${filterBodies(shot, active, change.rule).bodies.length.toLocaleString("en")} pieces`}
						</span>
						<button
							type="button"
							className="button px-2!"
							aria-label="Take this change back"
							onClick={() => perform(removeBondChange(id, change.id))}
						>
							<Trash2 size={14} />
						</button>
					</div>
					{change.strokes.length === 0 && change.bodies.length === 0 && (
						<Labelled label="Between" help="Bonds whose two ends both fit: height < 0.4 m, volume < 2 dm³, in a region by its name" top>
							<RuleField
								label="Between"
								rule={change.rule}
								placeholder="everything"
								onChange={(rule) => perform(editBondChange(id, change.id, { rule }))}
							/>
						</Labelled>
					)}
					<NumberField
						label="Strength"
						help="As a multiple of what it was; 0 cuts"
						unit="×"
						least={0}
						most={1000}
						digits={4}
						value={change.factor}
						onChange={(factor) => perform(editBondChange(id, change.id, { factor }))}
					/>
					{change.strokes.length > 0 && (
						<NumberField
							label="Reach"
							help="How far from the line, less towards its end"
							unit="m"
							least={0}
							most={1000}
							digits={4}
							value={change.reach}
							onChange={(reach) => perform(editBondChange(id, change.id, { reach }))}
						/>
					)}
				</fieldset>
			))}
		</Section>
	);
}

function ConnectorList() {
	const { shot, perform, set, selection, ties, take, frames } = useWorkbench();
	const connectors = Object.entries(shot.connectors).sort(([, a], [, b]) => (a.name < b.name ? -1 : 1));
	const joints = (id: Id) => ties?.joints.filter(({ connector }) => connector === id).length ?? 0;
	const made = (id: Id, kind: string): string => `${joints(id) === 1 ? "" : `${joints(id)} × `}${connectorById(kind)?.label ?? ""}`;
	/** What each bore at most in the take on show. */
	const most = useMemo(() => mostBorne(take?.take, frames), [take, frames]);
	const bore = (id: Id): string => (most.has(id) ? ` · ${formatQuantity(most.get(id)!, "force")}` : "");
	const hint =
		selection.length === 0
			? "Pick one thing to hold it where it is, or two (Ctrl) to join them."
			: selection.length === 1
				? "Joins what is picked to the world. Ctrl and click a second one to join the two."
				: "Joins the two last picked.";
	return (
		<Section title="Connectors" aside={connectors.length > 0 ? connectors.length : undefined}>
			<p className="text-slate">{hint}</p>
			<div className="grid grid-cols-3 gap-1.5">
				{CONNECTORS.map(({ id, label, help }) => (
					<TileButton
						key={id}
						label={label}
						name={`Add ${label.toLowerCase()}`}
						title={help}
						icon={ICONS[id]}
						onClick={() => connectPicked(id)}
					/>
				))}
			</div>
			{connectors.map(([id, { name, hidden, connector }]) => (
				<Row
					key={id}
					name={name}
					note={hidden ? "off" : `${made(id, connector)}${bore(id)}`}
					about={most.has(id) ? "The most that it bore in the take" : undefined}
					hidden={hidden}
					onPick={() => set({ bound: { kind: "connector", id }, selection: [], tool: "move" })}
					onHide={() => perform(changeConnector(id, { hidden: !hidden }))}
				/>
			))}
		</Section>
	);
}

function ConnectorSection({ id }: { id: Id }) {
	const { shot, perform, ties } = useWorkbench();
	const connector = shot.connectors[id]!;
	const kind = connectorById(connector.connector);
	if (!kind) return <p className="p-3.5 text-rust">{connector.name} is a connector that this version does not know.</p>;
	const between = String(connector.options.between ?? "two");
	const joints = ties?.joints.filter((joint) => joint.connector === id).length ?? 0;
	const turn = toEulerDegrees(connector.turn);
	return (
		<>
			<Section title={kind.label} aside={`${joints} joint${joints === 1 ? "" : "s"}`}>
				<p className="text-slate">{kind.help}.</p>
				<TextField
					label="Name"
					value={connector.name}
					onChange={(name) => perform(changeConnector(id, { name: name.trim() || connector.name }))}
				/>
				{(between === "two" || between === "chain") && (
					<>
						<PartnerField
							label={between === "two" ? "Holds" : "First end"}
							value={connector.a}
							none={between === "two" ? undefined : "Nothing"}
							world={between !== "two"}
							onChange={(a) => perform(changeConnector(id, { a }))}
						/>
						<PartnerField
							label={between === "two" ? "To" : "Last end"}
							value={connector.b}
							none={between === "two" ? "The world" : "Nothing"}
							world={between !== "two"}
							onChange={(b) => perform(changeConnector(id, { b }))}
						/>
					</>
				)}
				<BindOptions
					described={kind}
					values={connector.options}
					rare={["collide"]}
					onChange={(option, value) => perform(setConnectorOption([id], option, value))}
				/>
			</Section>
			<LoadSection id={id} />
			{between === "two" && (
				<Section title="Place" aside="first frame">
					<VectorField
						label={kind.hasLength ? "From" : "At"}
						unit="m"
						value={connector.from}
						onChange={(from) => perform(changeConnector(id, { from, ...(!kind.hasLength && { to: from }) }))}
					/>
					{kind.hasLength && (
						<VectorField label="To" unit="m" value={connector.to} onChange={(to) => perform(changeConnector(id, { to }))} />
					)}
					{kind.id !== "pin" && kind.id !== "rope" && (
						<VectorField
							label="Turned"
							unit="°"
							help="Its axis is x"
							value={turn}
							onChange={(next) => perform(changeConnector(id, { turn: fromEuler(next.map(radians) as unknown as Vec3) }))}
						/>
					)}
					<SnapButtons id={id} />
				</Section>
			)}
		</>
	);
}

/** Puts a connector where something is: a middle, the lowest or highest point. */
function SnapButtons({ id }: { id: Id }) {
	const { shot, perform, bodies, reports } = useWorkbench();
	const { bound, set } = useWorkbench();
	const end = bound?.kind === "connector" && bound.end === "to" ? "to" : "from";
	const connector = shot.connectors[id]!;
	const kind = connectorById(connector.connector)!;
	const body = (name: string) => bodies.find((row) => row.id === name) ?? bodies.find((row) => row.object === name);
	const put = (at: readonly [number, number, number]) =>
		perform(changeConnector(id, kind.hasLength ? { [end]: at } : { from: at, to: at }));
	const spots = [connector.a, connector.b].flatMap((name) => {
		const row = body(name);
		const item = row && shot.objects[row.object];
		if (!row || !item || row.endless) return [];
		const [x, y, z] = item.translation;
		const half = (reports[row.object]?.size[1] ?? row.size) / 2;
		return [
			{ label: `${item.name}: middle`, at: [x, y, z] as const },
			{ label: `${item.name}: top`, at: [x, y + half, z] as const },
			{ label: `${item.name}: bottom`, at: [x, y - half, z] as const },
		];
	});
	return (
		<>
			<p className="text-xs text-slate">
				Or drag it in the view: T goes from moving to turning, Ctrl snaps to corners, middles and faces of what it holds.
			</p>
			{kind.hasLength && (
				<div className="mb-1.5 flex gap-1.5">
					{(["from", "to"] as const).map((which) => (
						<button
							key={which}
							type="button"
							className="button flex-1"
							aria-pressed={end === which}
							onClick={() => set({ bound: { kind: "connector", id, end: which } })}
						>
							{which === "from" ? "From" : "To"}
						</button>
					))}
				</div>
			)}
			{spots.length > 0 && (
				<details>
					<summary className="cursor-default py-1 text-slate">Put it at</summary>
					<div className="flex flex-col gap-1">
						{spots.map(({ label, at }) => (
							<button key={label} type="button" className="button justify-start!" onClick={() => put(at)}>
								<Anchor size={13} /> {label}
							</button>
						))}
					</div>
				</details>
			)}
		</>
	);
}
