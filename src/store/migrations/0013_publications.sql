CREATE TABLE "publications" (
	"pipeline_id" integer PRIMARY KEY NOT NULL,
	"behind_since" timestamp with time zone,
	"problem" text,
	"names" jsonb DEFAULT '[]'::jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "publications" ADD CONSTRAINT "publications_pipeline_id_pipelines_id_fk" FOREIGN KEY ("pipeline_id") REFERENCES "public"."pipelines"("id") ON DELETE no action ON UPDATE no action;