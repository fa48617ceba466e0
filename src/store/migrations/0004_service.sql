ALTER TABLE "model_versions" ADD COLUMN "retired_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "service_changes" ADD COLUMN "by" text;--> statement-breakpoint
ALTER TABLE "service_changes" ADD COLUMN "reason" text;