import type { Id, OptionSpec, OptionValue, SceneObject } from "@rubble/core/shot";
import { Segments } from "~/controls/Choice";
import { CurveField } from "~/controls/CurveField";
import { Labelled } from "~/controls/Labelled";
import { NumberField } from "~/controls/NumberField";
import { shownAs } from "~/controls/spread";
import { useWorkbench } from "~/workbench/store/store";

type PlainSpec = OptionSpec & { kind: "number" | "choice" | "objects" | "places" | "curve" };

interface Props<Spec> {
	/** The object that is set up; it cannot be named as another. */
	readonly own: Id | undefined;
	readonly spec: Spec;
	readonly value: OptionValue | undefined;
	readonly onChange: (value: OptionValue) => void;
	/** Of a number: several that were typed at once. */
	readonly onSeveral?: ((texts: readonly string[]) => void) | undefined;
}

/** An option that needs no drawing: a number, a choice, other objects. */
export function PlainOption({ own, spec, value, onChange, onSeveral }: Props<PlainSpec>) {
	switch (spec.kind) {
		case "choice":
			return (
				<Segments label={spec.label} help={spec.help} value={String(value ?? spec.default)} options={spec.choices} onChange={onChange} />
			);
		case "number":
			return <NumberOption own={own} spec={spec} value={value} onChange={onChange} onSeveral={onSeveral} />;
		case "objects":
		case "places":
			return <ObjectsOption own={own} spec={spec} value={value} onChange={onChange} />;
		case "curve":
			return (
				<CurveField
					{...spec}
					percent={spec.percent ?? false}
					value={(value as readonly number[] | undefined) ?? spec.default}
					onChange={onChange}
				/>
			);
	}
}

function NumberOption({ spec, value, onChange, onSeveral }: Props<PlainSpec & { kind: "number" }>) {
	return (
		<NumberField
			label={spec.label}
			help={spec.help}
			{...shownAs(spec, spec.default)}
			least={spec.least}
			most={spec.most}
			whole={spec.whole ?? false}
			digits={6}
			value={typeof value === "number" ? value : spec.default}
			onChange={onChange}
			{...(onSeveral && { onSeveral })}
		/>
	);
}

/** What is there for its place: beacons, or a thing that comes at it. */
const isPlace = ({ source }: SceneObject): boolean => ["beacon", "shape", "mesh"].includes(source.kind);

/** Other objects to be ticked: those with a solid, or any where their place alone is meant. */
function ObjectsOption({ own, spec: { kind, label, help }, value, onChange }: Props<PlainSpec & { kind: "objects" | "places" }>) {
	const { shot, reports } = useWorkbench();
	const chosen = (value ?? []) as readonly Id[];
	const setUp = own === undefined ? undefined : shot.objects[own]?.source;
	const copied = setUp?.kind === "array" ? setUp.sources : [];
	const others = Object.entries(shot.objects).filter(
		([id, item]) =>
			id !== own && !copied.includes(id) && item.source.kind !== "array" && (kind === "places" ? isPlace(item) : reports[id]?.closed),
	);
	return (
		<Labelled label={label} help={help} top={others.length > 0}>
			<div className="flex flex-col gap-1" role="group" aria-label={label}>
				{others.length === 0 && (
					<p className="text-slate">{kind === "places" ? "No beacon yet. Add one in Shape." : "No other solid yet. Add one in Shape."}</p>
				)}
				{others.map(([id, item]) => (
					<label key={id} className="flex items-center gap-2">
						<input
							type="checkbox"
							className="size-4 accent-(--kelp)"
							checked={chosen.includes(id)}
							onChange={(event) => onChange(event.target.checked ? [...chosen, id] : chosen.filter((other) => other !== id))}
						/>
						{item.name}
					</label>
				))}
			</div>
		</Labelled>
	);
}
