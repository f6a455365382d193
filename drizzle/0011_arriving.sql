CREATE TABLE "arriving" (
	"name" text PRIMARY KEY NOT NULL,
	"title" text NOT NULL,
	"there" boolean DEFAULT false NOT NULL,
	"fault" text
);
