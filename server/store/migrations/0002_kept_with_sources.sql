CREATE TABLE "pinned_rows" (
	"report_id" text PRIMARY KEY NOT NULL,
	"answers" jsonb NOT NULL,
	"rows" "bytea" NOT NULL,
	"pinned_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "saved_answers" (
	"report_id" text NOT NULL,
	"name" text NOT NULL,
	"answers" jsonb NOT NULL,
	CONSTRAINT "saved_answers_report_id_name_pk" PRIMARY KEY("report_id","name")
);
--> statement-breakpoint
CREATE TABLE "sources" (
	"id" text PRIMARY KEY NOT NULL,
	"settings" jsonb NOT NULL,
	"catalog" jsonb
);
--> statement-breakpoint
ALTER TABLE "pinned_rows" ADD CONSTRAINT "pinned_rows_report_id_reports_id_fk" FOREIGN KEY ("report_id") REFERENCES "public"."reports"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "saved_answers" ADD CONSTRAINT "saved_answers_report_id_reports_id_fk" FOREIGN KEY ("report_id") REFERENCES "public"."reports"("id") ON DELETE cascade ON UPDATE no action;