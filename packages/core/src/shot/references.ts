import { objectOf } from "./names";
import type { OptionValues } from "./options";
import { type BodySettings, type Id, type ObjectSource, SHOT_LIMITS, type Shot } from "./types";

const RESERVED = new Set(Object.getOwnPropertyNames(Object.prototype));

/** Whether a text cannot be an id: every object of the language has something of that name already. */
export const isReserved = (id: string): boolean => RESERVED.has(id) || id === "prototype";

/** A reference that does not hold: where it stands, whatever things are called, and what is wrong with it. */
export interface BrokenReference {
	readonly at: string;
	readonly message: string;
}

/** What refers to nothing, to itself or round in circles; empty where all is well. */
export function brokenReferences(shot: Shot): BrokenReference[] {
	const problems: BrokenReference[] = [];
	const say = (at: string, message: string) => problems.push({ at, message });
	const objects = shot.objects;
	const known = (id: Id): boolean => Object.hasOwn(objects, id);
	const ids = Object.keys(objects);
	if (ids.length > SHOT_LIMITS.objects)
		say(
			"objects",
			`The shot has ${ids.length.toLocaleString("en")} objects; the most is ${SHOT_LIMITS.objects.toLocaleString("en")}. Copies in an array count as one.`,
		);
	const siblings = new Set<string>();
	/** How deep each lies; −1 where that is being asked. */
	const depths = new Map<Id, number>();
	for (const id of ids) {
		const item = objects[id]!;
		if (!Object.hasOwn(shot.materials, item.material)) say(`${id}.material`, `“${item.name}” uses a material that is not in the shot.`);
		if (item.parent !== null && !known(item.parent)) say(`${id}.parent`, `“${item.name}” has a parent that is not in the shot.`);
		const way: Id[] = [];
		let at: Id | null = id;
		while (at !== null && known(at) && !depths.has(at)) {
			depths.set(at, -1);
			way.push(at);
			at = objects[at]!.parent;
		}
		let depth = at === null || !known(at) ? 0 : depths.get(at)!;
		if (depth < 0) {
			say(`${id}.parent`, `“${item.name}” is its own ancestor.`);
			depth = 0;
		}
		for (const one of way.reverse()) depths.set(one, ++depth);
		if (depths.get(id)! > SHOT_LIMITS.depth) say(`${id}.depth`, `“${item.name}” lies more than ${SHOT_LIMITS.depth} groups deep.`);
		const { source } = item;
		if (source.kind === "camera" && source.aim !== null && !known(source.aim))
			say(`${id}.aim`, `“${item.name}” aims at an object that is not in the shot.`);
		if (source.kind === "array")
			for (const copied of source.sources) {
				if (!known(copied)) say(`${id}.sources.${copied}`, `“${item.name}” copies an object that is not in the shot.`);
				else if (objects[copied]!.source.kind === "array")
					say(`${id}.sources.${copied}`, `“${item.name}” copies an array; only single objects can be copied.`);
			}
		const path = `${item.parent ?? ""}/${item.name}`;
		if (siblings.has(path)) say(`${id}.name`, `Two objects are called “${item.name}”; names must differ among siblings.`);
		siblings.add(path);
	}
	for (const [id, { object }] of Object.entries(shot.fractures))
		if (!known(object)) say(`fractures.${id}`, "A fracture belongs to an object that is not in the shot.");
	for (const [id, { object, source }] of Object.entries(shot.links)) {
		if (!known(object)) say(`links.${id}`, "A link belongs to an object that is not in the shot.");
		else if (source !== "" && !known(source)) say(`links.${id}`, `“${objects[object]!.name}” follows an object that is not in the shot.`);
		else if (source === object) say(`links.${id}`, `“${objects[object]!.name}” follows itself; pick another object for its link.`);
	}
	return problems;
}

/** Another id for the id of an object. */
type Renaming = (object: Id) => Id;

/** Options whose lists of ids (the only lists of words among them) name others. Rules are text and stay as they are. */
export const optionsWith = (values: OptionValues, object: Renaming): OptionValues =>
	Object.fromEntries(
		Object.entries(values).map(([name, value]) => [
			name,
			Array.isArray(value) && typeof value[0] === "string" ? (value as readonly Id[]).map(object) : value,
		]),
	);

export function sourceWith(from: ObjectSource, object: Renaming): ObjectSource {
	switch (from.kind) {
		case "array":
			return { ...from, sources: from.sources.map(object), options: optionsWith(from.options, object) };
		case "force":
			return { ...from, options: optionsWith(from.options, object) };
		case "camera":
			return { ...from, aim: from.aim === null ? null : object(from.aim) };
		case "region":
			return from.solid === undefined ? from : { ...from, solid: object(from.solid) };
		default:
			return from;
	}
}

export const settingsWith = (from: BodySettings, object: Renaming): BodySettings => ({
	...from,
	...(from.proxy && { proxy: object(from.proxy) }),
	...(from.crop && { crop: object(from.crop) }),
	...(from.wake?.when === "region" && { wake: { ...from.wake, region: object(from.wake.region) } }),
});

/** The id of an object, or of a piece (`fracture:name`) or a copy (`array:n`) of it. */
export function derivedWith(shot: Shot, id: string, object: Renaming, fracture: Renaming): string {
	const colon = id.indexOf(":");
	if (colon < 0) return object(id);
	const home = id.slice(0, colon);
	return `${shot.objects[home] ? object(home) : fracture(home)}${id.slice(colon)}`;
}

/** The objects and all that they hold, however deep, in the order of `ids`, each once. */
export function withInside(shot: Shot, ids: readonly Id[]): Id[] {
	const children = new Map<Id, Id[]>();
	for (const [id, { parent }] of Object.entries(shot.objects))
		if (parent !== null) children.set(parent, [...(children.get(parent) ?? []), id]);
	const found = new Set<Id>();
	const visit = (id: Id): void => {
		if (found.has(id) || !shot.objects[id]) return;
		found.add(id);
		children.get(id)?.forEach(visit);
	};
	ids.forEach(visit);
	return [...found];
}

/** The ids (of objects, pieces, copies) with groups as the objects that they hold. */
export const ungrouped = (shot: Shot, ids: readonly string[]): string[] => [
	...new Set(
		ids.flatMap((id) =>
			shot.objects[id]?.source.kind === "group"
				? withInside(shot, [id]).filter((inside) => shot.objects[inside]!.source.kind !== "group")
				: [id],
		),
	),
];

/** Those of the ids (of objects, pieces, copies) that do not move along with another one of them. */
export function topmost(shot: Shot, ids: readonly string[]): string[] {
	const meant = new Set(ids);
	const carried = (id: Id | null | undefined): boolean => id != null && (meant.has(id) || carried(shot.objects[id]?.parent));
	return [...meant].filter((id) => !carried(shot.objects[id] ? shot.objects[id].parent : objectOf(shot, id)));
}
