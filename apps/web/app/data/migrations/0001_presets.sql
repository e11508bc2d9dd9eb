CREATE TABLE "presets" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"preset" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
