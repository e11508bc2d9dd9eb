import { type BodyRow, matchesRule, parseRule, ruleFacts } from "@rubble/core/bodies";
import { type Id, objectPath, orderedObjects, type Shot } from "@rubble/core/shot";

export type LedgerRow =
	| {
			readonly kind: "object";
			readonly id: Id;
			readonly name: string;
			/** How many groups it lies in. */
			readonly depth: number;
			/** What it opens into: pieces, copies, or the members of a group. */
			readonly pieces: number;
			readonly open: boolean;
			readonly body: BodyRow | undefined;
			readonly mass: number;
			readonly bodyKind: BodyRow["settings"]["kind"] | "mixed";
	  }
	| { readonly kind: "piece"; readonly id: string; readonly name: string; readonly body: BodyRow };

export interface Filtered {
	/** Bodies that the rule fits; all without a rule. */
	readonly bodies: readonly BodyRow[];
	readonly problem: string;
}

export function filterBodies(shot: Shot, bodies: readonly BodyRow[], rule: string): Filtered {
	if (rule.trim() === "") return { bodies, problem: "" };
	const parsed = parseRule(rule);
	if (!parsed.ok) return { bodies, problem: parsed.problems[0]!.message };
	return { bodies: bodies.filter((body) => shot.objects[body.object] && matchesRule(parsed.value, ruleFacts(shot, body))), problem: "" };
}

/** Rows of the ledger: objects in order, with their pieces where they are open. With a rule, only what fits it. */
export function ledgerRows(
	shot: Shot,
	bodies: readonly BodyRow[],
	open: ReadonlySet<Id>,
	filtered: readonly BodyRow[] | undefined,
): LedgerRow[] {
	const rows: LedgerRow[] = [];
	const byObject = new Map<Id, BodyRow[]>();
	for (const body of filtered ?? bodies) {
		const list = byObject.get(body.object);
		if (list) list.push(body);
		else byObject.set(body.object, [body]);
	}
	const children = new Map<Id | null, Id[]>();
	for (const id of orderedObjects(shot)) {
		const { parent } = shot.objects[id]!;
		const list = children.get(parent);
		if (list) list.push(id);
		else children.set(parent, [id]);
	}
	const add = (id: Id, depth: number) => {
		const item = shot.objects[id]!;
		const members = children.get(id) ?? [];
		const own = byObject.get(id) ?? [];
		const inside = filtered ? members.filter((member) => holdsAny(member)) : members;
		if (filtered && own.length === 0 && inside.length === 0) return;
		const pieces = own.filter((body) => body.piece >= 0);
		const kinds = new Set(own.map((body) => body.settings.kind));
		const isOpen = open.has(id) !== members.length > 0; // groups begin open
		rows.push({
			kind: "object",
			id,
			name: item.name,
			depth,
			pieces: item.source.kind === "group" ? members.length : pieces.length,
			open: isOpen,
			body: pieces.length === 0 ? own[0] : undefined,
			mass: own.reduce((sum, body) => sum + body.mass, 0),
			bodyKind: kinds.size === 1 ? [...kinds][0]! : kinds.size === 0 ? "none" : "mixed",
		});
		if (!isOpen) return;
		for (const member of inside) add(member, depth + 1);
		for (const body of pieces) rows.push({ kind: "piece", id: body.id, name: nameIn(shot, body), body });
	};
	const holdsAny = (id: Id): boolean => byObject.has(id) || (children.get(id) ?? []).some(holdsAny);
	for (const id of children.get(null) ?? []) add(id, 0);
	return rows;
}

/** The part of a path that comes after the object: `00012`, `brick/00003`. */
const nameIn = (shot: Shot, body: BodyRow): string => body.path.slice(objectPath(shot, body.object).length + 1);
