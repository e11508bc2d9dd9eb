import { WORLD } from "@rubble/core/connectors";
import { objectPath, orderedObjects } from "@rubble/core/shot";
import { Crosshair } from "lucide-react";
import { Picker } from "~/controls/Choice";
import { useWorkbench } from "~/workbench/store/store";

const NONE = "none";

/** Which body a connector holds: from a list of all objects, or what is picked in the view. */
export function PartnerField({
	label,
	value,
	none,
	world = false,
	onChange,
}: {
	label: string;
	value: string;
	/** What an empty value means; absent where one is needed. */
	none?: string | undefined;
	/** Whether the world is an end of its own. */
	world?: boolean;
	onChange: (id: string) => void;
}) {
	const { shot, bodies, selection } = useWorkbench();
	const taking = new Set(bodies.filter(({ settings }) => settings.kind !== "none").map(({ object }) => object));
	const single = bodies.find((row) => row.id === value && row.object !== value);
	const options = [
		...(none ? [{ id: NONE, label: none }] : []),
		...(world ? [{ id: WORLD, label: "The world" }] : []),
		...orderedObjects(shot)
			.filter((id) => taking.has(id))
			.map((id) => ({ id, label: objectPath(shot, id) })),
		...(single ? [{ id: single.id, label: single.path }] : []),
	];
	const picked = selection[selection.length - 1];
	return (
		<div className="flex items-end gap-1.5">
			<div className="min-w-0 flex-1">
				<Picker label={label} value={value === "" ? NONE : value} options={options} onChange={(id) => onChange(id === NONE ? "" : id)} />
			</div>
			<button
				type="button"
				className="button px-2!"
				aria-label={`${label}: what is picked`}
				title="What is picked"
				disabled={picked === undefined || picked === value}
				onClick={() => picked !== undefined && onChange(picked)}
			>
				<Crosshair size={14} />
			</button>
		</div>
	);
}
