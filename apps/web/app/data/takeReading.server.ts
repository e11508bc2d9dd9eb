import { isDeepStrictEqual } from "node:util";
import { parseChange, parseShot } from "@rubble/core/shot";
import { parseTake, type Take } from "@rubble/core/simulation";
import { eq } from "drizzle-orm";
import { database } from "./database.server";
import { refuse } from "./requests.server";
import { takes } from "./schema";
import { loadShot } from "./shots.server";

/** A take as a page sends it. Its snapshot is mostly the shot as it is stored: only what differs is looked at. */
export async function readTake(value: unknown, of: { readonly shot: string } | { readonly take: string }): Promise<Take> {
	const home = "shot" in of ? of.shot : (await database.select({ shot: takes.shot }).from(takes).where(eq(takes.id, of.take)))[0]?.shot;
	const stored = home === undefined ? undefined : await loadShot(home);
	if (!stored) throw refuse(404, "shot" in of ? "The shot was deleted." : "The take was deleted.");
	const take = parseTake(value, (snapshot) => {
		const like = parseChange(stored.shot, snapshot, isDeepStrictEqual);
		return like.ok ? like : parseShot(snapshot);
	});
	if (!take.ok) throw refuse(400, take.problems[0]!.message);
	return take.value;
}
