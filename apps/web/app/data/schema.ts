import type { BreakPreset, Patch, Shot } from "@rubble/core/shot";
import type { Take } from "@rubble/core/simulation";
import { boolean, customType, index, integer, jsonb, pgTable, primaryKey, text, timestamp } from "drizzle-orm/pg-core";

const bytea = customType<{ data: Buffer }>({ dataType: () => "bytea" });
const at = (name: string) => timestamp(name, { withTimezone: true }).notNull().defaultNow();

/** One document each. */
export const shots = pgTable("shots", {
	id: text("id").primaryKey(),
	name: text("name").notNull(),
	document: jsonb("document").$type<Shot>().notNull(),
	/** Counts the edits; autosave says which one it starts from. */
	revision: integer("revision").notNull().default(0),
	/** Last seen through the view, as a PNG or WebP. */
	picture: bytea("picture"),
	pictureType: text("picture_type"),
	createdAt: at("created_at"),
	updatedAt: at("updated_at"),
});

/** The change log: what every revision did. */
export const edits = pgTable(
	"edits",
	{
		shot: text("shot")
			.notNull()
			.references(() => shots.id, { onDelete: "cascade" }),
		revision: integer("revision").notNull(),
		name: text("name").notNull(),
		patches: jsonb("patches").$type<readonly Patch[]>().notNull(),
		at: at("at"),
	},
	(table) => [primaryKey({ columns: [table.shot, table.revision] })],
);

/** Breaks kept for re-use on other objects, in any shot. */
export const presets = pgTable("presets", {
	id: text("id").primaryKey(),
	name: text("name").notNull(),
	preset: jsonb("preset").$type<BreakPreset>().notNull(),
	createdAt: at("created_at"),
});

/** Bytes under their SHA-256: meshes, frame chunks, checkpoints. Compressed; hash and size are of the plain bytes. */
export const blobs = pgTable("blobs", {
	hash: text("hash").primaryKey(),
	size: integer("size").notNull(),
	bytes: bytea("bytes").notNull(),
	createdAt: at("created_at"),
});

/** What runs left behind; outside the document and outside undo. */
export const takes = pgTable(
	"takes",
	{
		id: text("id").primaryKey(),
		shot: text("shot")
			.notNull()
			.references(() => shots.id, { onDelete: "cascade" }),
		name: text("name").notNull(),
		locked: boolean("locked").notNull().default(false),
		take: jsonb("take").$type<Take>().notNull(),
		updatedAt: at("updated_at"),
	},
	(table) => [index("takes_shot").on(table.shot)],
);
