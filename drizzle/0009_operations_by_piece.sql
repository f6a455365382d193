DROP INDEX "operations_piece";--> statement-breakpoint
ALTER TABLE "operations" DROP CONSTRAINT "operations_pkey";--> statement-breakpoint
ALTER TABLE "operations" ADD CONSTRAINT "operations_piece_id_id_pk" PRIMARY KEY("piece_id","id");
