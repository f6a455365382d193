CREATE TABLE "drawn" (
	"piece_id" text NOT NULL,
	"sheet_id" text NOT NULL,
	"part" integer NOT NULL,
	"build" text NOT NULL,
	"bytes" "bytea" NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "drawn_piece_id_sheet_id_part_pk" PRIMARY KEY("piece_id","sheet_id","part")
);
