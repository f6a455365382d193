CREATE TABLE "pinned" (
	"hash" text PRIMARY KEY NOT NULL,
	"webp" "bytea" NOT NULL,
	"touched_at" timestamp with time zone DEFAULT now() NOT NULL
);
