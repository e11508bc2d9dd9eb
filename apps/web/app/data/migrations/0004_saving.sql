CREATE TABLE "signs" (
	"name" text PRIMARY KEY NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "edits" ADD COLUMN "edit" text;--> statement-breakpoint
ALTER TABLE "edits" ADD COLUMN "step" text;--> statement-breakpoint
ALTER TABLE "edits" ADD COLUMN "way" text DEFAULT 'do' NOT NULL;--> statement-breakpoint
ALTER TABLE "edits" ADD COLUMN "inverse" jsonb;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "crashes" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "shots" ADD COLUMN "deleted_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "takes" ADD COLUMN "run" text DEFAULT '' NOT NULL;--> statement-breakpoint
CREATE UNIQUE INDEX "edits_edit" ON "edits" USING btree ("shot","edit");--> statement-breakpoint
UPDATE "takes" SET "run" = "jobs"."id" FROM "jobs" WHERE "jobs"."take" = "takes"."id" AND "jobs"."kind" = 'run' AND "jobs"."state" IN ('waiting', 'running');
