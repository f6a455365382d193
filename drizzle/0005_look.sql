ALTER TABLE "pieces" ADD COLUMN "look" jsonb;--> statement-breakpoint
ALTER TABLE "pieces" ADD COLUMN "look_picture" "bytea";--> statement-breakpoint
ALTER TABLE "pieces" ADD COLUMN "look_at" timestamp with time zone;