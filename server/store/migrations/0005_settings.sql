CREATE TABLE "settings" (
	"id" text PRIMARY KEY NOT NULL,
	"version" integer NOT NULL,
	"value" jsonb NOT NULL
);
--> statement-breakpoint
INSERT INTO "settings" ("id", "version", "value")
SELECT CASE WHEN "id" IN ('letterhead', 'offered reports') THEN "id" ELSE 'source ' || "id" END, 1, "settings"
FROM "sources" WHERE "settings" IS NOT NULL;
--> statement-breakpoint
DELETE FROM "sources" WHERE "id" IN ('letterhead', 'offered reports');
--> statement-breakpoint
ALTER TABLE "sources" DROP COLUMN "settings";
