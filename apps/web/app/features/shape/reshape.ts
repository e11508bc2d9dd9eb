import { layoutById } from "@rubble/core/arrays";
import { bodyPose, keyedInside, keyedPose } from "@rubble/core/bodies";
import { compose, inverse, rotate, type Vec3, vec3 } from "@rubble/core/maths";
import {
	addArray,
	duplicateObjects,
	groupObjects,
	type Id,
	optionDefaults,
	poseObject,
	removeObjects,
	replaceBy,
	type Ticks,
	tickOfFrame,
	together,
	topmost,
	withInside,
} from "@rubble/core/shot";
import { toast } from "sonner";
import { newId } from "~/workbench/ids";
import { pickedObjects, pickedSolids } from "~/workbench/store/selectors";
import { useWorkbench } from "~/workbench/store/store";
import { coreWorker } from "~/workers/client";
import { toEulerDegrees } from "./euler";

/** The last copy that was made by hand, for repeating its move. */
let lastCopy: { source: Id; copy: Id } | undefined;

/** Copies of all that is picked, beside it: the copies are picked then. */
export function duplicateSelection(): void {
	const { shot, perform, select, reports } = useWorkbench.getState();
	const ids = topmost(shot, pickedObjects(useWorkbench.getState()));
	if (ids.length === 0) return;
	const solids = withInside(shot, ids).filter((id) => reports[id]);
	const widest = Math.max(0, ...solids.map((id) => reports[id]!.size[0])) || 0.5;
	const at = solids.map((id) => keyedPose(shot, id, 0).translation[0]);
	const apart = at.length > 0 ? Math.max(...at) - Math.min(...at) : 0;
	perform(duplicateObjects(ids, newId, [apart + 1.1 * widest, 0, 0]));
	const made = Object.keys(useWorkbench.getState().shot.objects).filter((id) => !shot.objects[id]);
	const copies = topmost(useWorkbench.getState().shot, made);
	lastCopy = copies.length === 1 ? { source: ids[0]!, copy: copies[0]! } : undefined;
	select(copies);
}

export function deleteSelection(): void {
	const { shot, selection, perform, select } = useWorkbench.getState();
	const ids = selection.filter((id) => shot.objects[id]);
	if (ids.length === 0) return;
	perform(removeObjects(ids));
	select([]);
}

/** Whether the picked object is a copy made by hand whose move can be made into a series. */
export const canRepeat = (id: Id): boolean => {
	const { shot } = useWorkbench.getState();
	return lastCopy?.copy === id && shot.objects[lastCopy.source] !== undefined && shot.objects[id] !== undefined;
};

/** The move from an object to its last copy, again and again: a line of copies in the place of both. */
export function repeatMove(): void {
	const { shot, perform, select } = useWorkbench.getState();
	if (!lastCopy || !canRepeat(lastCopy.copy)) {
		toast.info("Duplicate an object and place the copy first; then the move can be repeated.");
		return;
	}
	const { source, copy } = lastCopy;
	const [from, to] = [shot.objects[source]!, shot.objects[copy]!];
	const step = rotate(inverse(from.rotation), vec3.subtract(to.translation, from.translation));
	const turn = toEulerDegrees(compose(inverse(from.rotation), to.rotation));
	const line = layoutById("line")!;
	const round = (value: number) => Number(value.toFixed(6));
	const id = newId();
	const array = addArray({
		id,
		name: `${from.name} series`,
		source: {
			kind: "array",
			sources: [source],
			layout: "line",
			options: {
				...optionDefaults(line),
				count: 10,
				stepX: round(step[0]),
				stepY: round(step[1]),
				stepZ: round(step[2]),
				turnX: round(turn[0]),
				turnY: round(turn[1]),
				turnZ: round(turn[2]),
			},
		},
		translation: from.translation,
		material: from.material,
	});
	perform(together("Repeat the move", [array, poseObject(id, 0, { rotation: from.rotation }), removeObjects([copy])]));
	lastCopy = undefined;
	select([id]);
}

export function groupSelection(): void {
	const { shot, selection, perform, select } = useWorkbench.getState();
	const ids = pickedObjects({ shot, selection });
	if (ids.length === 0) return;
	const group = newId();
	perform(groupObjects(ids, group, ids.length === 1 ? `${shot.objects[ids[0]!]!.name} group` : "Group", middleOf(ids)));
	select([group]);
}

