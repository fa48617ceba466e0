CREATE TABLE "backfills" (
	"id" serial PRIMARY KEY NOT NULL,
	"pipeline_id" integer NOT NULL,
	"delivery" text NOT NULL,
	"model_id" integer,
	"cron" text NOT NULL,
	"zone" text NOT NULL,
	"from_time" timestamp with time zone NOT NULL,
	"until_time" timestamp with time zone NOT NULL,
	"total" integer NOT NULL,
	"parallel" integer NOT NULL,
	"done_until" timestamp with time zone NOT NULL,
	"state" text DEFAULT 'running' NOT NULL,
	"by" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "truth_days" (
	"pipeline_id" integer NOT NULL,
	"delivery" text NOT NULL,
	"model_id" integer NOT NULL,
	"day" date NOT NULL,
	"predicted" integer NOT NULL,
	"answered" integer NOT NULL,
	"figures" jsonb NOT NULL,
	"measured_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "truth_days_pipeline_id_delivery_model_id_day_pk" PRIMARY KEY("pipeline_id","delivery","model_id","day")
);
--> statement-breakpoint
ALTER TABLE "model_versions" ADD COLUMN "challenge" jsonb;--> statement-breakpoint
ALTER TABLE "runs" ADD COLUMN "not_before" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "runs" ADD COLUMN "waits_for" text;--> statement-breakpoint
ALTER TABLE "runs" ADD COLUMN "retried_at_attempt" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "runs" ADD COLUMN "backfill_id" integer;--> statement-breakpoint
ALTER TABLE "schedules" ADD COLUMN "left_out" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "schedules" ADD COLUMN "wait" jsonb;--> statement-breakpoint
ALTER TABLE "schedules" ADD COLUMN "at_once" integer DEFAULT 2 NOT NULL;--> statement-breakpoint
ALTER TABLE "backfills" ADD CONSTRAINT "backfills_pipeline_id_pipelines_id_fk" FOREIGN KEY ("pipeline_id") REFERENCES "public"."pipelines"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "backfills" ADD CONSTRAINT "backfills_model_id_model_versions_id_fk" FOREIGN KEY ("model_id") REFERENCES "public"."model_versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "truth_days" ADD CONSTRAINT "truth_days_pipeline_id_pipelines_id_fk" FOREIGN KEY ("pipeline_id") REFERENCES "public"."pipelines"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "truth_days" ADD CONSTRAINT "truth_days_model_id_model_versions_id_fk" FOREIGN KEY ("model_id") REFERENCES "public"."model_versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "runs_of_backfill" ON "runs" USING btree ("backfill_id");