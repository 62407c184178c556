CREATE TABLE "pack_occasions" (
	"pack_id" text NOT NULL,
	"occasion" text NOT NULL,
	"state" text NOT NULL,
	"run_id" text,
	"at" timestamp with time zone NOT NULL,
	CONSTRAINT "pack_occasions_pack_id_occasion_pk" PRIMARY KEY("pack_id","occasion")
);
--> statement-breakpoint
ALTER TABLE "pack_occasions" ADD CONSTRAINT "pack_occasions_pack_id_packs_id_fk" FOREIGN KEY ("pack_id") REFERENCES "public"."packs"("id") ON DELETE cascade ON UPDATE no action;