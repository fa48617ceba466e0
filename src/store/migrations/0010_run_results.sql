CREATE TABLE "run_results" (
	"run_id" uuid NOT NULL,
	"name" text NOT NULL,
	"made_from" text NOT NULL,
	"value" jsonb NOT NULL,
	CONSTRAINT "run_results_run_id_name_pk" PRIMARY KEY("run_id","name")
);
--> statement-breakpoint
ALTER TABLE "run_results" ADD CONSTRAINT "run_results_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;