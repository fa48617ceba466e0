ALTER TABLE "pipelines" DROP CONSTRAINT "pipelines_name_unique";--> statement-breakpoint
ALTER TABLE "pipelines" ADD COLUMN "former_names" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "pipelines" ADD COLUMN "deleted_at" timestamp with time zone;--> statement-breakpoint
CREATE UNIQUE INDEX "pipeline_name" ON "pipelines" USING btree ("name") WHERE "pipelines"."deleted_at" IS NULL;