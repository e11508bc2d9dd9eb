import { hashBytes } from "@rubble/core/common";
import { eq, sql } from "drizzle-orm";
import { getBlob, putBlob } from "./blobs.server";
import { database } from "./database.server";
import { derived } from "./schema";

/** What nobody has asked for in so many days is made anew when somebody does. */
const KEPT_DAYS = 30;

export async function getDerived(name: string): Promise<Uint8Array | undefined> {
	const [row] = await database.update(derived).set({ usedAt: new Date() }).where(eq(derived.name, name)).returning();
	const bytes = row && (await getBlob(row.blob));
	return bytes && new Uint8Array(bytes);
}

export async function putDerived(name: string, bytes: Uint8Array): Promise<void> {
	const blob = hashBytes(bytes);
	await putBlob(blob, bytes);
	await database
		.insert(derived)
		.values({ name, blob })
		.onConflictDoUpdate({ target: derived.name, set: { blob, usedAt: new Date() } });
}

export async function dropOldDerived(): Promise<void> {
	await database.delete(derived).where(sql`${derived.usedAt} < now() - make_interval(days => ${KEPT_DAYS})`);
}
