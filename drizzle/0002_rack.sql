CREATE TABLE "brushes" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text,
	"group" text,
	"brush" jsonb,
	"favourite" boolean DEFAULT false NOT NULL,
	"used_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "tips" (
	"hash" text PRIMARY KEY NOT NULL,
	"png" "bytea" NOT NULL
);
