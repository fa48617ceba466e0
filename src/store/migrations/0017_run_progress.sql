ALTER TABLE "runs" ADD COLUMN "progress" jsonb;--> statement-breakpoint
ALTER TABLE "runs" ADD COLUMN "moved_at" timestamp with time zone;