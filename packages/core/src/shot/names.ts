import { plainName } from "./plainText";
import type { Id, Shot } from "./types";

/** `Block`, or `Block 2` where a sibling has that name already. */
export const freeName = (shot: Shot, wanted: string, parent: Id | null = null): string =>
	unusedName(
		plainName(wanted) || "Object",
		Object.values(shot.objects).flatMap((item) => (item.parent === parent ? [item.name] : [])),
	);

/** The name, or the first numbered one that is not taken. */
export function unusedName(wanted: string, taken: readonly string[]): string {
	const known = new Set(taken);
	if (!known.has(wanted)) return wanted;
	const stem = wanted.replace(/ \d+$/, "");
	let n = 2;
	while (known.has(`${stem} ${n}`)) n++;
	return `${stem} ${n}`;
}

/** Names joined by slashes: what people see. */
export function objectPath(shot: Shot, id: Id): string {
	const item = shot.objects[id];
	if (!item) return "";
	return item.parent === null ? item.name : `${objectPath(shot, item.parent)}/${item.name}`;
}

/** The object that an id belongs to: itself, or the home of a piece or a copy. */
export function objectOf(shot: Shot, id: string): Id | undefined {
	if (shot.objects[id]) return id;
	const home = id.split(":")[0]!;
	return shot.objects[home] ? home : shot.fractures[home]?.object;
}

/** Object ids in the order of the ledger. */
export const orderedObjects = (shot: Shot): Id[] =>
	Object.keys(shot.objects).sort((a, b) => {
		const difference = shot.objects[a]!.order - shot.objects[b]!.order;
		return difference !== 0 ? difference : a < b ? -1 : 1;
	});
