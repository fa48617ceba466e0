CREATE TABLE "scratch_seals" (
	"run_id" uuid NOT NULL,
	"table_name" text NOT NULL,
	"purpose" text NOT NULL,
	"made_from" text NOT NULL,
	"rows" double precision NOT NULL,
	"sealed_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "scratch_seals_run_id_table_name_pk" PRIMARY KEY("run_id","table_name")
);
--> statement-breakpoint
ALTER TABLE "scratch_seals" ADD CONSTRAINT "scratch_seals_run_id_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."runs"("id") ON DELETE no action ON UPDATE no action;