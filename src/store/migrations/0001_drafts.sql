CREATE TABLE "drafts" (
	"pipeline_id" integer PRIMARY KEY NOT NULL,
	"text" text NOT NULL,
	"based_on" integer NOT NULL,
	"revision" integer NOT NULL,
	"updated_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "drafts" ADD CONSTRAINT "drafts_pipeline_id_pipelines_id_fk" FOREIGN KEY ("pipeline_id") REFERENCES "public"."pipelines"("id") ON DELETE no action ON UPDATE no action;