CREATE TABLE "imports" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"path" text NOT NULL,
	"bytes" double precision NOT NULL,
	"state" text DEFAULT 'looking' NOT NULL,
	"wishes" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"look" jsonb,
	"choices" jsonb,
	"done_bytes" double precision DEFAULT 0 NOT NULL,
	"done_rows" double precision DEFAULT 0 NOT NULL,
	"rejected" double precision DEFAULT 0 NOT NULL,
	"cancel_asked" boolean DEFAULT false NOT NULL,
	"worker" text,
	"heartbeat_at" timestamp with time zone,
	"problems" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"misfits" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"stage_started_at" timestamp with time zone,
	"finished_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "table_facts" (
	"schema_name" text NOT NULL,
	"table_name" text NOT NULL,
	"description" text,
	"column_descriptions" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"profile" jsonb,
	"profiled_at" timestamp with time zone,
	"profile_asked_at" timestamp with time zone,
	"profile_problem" text,
	"refresh_hours" integer,
	CONSTRAINT "table_facts_schema_name_table_name_pk" PRIMARY KEY("schema_name","table_name")
);
--> statement-breakpoint
ALTER TABLE "warehouses" ADD COLUMN "import_schema" text DEFAULT 'imported' NOT NULL;--> statement-breakpoint
CREATE INDEX "imports_newest" ON "imports" USING btree ("created_at");