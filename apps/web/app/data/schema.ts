import type { FileOrder } from "@rubble/core/formats";
import type { BreakPreset, EditWay, Id, Patch, Shot } from "@rubble/core/shot";
import type { Take } from "@rubble/core/simulation";
import type { TakeChange } from "@rubble/core/takes";
import { boolean, customType, index, integer, jsonb, pgTable, primaryKey, real, text, timestamp, uniqueIndex } from "drizzle-orm/pg-core";

/** A file to be written of a take. */
export interface BakeOrder extends FileOrder {
	/** Whether others write the rest of the frames: then the file is named by its own. */
	readonly part?: boolean | undefined;
}

/** An object to be broken. */
export interface FractureOrder {
	readonly shot: Shot;
	readonly object: Id;
}

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
	/** Since when it lies in the trash. */
	deletedAt: timestamp("deleted_at", { withTimezone: true }),
});

/** The change log: what every revision did, and what takes it back. */
export const edits = pgTable(
	"edits",
	{
		shot: text("shot")
			.notNull()
			.references(() => shots.id, { onDelete: "cascade" }),
		revision: integer("revision").notNull(),
		/** Given by the page, so that an edit that is sent twice is made once. */
		edit: text("edit"),
		/** The step of undo that it belongs to; a drag is many edits in one step. */
		step: text("step"),
		/** Whether it makes the step, takes it back, or makes it again. */
		way: text("way").$type<EditWay>().notNull().default("do"),
		name: text("name").notNull(),
		patches: jsonb("patches").$type<readonly Patch[]>().notNull(),
		/** Edits of earlier versions have none. */
		inverse: jsonb("inverse").$type<readonly Patch[]>(),
		at: at("at"),
	},
	(table) => [primaryKey({ columns: [table.shot, table.revision] }), uniqueIndex("edits_edit").on(table.shot, table.edit)],
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
		note: text("note").notNull().default(""),
		/** Neither run again nor deleted. */
		locked: boolean("locked").notNull().default(false),
		/** The good one. */
		picked: boolean("picked").notNull().default(false),
		/** What a sweep set differently from the shot it came from. */
		changes: jsonb("changes").$type<readonly TakeChange[]>().notNull().default([]),
		take: jsonb("take").$type<Take>().notNull(),
		/** The run that fills it just now: only its chunks are taken. Empty where none may. */
		run: text("run").notNull().default(""),
		createdAt: at("created_at"),
		updatedAt: at("updated_at"),
		/** When it was last on show; the latest is shown when the shot is opened. */
		shownAt: at("shown_at"),
	},
	(table) => [index("takes_shot").on(table.shot)],
);

export type JobKind = "run" | "bake" | "fracture";
export type JobState = "waiting" | "running" | "done" | "failed" | "cancelled";

/** Long work on any machine: what it is, how far it is, and whose it is just now. The queue only says that there is some. */
export const jobs = pgTable(
	"jobs",
	{
		id: text("id").primaryKey(),
		kind: text("kind").$type<JobKind>().notNull(),
		shot: text("shot")
			.notNull()
			.references(() => shots.id, { onDelete: "cascade" }),
		/** Of a run or a file; a fracture has none. */
		take: text("take").references(() => takes.id, { onDelete: "cascade" }),
		name: text("name").notNull(),
		state: text("state").$type<JobState>().notNull().default("waiting"),
		/** Higher goes first. */
		priority: integer("priority").notNull().default(0),
		/** What a bake is to write. */
		bake: jsonb("bake").$type<BakeOrder>(),
		/** What is to be broken. */
		fracture: jsonb("fracture").$type<FractureOrder>(),
		/** The file that a bake has written. */
		file: jsonb("file").$type<{ readonly hash: string; readonly name: string; readonly mime: string; readonly size: number }>(),
		fraction: real("fraction").notNull().default(0),
		what: text("what").notNull().default(""),
		log: jsonb("log").$type<readonly { readonly at: string; readonly text: string }[]>().notNull().default([]),
		worker: text("worker").notNull().default(""),
		/** Goes up with every worker that takes it; what comes from one with a lower number is refused. */
		fence: integer("fence").notNull().default(0),
		/** Tries since the last chunk that was stored. */
		attempts: integer("attempts").notNull().default(0),
		/** How often the process that did it has died of it. */
		crashes: integer("crashes").notNull().default(0),
		leaseUntil: timestamp("lease_until", { withTimezone: true }),
		createdAt: at("created_at"),
		startedAt: timestamp("started_at", { withTimezone: true }),
		finishedAt: timestamp("finished_at", { withTimezone: true }),
	},
	(table) => [index("jobs_state").on(table.state)],
);

/** What was made of something and takes long to make: the blob that holds it, by a hash of what it was made from. */
export const derived = pgTable("derived", {
	name: text("name").primaryKey(),
	blob: text("blob").notNull(),
	usedAt: at("used_at"),
});

/** Signs of life: of the workers, and of the health check, which proves by it that something can be written. */
export const signs = pgTable("signs", {
	name: text("name").primaryKey(),
	at: at("at"),
});
