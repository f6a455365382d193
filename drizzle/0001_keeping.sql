CREATE TABLE "strokes" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"piece_id" text NOT NULL,
	"step" integer,
	"record" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "blobs" ADD COLUMN "touched_at" timestamp with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
ALTER TABLE "operations" ADD COLUMN "at" timestamp with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
ALTER TABLE "trail" ADD COLUMN "op" text;--> statement-breakpoint
CREATE INDEX "strokes_piece" ON "strokes" USING btree ("piece_id","step");--> statement-breakpoint
CREATE INDEX "piece_tiles_hash" ON "piece_tiles" USING btree ("hash");