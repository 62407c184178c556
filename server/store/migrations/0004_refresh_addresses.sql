CREATE TABLE "refresh_addresses" (
	"id" text PRIMARY KEY NOT NULL,
	"report_id" text NOT NULL,
	"label" text NOT NULL,
	"token_hash" text NOT NULL,
	"answers" jsonb NOT NULL,
	"output" jsonb NOT NULL,
	"until" date NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"revoked_at" timestamp with time zone,
	"last_used_at" timestamp with time zone,
	"uses" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "refresh_addresses_token_hash_unique" UNIQUE("token_hash")
);
--> statement-breakpoint
ALTER TABLE "refresh_addresses" ADD CONSTRAINT "refresh_addresses_report_id_reports_id_fk" FOREIGN KEY ("report_id") REFERENCES "public"."reports"("id") ON DELETE cascade ON UPDATE no action;