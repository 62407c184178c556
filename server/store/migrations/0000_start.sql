CREATE TABLE "facts" (
	"name" text PRIMARY KEY NOT NULL,
	"value" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "reports" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"shelf_id" text NOT NULL,
	"place" integer NOT NULL,
	"draft" integer NOT NULL,
	"published" integer,
	CONSTRAINT "reports_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "shelves" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"place" integer NOT NULL,
	CONSTRAINT "shelves_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "report_versions" (
	"report_id" text NOT NULL,
	"number" integer NOT NULL,
	"based_on" integer,
	"state" text NOT NULL,
	"definition" jsonb NOT NULL,
	"saved_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "report_versions_report_id_number_pk" PRIMARY KEY("report_id","number")
);
--> statement-breakpoint
ALTER TABLE "reports" ADD CONSTRAINT "reports_shelf_id_shelves_id_fk" FOREIGN KEY ("shelf_id") REFERENCES "public"."shelves"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "report_versions" ADD CONSTRAINT "report_versions_report_id_reports_id_fk" FOREIGN KEY ("report_id") REFERENCES "public"."reports"("id") ON DELETE cascade ON UPDATE no action;