CREATE TABLE "derived" (
	"name" text PRIMARY KEY NOT NULL,
	"blob" text NOT NULL,
	"used_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "jobs" ALTER COLUMN "take" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "fracture" jsonb;