import { isKeyed, localPose } from "@rubble/core/animation";
import { isEndless } from "@rubble/core/shapes";
import { keepStanding } from "@rubble/core/shaping";
import { type Id, makeSizeReal, type Placement, setPivot, tickOfFrame, toEach } from "@rubble/core/shot";
import { Section } from "~/controls/Section";
import { VectorsField } from "~/controls/VectorField";

import { poseNow } from "~/workbench/store/correcting";
import { pickedObjects } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";
import { PoseFields } from "./PoseFields";
import { canRepeat, deleteSelection, duplicateSelection, groupSelection, repeatMove, rework, setDown } from "./reshape";

/** Where an object stands, and what can be made of it. */
export function PlaceSection({ id }: { id: Id }) {
	const state = useWorkbench();
	const { shot, frame, perform, reports } = state;
	const item = shot.objects[id]!;
	const tick = tickOfFrame(shot.settings, frame);
	// Ground has no place that could be changed.
	const picked = pickedObjects(state).filter((one) => !isEndless(shot.objects[one]!.source));
	const many = picked.length > 1;
	/** Each by what it is now, in one step. */
	const placeEach = (placement: (one: Id) => Placement, keep = false) => {
		const commands = picked.map((one) => {
			const command = poseNow(state, one, tick, placement(one));
			return keep ? keepStanding(one, command) : command;
		});
		perform(toEach(commands));
	};
	const report = reports[id];
	const { kind } = item.source;
	const solid = kind === "shape" || kind === "mesh";
	const sized = item.scale.some((s) => s !== 1);
	return (
		<Section title="Place" aside={many ? `${picked.length} objects` : isKeyed(item) ? `keyed: frame ${frame}` : undefined}>
			<PoseFields
				poses={picked.map((one) => localPose(shot.objects[one]!, tick))}
				of="pivot"
				from={item.parent === null ? "the world's middle" : `the pivot of ${shot.objects[item.parent]!.name}`}
				onPut={(put) => placeEach((one) => put(localPose(shot.objects[one]!, tick)))}
			/>
			<VectorsField
				label="Size"
				unit="×"
				help="Made real before anything is weighed; bodies never scale"
				values={picked.map((one) => shot.objects[one]!.scale)}
				onPut={(put) =>
					placeEach((one) => ({ scale: put(shot.objects[one]!.scale).map((s) => (s === 0 ? 0.001 : s)) as [number, number, number] }), true)
				}
			/>
			<div className="mt-1 grid grid-cols-3 gap-1.5">
				<Action label="Set down" title="Moves it so that its lowest point is at height 0; of several, each" act={setDown} />
				<Action label="Duplicate" title="Ctrl D" act={duplicateSelection} />
				<Action label="Delete" title="Delete" act={deleteSelection} />
				{canRepeat(id) && (
					<Action label="Repeat move" title="The move from the original to this copy, again and again" act={repeatMove} wide />
				)}
				<Action label="Group" title="Holds what is picked together (Ctrl G)" act={groupSelection} />
				{many && (
					<Action label="Merge" title="What is picked becomes one solid; the originals are hidden" act={() => void rework("merge")} />
				)}
				{solid && (report?.shells ?? 1) > 1 && (
					<Action
						label={`Split in ${report!.shells}`}
						title="Each connected part becomes an object; the original is hidden"
						act={() => void rework("split")}
					/>
				)}
				{solid && sized && (
					<Action label="Size real" title="Take the size into the mesh; the factors are 1 again" act={() => perform(makeSizeReal(id))} />
				)}
				{solid && report && !isKeyed(item) && away(report.middle) && (
					<Action
						label="Pivot: middle"
						title="The pivot goes to the middle; nothing moves"
						act={() => perform(setPivot(id, local(report.middle, item.scale)))}
					/>
				)}
				{solid && report?.closed && !isKeyed(item) && away(report.centroid) && (
					<Action
						label="Pivot: mass"
						title="The pivot goes to the centre of mass; nothing moves"
						act={() => perform(setPivot(id, local(report.centroid, item.scale)))}
					/>
				)}
			</div>
		</Section>
	);
}

/** Whether a point is off the pivot by more than rounding. */
const away = (point: readonly number[]): boolean => Math.hypot(...point) > 1e-5;

/** A point of the sized mesh in the object's own frame. */
const local = (point: readonly [number, number, number], scale: readonly [number, number, number]) =>
	[point[0] / scale[0], point[1] / scale[1], point[2] / scale[2]] as const;

function Action({ label, title, act, wide = false }: { label: string; title: string; act: () => void; wide?: boolean }) {
	return (
		<button type="button" className={`button px-1! ${wide ? "col-span-3 border-kelp! text-kelp!" : ""}`} title={title} onClick={act}>
			{label}
		</button>
	);
}
