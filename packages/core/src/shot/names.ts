import type { Id, Shot } from "./types";

/** `Block`, or `Block 2` where a sibling has that name already. */
export function freeName(shot: Shot, wanted: string, parent: Id | null = null): string {
	const clean = wanted.replace(/[/\n]/g, " ").trim().slice(0, 120) || "Object";
	const taken = new Set(
		Object.values(shot.objects)
			.filter((item) => item.parent === parent)
			.map((item) => item.name),
	);
	if (!taken.has(clean)) return clean;
	const stem = clean.replace(/ \d+$/, "");
	let n = 2;
	while (taken.has(`${stem} ${n}`)) n++;
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
