ALTER TABLE "workers" ADD COLUMN "takes_large" boolean DEFAULT true NOT NULL;--> statement-breakpoint
ALTER TABLE "runs" ADD COLUMN "workload" jsonb;--> statement-breakpoint
ALTER TABLE "runs" ADD COLUMN "reserved_bytes" double precision;