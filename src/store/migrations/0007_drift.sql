CREATE TABLE "run_drift" (
	"run_id" uuid PRIMARY KEY NOT NULL,
	"pipeline_id" integer NOT NULL,
	"model_id" integer NOT NULL,
	"run_time" timestamp with time zone NOT NULL,
	"rows" integer NOT NULL,
	"columns" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "run_drift" ADD CONSTRAINT "run_drift_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_drift" ADD CONSTRAINT "run_drift_pipeline_id_pipelines_id_fk" FOREIGN KEY ("pipeline_id") REFERENCES "public"."pipelines"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_drift" ADD CONSTRAINT "run_drift_model_id_model_versions_id_fk" FOREIGN KEY ("model_id") REFERENCES "public"."model_versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "drift_of_pipeline" ON "run_drift" USING btree ("pipeline_id","run_time");