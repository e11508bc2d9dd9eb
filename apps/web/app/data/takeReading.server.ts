import { setImmediate as othersTurn } from "node:timers/promises";
import { isDeepStrictEqual } from "node:util";
import type { Outcome } from "@rubble/core/common";
import { parseShotGently, type Shot } from "@rubble/core/shot";
import { parseTake, type Take } from "@rubble/core/simulation";
import { eq } from "drizzle-orm";
import { database } from "./database.server";
import { refuse } from "./requests.server";
import { takes } from "./schema";
import { loadShot } from "./shots.server";

/** A shot that comes from outside and is mostly as one that is stored: only what differs is looked at, and nobody else waits for that. */
export const readLike = (stored: Shot, value: unknown): Promise<Outcome<Shot>> =>
	parseShotGently(value, othersTurn, { shot: stored, same: isDeepStrictEqual });

/** A take as a page sends it. */
export async function readTake(value: unknown, of: { readonly shot: string } | { readonly take: string }): Promise<Take> {
	const home = "shot" in of ? of.shot : (await database.select({ shot: takes.shot }).from(takes).where(eq(takes.id, of.take)))[0]?.shot;
	const stored = home === undefined ? undefined : await loadShot(home);
	if (!stored) throw refuse(404, "shot" in of ? "The shot was deleted." : "The take was deleted.");
	const take = await parseTake(value, (snapshot) => readLike(stored.shot, snapshot));
	if (!take.ok) throw refuse(400, take.problems[0]!.message);
	return take.value;
}
