import { worldPose } from "@rubble/core/animation";
import { CONNECTORS, connectorById } from "@rubble/core/connectors";
import { rotate, type Vec3, vec3 } from "@rubble/core/maths";
import { addConnector, connectorOf, optionDefaults, type Shot, unusedName } from "@rubble/core/shot";
import { newId } from "~/workbench/ids";
import { useWorkbench } from "~/workbench/store/store";

/** Where a body stands at the first frame, and its object's middle where it has several. */
export function placeOf(shot: Shot, id: string): Vec3 | undefined {
	const { bodies } = useWorkbench.getState();
	const body = bodies.find((row) => row.id === id) ?? bodies.find((row) => row.object === id);
	if (!body) return undefined;
	const { translation, rotation } = worldPose(shot, body.object, 0);
	const at = vec3.add(body.offset, body.centre);
	return vec3.add(translation, rotate(rotation, at));
}

/** Joins the last two picked things, or one to the world: half way between their middles; what has a length reaches from one to the other. */
export function connectPicked(kind: string): void {
	const { shot, selection, perform, set, bodies } = useWorkbench.getState();
	const made = connectorById(kind) ?? CONNECTORS[0]!;
	const [a, b] = [selection[selection.length - 2] ?? selection[0], selection.length > 1 ? selection[selection.length - 1] : ""];
	if (a === undefined) return;
	const one = placeOf(shot, a);
	const other = b ? placeOf(shot, b) : undefined;
	if (!one) return;
	// The one that moves comes first; what holds still may be second.
	const isActive = (id: string) => bodies.some((row) => (row.id === id || row.object === id) && row.settings.kind === "active");
	const swap = b && !isActive(a) && isActive(b);
	const [first, second, from, to] = swap
		? [b, a, other!, one]
		: [a, b ?? "", one, other ?? (made.hasLength ? vec3.add(one, [0, 1, 0]) : one)];
	const middle = other && !made.hasLength ? vec3.mix(one, other, 0.5) : from;
	const id = newId();
	perform(
		addConnector(
			id,
			connectorOf(made.id, {
				name: connectorName(shot, made.label),
				options: optionDefaults(made),
				a: first,
				b: second,
				from: middle,
				to: made.hasLength ? to : middle,
			}),
		),
	);
	set({ bound: { kind: "connector", id }, selection: [], tool: "move" });
}

const connectorName = (shot: Shot, wanted: string): string =>
	unusedName(
		wanted,
		Object.values(shot.connectors).map(({ name }) => name),
	);
