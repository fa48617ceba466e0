ALTER TABLE "schedules" ALTER COLUMN "cron" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "schedules" ADD COLUMN "after" text;--> statement-breakpoint
ALTER TABLE "schedules" ADD COLUMN "arrival" text;--> statement-breakpoint
ALTER TABLE "schedules" ADD COLUMN "seen" text;