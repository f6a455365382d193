CREATE TABLE "house" (
	"id" text PRIMARY KEY NOT NULL,
	"written_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
INSERT INTO "house" ("id") VALUES (gen_random_uuid()::text);
--> statement-breakpoint
DELETE FROM "drawn" t WHERE NOT EXISTS (SELECT 1 FROM "pieces" p WHERE p."id" = t."piece_id");
--> statement-breakpoint
DELETE FROM "operations" t WHERE NOT EXISTS (SELECT 1 FROM "pieces" p WHERE p."id" = t."piece_id");
--> statement-breakpoint
DELETE FROM "piece_tiles" t WHERE NOT EXISTS (SELECT 1 FROM "pieces" p WHERE p."id" = t."piece_id");
--> statement-breakpoint
DELETE FROM "strokes" t WHERE NOT EXISTS (SELECT 1 FROM "pieces" p WHERE p."id" = t."piece_id");
--> statement-breakpoint
DELETE FROM "trail" t WHERE NOT EXISTS (SELECT 1 FROM "pieces" p WHERE p."id" = t."piece_id");
--> statement-breakpoint
ALTER TABLE "drawn" ADD CONSTRAINT "drawn_piece_id_pieces_id_fk" FOREIGN KEY ("piece_id") REFERENCES "public"."pieces"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "operations" ADD CONSTRAINT "operations_piece_id_pieces_id_fk" FOREIGN KEY ("piece_id") REFERENCES "public"."pieces"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "piece_tiles" ADD CONSTRAINT "piece_tiles_piece_id_pieces_id_fk" FOREIGN KEY ("piece_id") REFERENCES "public"."pieces"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "strokes" ADD CONSTRAINT "strokes_piece_id_pieces_id_fk" FOREIGN KEY ("piece_id") REFERENCES "public"."pieces"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trail" ADD CONSTRAINT "trail_piece_id_pieces_id_fk" FOREIGN KEY ("piece_id") REFERENCES "public"."pieces"("id") ON DELETE cascade ON UPDATE no action;