import { objectOf } from "./names";
import type { OptionValues } from "./options";
import type { BodySettings, Id, ObjectSource, Shot } from "./types";

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
