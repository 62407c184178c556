ALTER TABLE "people" ADD COLUMN "subject" text;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "second_secret" text;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "second_pending" text;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "second_step" bigint;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "recovery" jsonb;--> statement-breakpoint
ALTER TABLE "sessions" ADD COLUMN "provided" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "people" ADD CONSTRAINT "people_subject_unique" UNIQUE("subject");