CREATE TABLE "blobs" (
	"hash" text PRIMARY KEY NOT NULL,
	"bytes" "bytea" NOT NULL
);
--> statement-breakpoint
CREATE TABLE "operations" (
	"id" text PRIMARY KEY NOT NULL,
	"piece_id" text NOT NULL,
	"revision" integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE "piece_tiles" (
	"piece_id" text NOT NULL,
	"plane" text NOT NULL,
	"tile" integer NOT NULL,
	"hash" text NOT NULL,
	CONSTRAINT "piece_tiles_piece_id_plane_tile_pk" PRIMARY KEY("piece_id","plane","tile")
);
--> statement-breakpoint
CREATE TABLE "pieces" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"document" jsonb NOT NULL,
	"revision" integer DEFAULT 0 NOT NULL,
	"position" integer DEFAULT 0 NOT NULL,
	"thumbnail" "bytea",
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL,
	"deleted_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "trail" (
	"piece_id" text NOT NULL,
	"seq" integer NOT NULL,
	"label" text NOT NULL,
	"edit" jsonb NOT NULL,
	"tiles" jsonb NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "trail_piece_id_seq_pk" PRIMARY KEY("piece_id","seq")
);
--> statement-breakpoint
CREATE INDEX "operations_piece" ON "operations" USING btree ("piece_id");