CREATE TABLE "connections" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"place" integer NOT NULL,
	"options" jsonb NOT NULL,
	CONSTRAINT "connections_name_unique" UNIQUE("name")
);
