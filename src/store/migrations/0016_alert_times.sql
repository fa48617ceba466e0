ALTER TABLE "alerts" ADD COLUMN "run_time" timestamp with time zone;--> statement-breakpoint
UPDATE "alerts" SET "cleared_at" = now(), "cleared_with" = 'told anew, by the name of what it is about' WHERE "cleared_at" IS NULL AND "matter" ~ '^(score|train):[0-9]+:$';
