import { numberAt, worldScale } from "../animation";
import { vec3 } from "../maths";
import { bendMesh, type Mesh, mostBend, readyToBend, transformMesh } from "../mesh";
import { buildShape, shapeById, shapeDefaults, shapeProblem } from "../shapes";
import { formatNumber, type Id, type SceneObject, type Shot, type Ticks } from "../shot";

/** What of an object's shape can be keyed: the numbers of its primitive, and its bend in radians. */
export function shapeNumbers({ source, bend }: Pick<SceneObject, "source" | "bend">): string[] {
	const shape = source.kind === "shape" ? shapeById(source.shape) : undefined;
	return [...(shape && !shape.endless ? Object.keys(shape.parameters) : []), ...(bend ? [BEND] : [])];
}
/** The name under which an object's bend is keyed. */
export const BEND = "bend";

/** Those of them that are keyed. */
export const keyedNumbers = (item: SceneObject): string[] =>
	// The view asks of every object at every frame.
	item.keys.numbers ? shapeNumbers(item).filter((name) => (item.keys.numbers?.[name]?.length ?? 0) > 0) : [];

/** Whether its shape changes over time by keys of its own. */
export const changesShape = (shot: Shot, id: Id): boolean => keyedNumbers(shot.objects[id]!).length > 0;

/** The object with the numbers of its shape as its keys have them at a tick. */
export function shapedAt(item: SceneObject, tick: Ticks): SceneObject {
	const names = keyedNumbers(item);
	if (names.length === 0) return item;
	const value = (name: string) => numberAt(item, name, tick)!;
	const { source, bend } = item;
	const own = names.filter((name) => name !== BEND);
	return {
		...item,
		source:
			source.kind === "shape" && own.length > 0
				? { ...source, parameters: { ...source.parameters, ...Object.fromEntries(own.map((name) => [name, value(name)])) } }
				: source,
		bend: bend && names.includes(BEND) ? { ...bend, angle: value(BEND) } : bend,
	};
}

/** A sentence where an object's shape cannot be what its keys or its bend make of it, else undefined. `straight`: before it bends. */
export function shapingProblem(shot: Shot, id: Id, straight: Mesh): string | undefined {
	const item = shot.objects[id]!;
	const { source, bend } = item;
	const shape = source.kind === "shape" ? shapeById(source.shape) : undefined;
	let triangles: number | undefined;
	if (shape && source.kind === "shape")
		for (const tick of keyTicks(item)) {
			const parameters = { ...shapeDefaults(shape), ...(shapedAt(item, tick).source as typeof source).parameters };
			const problem = shapeProblem(shape, parameters, source.texts);
			if (problem) return `Its keys: ${problem}`;
			const count = straightShape(shot, id, tick).triangles.length;
			if (triangles !== undefined && count !== triangles)
				return "Its keys change how many faces it has; a shape can only change while those stay. Key lengths instead of counts.";
			triangles = count;
		}
	if (!bend) return undefined;
	if (bend.along === bend.toward) return "It cannot bend towards the axis that it bends along.";
	const most = mostBend(straight, bend);
	return widestBend(item) > most ? `It folds over itself: it can bend by ${formatNumber((most * 180) / Math.PI, 3)}° at most.` : undefined;
}

/** The largest angle that it bends by at any time, radians. */
const widestBend = ({ bend, keys }: SceneObject): number =>
	Math.max(Math.abs(bend?.angle ?? 0), ...(keys.numbers?.[BEND] ?? []).map(({ value }) => Math.abs(value)));

/** Where its shape has keys, in order. */
export const keyTicks = (item: SceneObject): Ticks[] =>
	[...new Set(keyedNumbers(item).flatMap((name) => item.keys.numbers![name]!.map(({ tick }) => tick)))].sort((a, b) => a - b);

/** A shape's mesh at its real size before it bends; numbers given take the place of its own. */
export function straightShape(shot: Shot, id: Id, tick: Ticks, numbers: Readonly<Record<string, number>> = {}): Mesh {
	const item = shapedAt(shot.objects[id]!, tick);
	const { source } = item;
	if (source.kind !== "shape") throw new Error(`straightShape: ${item.name} is no shape`);
	return sized(shot, id, buildShape(shapeById(source.shape)!, { ...source.parameters, ...numbers }, source.texts));
}

/** A mesh as the object's frame and scale have it, ready to bend where it bends. */
export function sized(shot: Shot, id: Id, mesh: Mesh): Mesh {
	const { frame, bend } = shot.objects[id]!;
	const framed = frame ? transformMesh(mesh, { scale: frame.scale, translation: vec3.scale(frame.pivot, -1) }) : mesh;
	const straight = transformMesh(framed, { scale: worldScale(shot, id) });
	if (!bend || bend.along === bend.toward) return straight;
	// The rows of vertices do not change with time, or nothing could follow them.
	const widest = widestBend(shot.objects[id]!);
	return widest > 0 ? readyToBend(straight, bend, widest) : straight;
}

/** Whether nothing but its bend is keyed: then it is the same at all times before it bends. */
export const onlyBends = (item: SceneObject): boolean => keyedNumbers(item).every((name) => name === BEND);

/**
 * The mesh of an object whose shape changes, at a tick. `straight`: how `sized` has it, where it was imported or only
 * bends; else a shape is made anew from its numbers.
 */
export function meshAt(shot: Shot, id: Id, tick: Ticks, straight: Mesh | undefined, numbers?: Readonly<Record<string, number>>): Mesh {
	const { source, bend } = shapedAt(shot.objects[id]!, tick);
	const mesh = source.kind === "shape" && (numbers || !straight) ? straightShape(shot, id, tick, numbers) : straight!;
	return bend && bend.along !== bend.toward ? bendMesh(mesh, bend, bend.angle) : mesh;
}
