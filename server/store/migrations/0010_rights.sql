CREATE TABLE "publications" (
	"id" text PRIMARY KEY NOT NULL,
	"report_id" text NOT NULL,
	"version" integer NOT NULL,
	"state" text NOT NULL,
	"changes" jsonb NOT NULL,
	"person_id" text,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"second_id" text,
	"second_at" timestamp with time zone
);--> statement-breakpoint
CREATE TABLE "report_teams" (
	"report_id" text NOT NULL,
	"team_id" text NOT NULL,
	"right" text NOT NULL,
	CONSTRAINT "report_teams_report_id_team_id_right_pk" PRIMARY KEY("report_id","team_id","right")
);--> statement-breakpoint
ALTER TABLE "saved_answers" DROP CONSTRAINT "saved_answers_report_id_name_pk";--> statement-breakpoint
ALTER TABLE "pinned_rows" DROP CONSTRAINT "pinned_rows_pkey";--> statement-breakpoint
ALTER TABLE "pinned_rows" ADD COLUMN "sight" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "refresh_addresses" ADD COLUMN "person_id" text;--> statement-breakpoint
ALTER TABLE "reports" ADD COLUMN "owner_id" text;--> statement-breakpoint
ALTER TABLE "reports" ADD COLUMN "editing" text DEFAULT 'all' NOT NULL;--> statement-breakpoint
ALTER TABLE "reports" ADD COLUMN "to_all" boolean DEFAULT true NOT NULL;--> statement-breakpoint
ALTER TABLE "saved_answers" ADD COLUMN "person_id" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "shelves" ADD COLUMN "team_id" text;--> statement-breakpoint
ALTER TABLE "shelves" ADD COLUMN "release" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "pinned_rows" ADD CONSTRAINT "pinned_rows_report_id_sight_pk" PRIMARY KEY("report_id","sight");--> statement-breakpoint
ALTER TABLE "saved_answers" ADD CONSTRAINT "saved_answers_report_id_person_id_name_pk" PRIMARY KEY("report_id","person_id","name");--> statement-breakpoint
ALTER TABLE "publications" ADD CONSTRAINT "publications_report_id_reports_id_fk" FOREIGN KEY ("report_id") REFERENCES "public"."reports"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "report_teams" ADD CONSTRAINT "report_teams_report_id_reports_id_fk" FOREIGN KEY ("report_id") REFERENCES "public"."reports"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "report_teams" ADD CONSTRAINT "report_teams_team_id_teams_id_fk" FOREIGN KEY ("team_id") REFERENCES "public"."teams"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "publications_report" ON "publications" USING btree ("report_id");--> statement-breakpoint
CREATE INDEX "report_teams_team" ON "report_teams" USING btree ("team_id");--> statement-breakpoint
ALTER TABLE "shelves" ADD CONSTRAINT "shelves_team_id_teams_id_fk" FOREIGN KEY ("team_id") REFERENCES "public"."teams"("id") ON DELETE no action ON UPDATE no action;