/** Half way between the outermost middles of objects' bodies, in the frame of the first one's parent. */
function middleOf(ids: readonly Id[]): Vec3 {
	const { shot, bodies } = useWorkbench.getState();
	const meant = new Set(withInside(shot, ids));
	const middles = bodies
		.filter((body) => meant.has(body.object) && !body.endless)
		.map((body) => {
			const { translation, rotation } = bodyPose(shot, body, 0);
			return vec3.add(translation, rotate(rotation, body.centre));
		});
	// Helpers have no bodies.
	const places = middles.length > 0 ? middles : ids.map((id) => keyedPose(shot, id, 0).translation);
	const among = (pick: (...values: number[]) => number) => [0, 1, 2].map((k) => pick(...places.map((at) => at[k]!))) as unknown as Vec3;
	const translation = vec3.mix(among(Math.min), among(Math.max), 0.5);
	return keyedInside(shot, ids[0]!, { translation, rotation: [0, 0, 0, 1] }, 0).translation;
}

/** Several picked objects as one mesh, or one as its connected parts. The old ones are hidden and kept. */
export async function rework(how: "merge" | "split"): Promise<void> {
	const { shot, selection, perform, select } = useWorkbench.getState();
	const ids = pickedSolids({ shot, selection });
	const first = shot.objects[ids[0] ?? ""];
	if (!first) return;
	try {
		const parts = await coreWorker().rework(shot, ids, how);
		const made = parts.map(({ asset, translation }) => ({
			id: newId(),
			name: how === "merge" ? `${first.name} merged` : `${first.name} part`,
			source: { kind: "mesh" as const, asset, file: first.name, repairs: [] },
			translation,
			material: first.material,
		}));
		perform(replaceBy(how === "merge" ? `Merge ${ids.length} objects` : `Split ${first.name}`, ids, made));
		select(made.map(({ id }) => id));
	} catch (error) {
		toast.error((error as Error).message);
	}
}

/** Moves what is picked, each with all that it holds, so that its lowest point is at height 0. */
export function setDown(): void {
	const { shot, frame, perform } = useWorkbench.getState();
	const tick = tickOfFrame(shot.settings, frame);
	const moves = topmost(shot, pickedObjects(useWorkbench.getState())).flatMap((id) => {
		const lowest = lowestOf(id, tick);
		if (!Number.isFinite(lowest)) return [];
		const pose = keyedPose(shot, id, tick);
		const down = vec3.subtract(pose.translation, [0, lowest, 0]);
		return [poseObject(id, tick, { translation: keyedInside(shot, id, { ...pose, translation: down }, tick).translation })];
	});
	if (moves.length > 0) perform(together("Set down", moves));
}

/** Height of the lowest point of an object and of all that it holds, m; endless where nothing of it is to be seen. */
function lowestOf(id: Id, tick: Ticks): number {
	const { shot, bodies, drawings } = useWorkbench.getState();
	const rows = new Map(bodies.map((body) => [body.id, body]));
	let lowest = Infinity;
	for (const object of withInside(shot, [id])) {
		const drawing = drawings[object];
		drawing?.ids.forEach((part, i) => {
			const body = rows.get(part);
			if (!body) return;
			const { translation, rotation } = bodyPose(shot, body, tick);
			const mesh = drawing.mesh[i]!;
			for (let v = drawing.vertexStart[mesh]!; v < drawing.vertexStart[mesh + 1]!; v++) {
				const [x, y, z] = [0, 1, 2].map((k) => drawing.positions[3 * v + k]! * body.scale) as [number, number, number];
				lowest = Math.min(lowest, translation[1] + heightOf(rotation, x, y, z));
			}
		});
	}
	return lowest;
}

/** The height part of a turned vector. */
function heightOf([qx, qy, qz, qw]: readonly [number, number, number, number], x: number, y: number, z: number): number {
	return 2 * (qx * qy + qz * qw) * x + (1 - 2 * (qx * qx + qz * qz)) * y + 2 * (qy * qz - qx * qw) * z;
}
