CREATE TABLE "bake_tiles" (
	"key" text NOT NULL,
	"tile" integer NOT NULL,
	"hash" text,
	"missed" integer DEFAULT 0 NOT NULL,
	"worker" text NOT NULL,
	CONSTRAINT "bake_tiles_key_tile_pk" PRIMARY KEY("key","tile")
);
--> statement-breakpoint
CREATE TABLE "bake_workers" (
	"id" text PRIMARY KEY NOT NULL,
	"host" text NOT NULL,
	"cores" integer NOT NULL,
	"holds" jsonb NOT NULL,
	"seen_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "bakes" (
	"key" text PRIMARY KEY NOT NULL,
	"spec" jsonb NOT NULL,
	"label" text NOT NULL,
	"piece_id" text NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"tiles" integer DEFAULT 0 NOT NULL,
	"message" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone,
	"finished_at" timestamp with time zone,
	"touched_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "twin_parts" (
	"hash" text NOT NULL,
	"part" integer NOT NULL,
	"bytes" "bytea" NOT NULL,
	CONSTRAINT "twin_parts_hash_part_pk" PRIMARY KEY("hash","part")
);
--> statement-breakpoint
CREATE TABLE "twins" (
	"hash" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"size" bigint NOT NULL,
	"touched_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE INDEX "bake_tiles_hash" ON "bake_tiles" USING btree ("hash");--> statement-breakpoint
CREATE INDEX "bakes_touched" ON "bakes" USING btree ("touched_at");