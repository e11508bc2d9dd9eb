import { type EditWay, type Patch, parseChange, replay, type Shot } from "@rubble/core/shot";
import { and, asc, desc, eq, gt, inArray, isNull, lt } from "drizzle-orm";
import { database } from "./database.server";
import { edits, shots } from "./schema";
import { current } from "./shots.server";

/** An edit as a page sends it. */
export interface SentEdit {
	/** Of its own, so that sending it twice is harmless. */
	readonly edit: string;
	readonly step: string;
	readonly way: EditWay;
	readonly name: string;
	readonly patches: readonly Patch[];
}

export type PatchOutcome =
	| { readonly kind: "saved"; readonly revision: number; readonly at: string }
	/** Somebody else was faster: nothing of it was taken but what had been before. */
	| { readonly kind: "conflict"; readonly revision: number }
	| { readonly kind: "missing" }
	/** The edit with this id cannot be made, ever; those before it are saved. */
	| { readonly kind: "invalid"; readonly message: string; readonly edit: string; readonly revision: number };

/** Makes edits on top of the revision that they start from, each one revision; anything else is a conflict, never overwritten. */
export async function patchShot(id: string, base: number, sent: readonly SentEdit[]): Promise<PatchOutcome> {
	return database.transaction(async (transaction): Promise<PatchOutcome> => {
		const [row] = await transaction
			.select({ document: shots.document, revision: shots.revision, updatedAt: shots.updatedAt })
			.from(shots)
			.where(and(eq(shots.id, id), isNull(shots.deletedAt)))
			.for("update");
		if (!row) return { kind: "missing" };
		const known = await revisionsOf(transaction, id, sent);
		// Answers get lost: then edits that have been made come once more, in the same order.
		const first = sent.findIndex(({ edit }) => !known.has(edit));
		const at = first < 0 ? Math.max(base, ...known.values()) : first === 0 ? base : known.get(sent[first - 1]!.edit)!;
		if (first < 0) return { kind: "saved", revision: at, at: row.updatedAt.toISOString() };
		if (row.revision !== at) return { kind: "conflict", revision: row.revision };
		let shot = current(id, row.document);
		let revision = at;
		let refused: { readonly message: string; readonly edit: string } | undefined;
		const made: (typeof edits.$inferInsert)[] = [];
		for (const one of sent.slice(first)) {
			const next = remade(shot, one.patches);
			if ("message" in next) {
				refused = { message: next.message, edit: one.edit };
				break;
			}
			shot = next.shot;
			made.push({ ...one, shot: id, revision: ++revision, inverse: next.inverse });
		}
		const updatedAt = new Date();
		if (made.length > 0) {
			await transaction.update(shots).set({ document: shot, name: shot.name, revision, updatedAt }).where(eq(shots.id, id));
			await transaction.insert(edits).values(made);
		}
		return refused ? { kind: "invalid", ...refused, revision } : { kind: "saved", revision, at: updatedAt.toISOString() };
	});
}

function remade(
	shot: Shot,
	patches: readonly Patch[],
): { readonly shot: Shot; readonly inverse: readonly Patch[] } | { readonly message: string } {
	let next: ReturnType<typeof replay>;
	try {
		next = replay(shot, patches);
	} catch {
		return { message: "The change does not fit the shot." };
	}
	const parsed = parseChange(shot, next.shot);
	return parsed.ok ? next : { message: parsed.problems[0]!.message };
}

/** The revisions that those edits made which have been made. */
async function revisionsOf(within: Pick<typeof database, "select">, shot: string, sent: readonly Pick<SentEdit, "edit">[]) {
	const rows = await within
		.select({ edit: edits.edit, revision: edits.revision })
		.from(edits)
		.where(
			and(
				eq(edits.shot, shot),
				inArray(
					edits.edit,
					sent.map(({ edit }) => edit),
				),
			),
		);
	return new Map(rows.map(({ edit, revision }) => [edit!, revision]));
}

/** Which of these edits have been made, with their revisions. */
export async function knownEdits(shot: string, ids: readonly string[]): Promise<Record<string, number>> {
	if (ids.length === 0) return {};
	return Object.fromEntries(
		await revisionsOf(
			database,
			shot,
			ids.map((edit) => ({ edit })),
		),
	);
}

/** An edit of the change log as lists show it. */
export interface EditRow {
	readonly revision: number;
	readonly step: string | null;
	readonly way: EditWay;
	readonly name: string;
	readonly at: string;
}

const MOST_LISTED = 1000;

/** The change log, the newest first. */
export async function listEdits(shot: string): Promise<EditRow[]> {
	const rows = await database
		.select({ revision: edits.revision, step: edits.step, way: edits.way, name: edits.name, at: edits.at })
		.from(edits)
		.where(eq(edits.shot, shot))
		.orderBy(desc(edits.revision))
		.limit(MOST_LISTED);
	return rows.map((row) => ({ ...row, at: row.at.toISOString() }));
}

/** The shot as it was after a revision; undefined where the log does not reach back so far. */
export async function shotAt(id: string, revision: number): Promise<Shot | undefined> {
	return database.transaction(
		async (transaction) => {
			const [row] = await transaction.select({ document: shots.document, revision: shots.revision }).from(shots).where(eq(shots.id, id));
			if (!row || revision > row.revision || revision < 0) return undefined;
			const later = await transaction
				.select({ inverse: edits.inverse })
				.from(edits)
				.where(and(eq(edits.shot, id), gt(edits.revision, revision)))
				.orderBy(desc(edits.revision));
			if (later.length !== row.revision - revision || later.some(({ inverse }) => inverse === null)) return undefined;
			return later.reduce((shot, { inverse }) => replay(shot, inverse!).shot, current(id, row.document));
		},
		{ isolationLevel: "repeatable read" },
	);
}

/** Edits with what they do and what takes them back, oldest first: the last ones of the log, at most so many. */
export async function lastEdits(shot: string, most: number) {
	const rows = await database
		.select({
			revision: edits.revision,
			step: edits.step,
			way: edits.way,
			name: edits.name,
			patches: edits.patches,
			inverse: edits.inverse,
		})
		.from(edits)
		.where(eq(edits.shot, shot))
		.orderBy(desc(edits.revision))
		.limit(most);
	return rows.reverse();
}

/** How much of a shot's log is kept: revisions older than this are as they are, and cannot be taken back. */
const KEPT_EDITS = 5000;

/** Takes away what lies too far back in the logs. */
export async function trimEdits(): Promise<void> {
	const long = await database
		.select({ shot: shots.id, revision: shots.revision })
		.from(shots)
		.where(gt(shots.revision, KEPT_EDITS))
		.orderBy(asc(shots.id));
	for (const { shot, revision } of long)
		await database.delete(edits).where(and(eq(edits.shot, shot), lt(edits.revision, revision - KEPT_EDITS)));
}
