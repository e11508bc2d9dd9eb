import { connectorById } from "@rubble/core/connectors";
import { fromEuler, radians, type Vec3 } from "@rubble/core/maths";
import { changeConnector, type Id, setConnectorOption } from "@rubble/core/shot";
import { Anchor } from "lucide-react";
import { Section } from "~/controls/Section";
import { TextField } from "~/controls/TextField";
import { VectorField } from "~/controls/VectorField";
import { toEulerDegrees } from "~/features/shape/euler";
import { useWorkbench } from "~/workbench/store/store";
import { BindOptions } from "./BindOptions";
import { LoadSection } from "./LoadSection";
import { PartnerField } from "./PartnerField";

/** A connector: what it holds, how, where, and what it bore. */
export function ConnectorSection({ id }: { id: Id }) {
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
