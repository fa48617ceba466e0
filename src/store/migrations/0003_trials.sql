CREATE TABLE "search_trials" (
	"id" serial PRIMARY KEY NOT NULL,
	"run_id" uuid NOT NULL,
	"number" integer NOT NULL,
	"choices" jsonb NOT NULL,
	"folds" jsonb NOT NULL,
	"score" double precision,
	"problem" text,
	"seconds" double precision NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "run_passes" ALTER COLUMN "gradient_norm" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "run_passes" ALTER COLUMN "step" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "model_versions" ADD COLUMN "judgement" jsonb;--> statement-breakpoint
ALTER TABLE "model_versions" ADD COLUMN "engine" text DEFAULT 'warehouse' NOT NULL;--> statement-breakpoint
ALTER TABLE "model_versions" ADD COLUMN "fit_seconds" double precision;--> statement-breakpoint
ALTER TABLE "model_versions" ADD COLUMN "note" text;--> statement-breakpoint
ALTER TABLE "model_versions" ADD COLUMN "starred" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "model_versions" ADD COLUMN "blind" jsonb;--> statement-breakpoint
ALTER TABLE "run_passes" ADD COLUMN "validation" double precision;--> statement-breakpoint
ALTER TABLE "search_trials" ADD CONSTRAINT "search_trials_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "trial_of_search" ON "search_trials" USING btree ("run_id","number");--> statement-breakpoint
UPDATE "model_versions" SET "model" = jsonb_set("model", '{coefficients}', (
  SELECT coalesce(jsonb_agg((each - 'z') || jsonb_build_object('ratio', each -> 'z')), '[]'::jsonb) FROM jsonb_array_elements("model" -> 'coefficients') AS each
)) WHERE "model" -> 'coefficients' IS NOT NULL;
