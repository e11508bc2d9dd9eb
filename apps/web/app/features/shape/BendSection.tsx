import { degrees, radians } from "@rubble/core/maths";
import { BEND, keyedNumbers, shapedAt } from "@rubble/core/shaping";
import { type Bend, type Id, setBend, setNumberKey, tickOfFrame } from "@rubble/core/shot";
import { Segments } from "~/controls/Choice";
import { NumberField } from "~/controls/NumberField";
import { Section } from "~/controls/Section";
import { useWorkbench } from "~/workbench/store/store";
import { KeyDiamond } from "../keys/KeyDiamond";

const AXES = ["x", "up", "z"];

/** Bends an object to an arc; keyed, it bends while it pushes. */
export function BendSection({ id }: { id: Id }) {
	const { shot, frame, perform, reports } = useWorkbench();
	const item = shot.objects[id]!;
	const tick = tickOfFrame(shot.settings, frame);
	const { bend } = shapedAt(item, tick);
	if (!bend)
		return (
			<Section title="Bend" aside="straight">
				<button
					type="button"
					className="button"
					onClick={() => perform(setBend(id, { ...longest(reports[id]?.size), angle: radians(20) }))}
				>
					Bend it
				</button>
			</Section>
		);
	const set = (change: Partial<Bend>) => perform(setBend(id, { ...item.bend!, ...change }));
	const keyed = keyedNumbers(item).includes(BEND);
	return (
		<Section title="Bend">
			<div className="flex items-center gap-1.5">
				<div className="min-w-0 flex-1">
					<NumberField
						label="Angle"
						unit="°"
						factor={degrees(1)}
						least={-2 * Math.PI}
						most={2 * Math.PI}
						digits={4}
						help="Of the arc from end to end"
						value={bend.angle}
						onChange={(angle) => (keyed ? perform(setNumberKey(id, BEND, tick, angle)) : set({ angle }))}
					/>
				</div>
				<KeyDiamond id={id} name={BEND} label="the bend" value={bend.angle} />
			</div>
			<Segments
				label="Along"
				help="The axis of the object that becomes an arc"
				value={String(bend.along)}
				options={AXES.map((label, axis) => ({ id: String(axis), label }))}
				onChange={(axis) => {
					const along = Number(axis) as Bend["along"];
					set({ along, toward: along === bend.toward ? bend.along : bend.toward });
				}}
			/>
			<Segments
				label="Ends go to"
				help="The axis towards which the ends bend; a negative angle bends them the other way"
				value={String(bend.toward)}
				options={AXES.map((label, axis) => ({ id: String(axis), label })).filter(({ id: axis }) => Number(axis) !== bend.along)}
				onChange={(axis) => set({ toward: Number(axis) as Bend["toward"] })}
			/>
			<button type="button" className="link-action self-start" onClick={() => perform(setBend(id, undefined))}>
				Straight again
			</button>
		</Section>
	);
}

/** Along the longest side, towards the shortest of the others. */
function longest(size: readonly number[] = [1, 1, 1]): Omit<Bend, "angle"> {
	const order = [0, 1, 2].sort((a, b) => size[b]! - size[a]!);
	return { along: order[0] as Bend["along"], toward: order[2] as Bend["toward"] };
}
