import { randomUUID } from "node:crypto";
import { type BreakPreset, parsePreset } from "@rubble/core/shot";
import { asc, eq } from "drizzle-orm";
import { database } from "./database.server";
import { presets } from "./schema";

export interface StoredPreset {
	readonly id: string;
	readonly preset: BreakPreset;
}

/** Breaks that were kept for re-use, by name; those that cannot be read any more are passed over. */
export async function listPresets(): Promise<StoredPreset[]> {
	const rows = await database.select({ id: presets.id, preset: presets.preset }).from(presets).orderBy(asc(presets.name), asc(presets.id));
	return rows.filter(({ preset }) => parsePreset(preset).ok);
}

export async function keepPreset(preset: BreakPreset): Promise<StoredPreset> {
	const id = randomUUID();
	await database.insert(presets).values({ id, name: preset.name, preset });
	return { id, preset };
}

export async function deletePreset(id: string): Promise<void> {
	await database.delete(presets).where(eq(presets.id, id));
}
