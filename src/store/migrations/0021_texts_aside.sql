CREATE TABLE "texts_aside" (
	"id" serial PRIMARY KEY NOT NULL,
	"pipeline_id" integer NOT NULL,
	"text" text NOT NULL,
	"based_on" integer NOT NULL,
	"whose" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "texts_aside" ADD CONSTRAINT "texts_aside_pipeline_id_pipelines_id_fk" FOREIGN KEY ("pipeline_id") REFERENCES "public"."pipelines"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "texts_aside_newest" ON "texts_aside" USING btree ("pipeline_id","created_at");