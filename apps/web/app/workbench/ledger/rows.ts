import { bodyPose, matchesRule, parseRule, type RuleFacts } from "@rubble/core/bodies";
import { type Id, orderedObjects, type Shot } from "@rubble/core/shot";
import type { BodyRow } from "~/workers/messages";

export type LedgerRow =
	| {
			readonly kind: "object";
			readonly id: Id;
			readonly name: string;
			readonly pieces: number;
			readonly open: boolean;
			readonly body: BodyRow | undefined;
			readonly mass: number;
			readonly bodyKind: BodyRow["settings"]["kind"] | "mixed";
	  }
	| { readonly kind: "piece"; readonly id: string; readonly name: string; readonly body: BodyRow };

/** What a rule may ask of a body; the same words and columns as in the core. */
export function factsOf(shot: Shot, body: BodyRow): RuleFacts {
	const item = shot.objects[body.object]!;
	return {
		path: body.path,
		words: new Set([
			body.piece >= 0 ? "piece" : "object",
			body.settings.kind,
			shot.materials[item.material]!.name.toLowerCase(),
			...(item.hidden ? ["hidden"] : []),
			...(item.locked ? ["locked"] : []),
		]),
		columns: {
			volume: body.volume,
			mass: body.mass,
			area: body.area,
			size: body.size,
			height: bodyPose(shot, body, 0).translation[1],
			triangles: body.triangles,
			neighbours: body.neighbours,
		},
	};
}

export interface Filtered {
	/** Bodies that the rule fits; all without a rule. */
	readonly bodies: readonly BodyRow[];
	readonly problem: string;
}

export function filterBodies(shot: Shot, bodies: readonly BodyRow[], rule: string): Filtered {
	if (rule.trim() === "") return { bodies, problem: "" };
	const parsed = parseRule(rule);
	if (!parsed.ok) return { bodies, problem: parsed.problems[0]!.message };
	return { bodies: bodies.filter((body) => shot.objects[body.object] && matchesRule(parsed.value, factsOf(shot, body))), problem: "" };
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
	for (const id of orderedObjects(shot)) {
		const own = byObject.get(id) ?? [];
		if (filtered && own.length === 0) continue;
		const pieces = own.filter((body) => body.piece >= 0);
		const kinds = new Set(own.map((body) => body.settings.kind));
		const isOpen = open.has(id);
		rows.push({
			kind: "object",
			id,
			name: shot.objects[id]!.name,
			pieces: pieces.length,
			open: isOpen,
			body: pieces.length === 0 ? own[0] : undefined,
			mass: own.reduce((sum, body) => sum + body.mass, 0),
			bodyKind: kinds.size === 1 ? [...kinds][0]! : kinds.size === 0 ? "none" : "mixed",
		});
		if (isOpen)
			for (const body of pieces) rows.push({ kind: "piece", id: body.id, name: body.path.slice(body.path.lastIndexOf("/") + 1), body });
	}
	return rows;
}
