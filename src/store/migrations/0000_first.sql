CREATE TABLE "model_versions" (
	"id" serial PRIMARY KEY NOT NULL,
	"pipeline_id" integer NOT NULL,
	"number" integer NOT NULL,
	"pipeline_version_id" integer NOT NULL,
	"run_id" uuid NOT NULL,
	"candidate" text NOT NULL,
	"plan_hash" text NOT NULL,
	"code_version" text NOT NULL,
	"run_time" timestamp with time zone NOT NULL,
	"learned" jsonb NOT NULL,
	"shape" jsonb NOT NULL,
	"model" jsonb NOT NULL,
	"metrics" jsonb NOT NULL,
	"buckets" jsonb NOT NULL,
	"data" jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "model_versions_run_id_unique" UNIQUE("run_id")
);
--> statement-breakpoint
CREATE TABLE "pipeline_versions" (
	"id" serial PRIMARY KEY NOT NULL,
	"pipeline_id" integer NOT NULL,
	"number" integer NOT NULL,
	"text" text NOT NULL,
	"note" text,
	"plan_hash" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "pipelines" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"description" text,
	"in_service_model_id" integer,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "pipelines_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "run_log" (
	"id" serial PRIMARY KEY NOT NULL,
	"run_id" uuid NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"level" text NOT NULL,
	"message" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "run_passes" (
	"id" serial PRIMARY KEY NOT NULL,
	"run_id" uuid NOT NULL,
	"attempt" integer NOT NULL,
	"pass" integer NOT NULL,
	"scope" text NOT NULL,
	"loss" double precision NOT NULL,
	"gradient_norm" double precision NOT NULL,
	"step" double precision NOT NULL
);
--> statement-breakpoint
CREATE TABLE "run_statements" (
	"id" serial PRIMARY KEY NOT NULL,
	"run_id" uuid NOT NULL,
	"step_id" integer NOT NULL,
	"purpose" text NOT NULL,
	"sql" text NOT NULL,
	"milliseconds" double precision NOT NULL,
	"rows" double precision
);
--> statement-breakpoint
CREATE TABLE "run_steps" (
	"id" serial PRIMARY KEY NOT NULL,
	"run_id" uuid NOT NULL,
	"position" integer NOT NULL,
	"attempt" integer NOT NULL,
	"name" text NOT NULL,
	"state" text NOT NULL,
	"rows" double precision,
	"detail" text,
	"started_at" timestamp with time zone DEFAULT now() NOT NULL,
	"finished_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "runs" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"kind" text NOT NULL,
	"pipeline_id" integer NOT NULL,
	"pipeline_version_id" integer NOT NULL,
	"options" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"state" text DEFAULT 'queued' NOT NULL,
	"cause" text NOT NULL,
	"run_time" timestamp with time zone NOT NULL,
	"slot" text,
	"attempt" integer DEFAULT 0 NOT NULL,
	"worker" text,
	"heartbeat_at" timestamp with time zone,
	"cancel_asked" boolean DEFAULT false NOT NULL,
	"problems" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"rows" double precision,
	"outcome" text,
	"model_id" integer,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone,
	"finished_at" timestamp with time zone,
	CONSTRAINT "runs_slot_unique" UNIQUE("slot")
);
--> statement-breakpoint
CREATE TABLE "schedules" (
	"id" serial PRIMARY KEY NOT NULL,
	"pipeline_id" integer NOT NULL,
	"name" text NOT NULL,
	"run" text NOT NULL,
	"delivery" text,
	"cron" text NOT NULL,
	"zone" text NOT NULL,
	"missed" text NOT NULL,
	"paused" boolean DEFAULT false NOT NULL,
	"done_until" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "service_changes" (
	"id" serial PRIMARY KEY NOT NULL,
	"pipeline_id" integer NOT NULL,
	"model_id" integer,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "settings" (
	"key" text PRIMARY KEY NOT NULL,
	"value" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "warehouses" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"reader_encrypted" text NOT NULL,
	"writer_encrypted" text NOT NULL,
	"output_schema" text NOT NULL,
	"scratch_schema" text NOT NULL,
	CONSTRAINT "warehouses_name_unique" UNIQUE("name")
);
--> statement-breakpoint
CREATE TABLE "workers" (
	"name" text PRIMARY KEY NOT NULL,
	"started_at" timestamp with time zone NOT NULL,
	"seen_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "model_versions" ADD CONSTRAINT "model_versions_pipeline_id_pipelines_id_fk" FOREIGN KEY ("pipeline_id") REFERENCES "public"."pipelines"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "model_versions" ADD CONSTRAINT "model_versions_pipeline_version_id_pipeline_versions_id_fk" FOREIGN KEY ("pipeline_version_id") REFERENCES "public"."pipeline_versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "model_versions" ADD CONSTRAINT "model_versions_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pipeline_versions" ADD CONSTRAINT "pipeline_versions_pipeline_id_pipelines_id_fk" FOREIGN KEY ("pipeline_id") REFERENCES "public"."pipelines"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_log" ADD CONSTRAINT "run_log_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_passes" ADD CONSTRAINT "run_passes_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_statements" ADD CONSTRAINT "run_statements_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_statements" ADD CONSTRAINT "run_statements_step_id_run_steps_id_fk" FOREIGN KEY ("step_id") REFERENCES "public"."run_steps"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_steps" ADD CONSTRAINT "run_steps_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "runs" ADD CONSTRAINT "runs_pipeline_id_pipelines_id_fk" FOREIGN KEY ("pipeline_id") REFERENCES "public"."pipelines"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "runs" ADD CONSTRAINT "runs_pipeline_version_id_pipeline_versions_id_fk" FOREIGN KEY ("pipeline_version_id") REFERENCES "public"."pipeline_versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "schedules" ADD CONSTRAINT "schedules_pipeline_id_pipelines_id_fk" FOREIGN KEY ("pipeline_id") REFERENCES "public"."pipelines"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "service_changes" ADD CONSTRAINT "service_changes_pipeline_id_pipelines_id_fk" FOREIGN KEY ("pipeline_id") REFERENCES "public"."pipelines"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "service_changes" ADD CONSTRAINT "service_changes_model_id_model_versions_id_fk" FOREIGN KEY ("model_id") REFERENCES "public"."model_versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "model_version_number" ON "model_versions" USING btree ("pipeline_id","number");--> statement-breakpoint
CREATE UNIQUE INDEX "pipeline_version_number" ON "pipeline_versions" USING btree ("pipeline_id","number");--> statement-breakpoint
CREATE INDEX "log_of_run" ON "run_log" USING btree ("run_id");--> statement-breakpoint
CREATE INDEX "passes_of_run" ON "run_passes" USING btree ("run_id");--> statement-breakpoint
CREATE INDEX "statements_of_run" ON "run_statements" USING btree ("run_id");--> statement-breakpoint
CREATE INDEX "steps_of_run" ON "run_steps" USING btree ("run_id","position");--> statement-breakpoint
CREATE INDEX "runs_newest" ON "runs" USING btree ("created_at");--> statement-breakpoint
CREATE INDEX "runs_of_pipeline" ON "runs" USING btree ("pipeline_id","created_at");--> statement-breakpoint
CREATE UNIQUE INDEX "schedule_name" ON "schedules" USING btree ("pipeline_id","name");