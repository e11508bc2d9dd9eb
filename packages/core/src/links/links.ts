import { bad, type Outcome } from "../common";
import type { Vec3 } from "../maths";
import { shapeById, shapeDefaults } from "../shapes";
import { shapedAt } from "../shaping";
import { type Id, type Link, type Shot, secondsOfTick, type Ticks } from "../shot";
import { COUNT, type Formula, METRES, parseFormula, SECONDS, type Unit } from "./formula";

/** What of an object can be linked: numbers of its shape, and its place. */
export interface LinkProperty {
	readonly id: string;
	readonly label: string;
	readonly unit: "m" | "";
}

const PLACE: readonly LinkProperty[] = [
	{ id: "x", label: "Place x", unit: "m" },
	{ id: "height", label: "Height", unit: "m" },
	{ id: "z", label: "Place z", unit: "m" },
];
const AXES = ["x", "height", "z"];

export function linkProperties(shot: Shot, object: Id): LinkProperty[] {
	const source = shot.objects[object]?.source;
	const shape = source?.kind === "shape" ? shapeById(source.shape) : undefined;
	const own = shape && !shape.endless ? Object.entries(shape.parameters).map(([id, { label, unit }]) => ({ id, label, unit })) : [];
	return [...own, ...PLACE];
}

/** Names that a link's formula may use, with their units. `height0` is the source's height at the first frame. */
export function linkNames(shot: Shot, object: Id): Record<string, Unit> {
	const names: Record<string, Unit> = { x: METRES, height: METRES, z: METRES, x0: METRES, height0: METRES, z0: METRES, seconds: SECONDS };
	for (const { id, unit } of linkProperties(shot, object)) names[id] ??= unit === "m" ? METRES : COUNT;
	return names;
}

/** The formula of a link, or what is wrong with it. */
export function readLink(shot: Shot, { object, property, source, formula }: Link): Outcome<Formula> {
	const target = linkProperties(shot, object).find(({ id }) => id === property);
	if (!shot.objects[object] || !target) return bad("What is linked is not there any more.");
	if (!shot.objects[source]) return bad("Pick the object that it follows.");
	if (source === object) return bad("An object cannot follow itself.");
	if (cycleFrom(shot, object)) return bad("It follows something that follows it in turn; break the circle.");
	return parseFormula(formula, linkNames(shot, object), target.unit === "m" ? METRES : COUNT);
}

/** Whether links of places lead from an object back to it. */
function cycleFrom(shot: Shot, start: Id): boolean {
	const seen = new Set<Id>();
	const queue = [start];
	while (queue.length > 0) {
		const at = queue.pop()!;
		for (const link of Object.values(shot.links)) {
			if (link.hidden || link.object !== at) continue;
			if (link.source === start) return true;
			// Only places are looked at by others.
			if (!seen.has(link.source)) {
				seen.add(link.source);
				queue.push(link.source);
			}
		}
	}
	return false;
}

export interface LinkedObject {
	/** Of its shape, where some are linked. */
	readonly parameters: Readonly<Record<string, number>> | undefined;
	/** How far it is moved, metres, and which end of it stays when its shape changes. */
	readonly moved: Vec3;
	readonly keeps: Link["keeps"];
}

/**
 * What links make of objects at a tick. `placeAt`: where an object is then; `placeThen`: at the first frame. Links that
 * cannot be read do nothing; a shape whose numbers would leave their limits stays within them.
 */
export function evaluateLinks(
	shot: Shot,
	tick: Ticks,
	placeAt: (object: Id) => Vec3 | undefined,
	placeThen: (object: Id) => Vec3 | undefined,
): Map<Id, LinkedObject> {
	const made = new Map<Id, LinkedObject>();
	for (const id of Object.keys(shot.links).sort()) {
		const link = shot.links[id]!;
		if (link.hidden) continue;
		const formula = readLink(shot, link);
		const [now, then] = [placeAt(link.source), placeThen(link.source)];
		if (!formula.ok || !now || !then) continue;
		const { source } = shapedAt(shot.objects[link.object]!, tick);
		const shape = source.kind === "shape" ? shapeById(source.shape) : undefined;
		const own = shape && source.kind === "shape" ? { ...shapeDefaults(shape), ...source.parameters } : {};
		const known: Record<string, number> = {
			...own,
			x: now[0],
			height: now[1],
			z: now[2],
			x0: then[0],
			height0: then[1],
			z0: then[2],
			seconds: secondsOfTick(tick),
		};
		const change = formula.value.value((name) => known[name] ?? 0);
		if (!Number.isFinite(change)) continue;
		const before = made.get(link.object) ?? { parameters: undefined, moved: [0, 0, 0] as Vec3, keeps: link.keeps };
		const axis = AXES.indexOf(link.property);
		const parameter = shape?.parameters[link.property];
		if (parameter && !(axis >= 0 && !Object.hasOwn(own, link.property))) {
			const value = Math.min(parameter.most, Math.max(parameter.least, own[link.property]! + change));
			const parameters = { ...own, ...before.parameters, [link.property]: value };
			if (shape?.problem?.(parameters, {})) continue;
			made.set(link.object, { ...before, parameters, keeps: link.keeps });
		} else if (axis >= 0) {
			const moved = before.moved.map((v, k) => (k === axis ? v + change : v)) as unknown as Vec3;
			made.set(link.object, { ...before, moved });
		}
	}
	return made;
}
