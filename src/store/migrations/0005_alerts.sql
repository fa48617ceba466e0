CREATE TABLE "alerts" (
	"id" serial PRIMARY KEY NOT NULL,
	"matter" text NOT NULL,
	"kind" text NOT NULL,
	"pipeline_id" integer NOT NULL,
	"title" text NOT NULL,
	"problems" jsonb NOT NULL,
	"run_id" uuid,
	"opened_at" timestamp with time zone DEFAULT now() NOT NULL,
	"last_at" timestamp with time zone DEFAULT now() NOT NULL,
	"times" integer DEFAULT 1 NOT NULL,
	"acknowledged_at" timestamp with time zone,
	"acknowledged_by" text,
	"cleared_at" timestamp with time zone,
	"cleared_with" text
);
--> statement-breakpoint
ALTER TABLE "schedules" ADD COLUMN "late_after" integer DEFAULT 30 NOT NULL;--> statement-breakpoint
ALTER TABLE "alerts" ADD CONSTRAINT "alerts_pipeline_id_pipelines_id_fk" FOREIGN KEY ("pipeline_id") REFERENCES "public"."pipelines"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "alerts" ADD CONSTRAINT "alerts_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "open_matter" ON "alerts" USING btree ("matter") WHERE "alerts"."cleared_at" IS NULL;--> statement-breakpoint
CREATE INDEX "alerts_by_time" ON "alerts" USING btree ("opened_at");