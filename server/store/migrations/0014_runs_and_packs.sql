CREATE TABLE "deliveries" (
	"id" text PRIMARY KEY NOT NULL,
	"pack_run_id" text NOT NULL,
	"place" integer NOT NULL,
	"recipient" text NOT NULL,
	"kind" text NOT NULL,
	"to" jsonb NOT NULL,
	"about" text NOT NULL,
	"content" jsonb NOT NULL,
	"state" text NOT NULL,
	"message_id" text NOT NULL,
	"attempts" integer DEFAULT 0 NOT NULL,
	"not_before" timestamp with time zone,
	"said" text,
	"at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "pack_runs" (
	"id" text PRIMARY KEY NOT NULL,
	"pack_id" text NOT NULL,
	"name" text NOT NULL,
	"definition" jsonb NOT NULL,
	"occasion" text,
	"folder" text NOT NULL,
	"person" text NOT NULL,
	"person_id" text,
	"person_name" text,
	"answers" jsonb NOT NULL,
	"asked" jsonb NOT NULL,
	"dry" boolean DEFAULT false NOT NULL,
	"state" text NOT NULL,
	"instance" text,
	"lease_until" timestamp with time zone,
	"attempt" integer DEFAULT 0 NOT NULL,
	"stopped" boolean DEFAULT false NOT NULL,
	"created_at" timestamp with time zone NOT NULL,
	"moment" timestamp with time zone,
	"ended_at" timestamp with time zone,
	"progress" jsonb,
	"ties" jsonb,
	"sentences" jsonb,
	"files" jsonb NOT NULL,
	"decided_by" text,
	"decided_at" timestamp with time zone,
	"reason" text
);
--> statement-breakpoint
CREATE TABLE "packs" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"place" integer NOT NULL,
	"version" integer NOT NULL,
	"definition" jsonb NOT NULL,
	"owner_id" text,
	"since" timestamp with time zone,
	CONSTRAINT "packs_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "runs" (
	"id" text PRIMARY KEY NOT NULL,
	"folder" text NOT NULL,
	"report_id" text NOT NULL,
	"version" integer,
	"name" text NOT NULL,
	"layout" text,
	"person" text NOT NULL,
	"person_id" text,
	"person_name" text,
	"looked_as" jsonb,
	"answers" jsonb NOT NULL,
	"asked" jsonb NOT NULL,
	"sources" jsonb NOT NULL,
	"sights" jsonb NOT NULL,
	"generations" jsonb NOT NULL,
	"state" text NOT NULL,
	"instance" text,
	"lease_until" timestamp with time zone,
	"attempt" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone NOT NULL,
	"ended_at" timestamp with time zone,
	"stopped" boolean DEFAULT false NOT NULL,
	"pages" integer DEFAULT 0 NOT NULL,
	"rows" jsonb,
	"ms" jsonb,
	"tie_outs" jsonb,
	"sentences" jsonb,
	"files" jsonb NOT NULL,
	"pinned" boolean DEFAULT false NOT NULL,
	"pack_run_id" text,
	"part" text
);
--> statement-breakpoint
ALTER TABLE "deliveries" ADD CONSTRAINT "deliveries_pack_run_id_pack_runs_id_fk" FOREIGN KEY ("pack_run_id") REFERENCES "public"."pack_runs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "runs" ADD CONSTRAINT "runs_pack_run_id_pack_runs_id_fk" FOREIGN KEY ("pack_run_id") REFERENCES "public"."pack_runs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "deliveries_place" ON "deliveries" USING btree ("pack_run_id","place");--> statement-breakpoint
CREATE INDEX "deliveries_state" ON "deliveries" USING btree ("state");--> statement-breakpoint
CREATE UNIQUE INDEX "pack_runs_occasion" ON "pack_runs" USING btree ("pack_id","occasion");--> statement-breakpoint
CREATE INDEX "pack_runs_created" ON "pack_runs" USING btree ("created_at");--> statement-breakpoint
CREATE INDEX "pack_runs_state" ON "pack_runs" USING btree ("state");--> statement-breakpoint
CREATE INDEX "runs_pack" ON "runs" USING btree ("pack_run_id");--> statement-breakpoint
CREATE INDEX "runs_created" ON "runs" USING btree ("created_at");--> statement-breakpoint
CREATE INDEX "runs_report" ON "runs" USING btree ("report_id");--> statement-breakpoint
CREATE INDEX "runs_state" ON "runs" USING btree ("state");