import { labFile, labTable } from "../../testing/lab";
import type { TestInstallation } from "../../testing/installation";

/** How much an installation holds that is opened. */
export interface Amounts {
  readonly tables: number;
  readonly pipelines: number;
  readonly runs: number;
}

const SCHEMAS = 40;
const ROWS_OF_A_TABLE = 500;
/** Versions of the model of each pipeline, and of its file. */
const MODELS = 4;
const FILES = 3;
const LAB_ROWS = 4000;
const RUN_TIME = "2026-06-30T12:00:00Z";

/** Tables of twelve columns each, spread over schemas, with a few rows and a comment. */
function manyTables(tables: number): string {
  return `DO $$ BEGIN
    FOR s IN 1..${SCHEMAS} LOOP EXECUTE format('CREATE SCHEMA area_%s', s); END LOOP;
    FOR t IN 1..${tables} LOOP
      EXECUTE format('CREATE TABLE area_%s.readings_%s AS SELECT id, id %% 7 AS site,
        now() - id * interval ''1 hour'' AS taken_at, id * 0.5 AS level, id * 1.5 AS flow,
        (id %% 3)::text AS grade, id * 2.5 AS depth, id %% 2 = 0 AS is_open, id * 3.5 AS weight_%s,
        md5(id::text) AS label, id * 4.5 AS slope, id %% 11 AS class
        FROM generate_series(1, ${ROWS_OF_A_TABLE}) id', 1 + t % ${SCHEMAS}, t, t);
      EXECUTE format('COMMENT ON TABLE area_%s.readings_%s IS ''Readings of gauge %s''', 1 + t % ${SCHEMAS},
        t, t);
      IF t % 200 = 0 THEN COMMIT; END IF;
    END LOOP;
  END $$`;
}

/**
 * Copies of the one pipeline that was trained: each with versions of its file and of its model, a schedule
 * and an alert now and then.
 */
const MANY_PIPELINES: readonly string[] = [
  `INSERT INTO pipelines (name, description) SELECT 'gauge-' || lpad(g::text, 3, '0'),
    'Predicts the next reading of gauge ' || g
    FROM generate_series(2, $1::int) g`,
  `INSERT INTO pipeline_versions (pipeline_id, number, text, plan_hash)
   SELECT p.id, n, replace(replace(v.text, 'name: lab', 'name: ' || p.name), 'lab.rows',
     format('area_%s.readings_%s', 1 + p.id % ${SCHEMAS}, p.id)), v.plan_hash
  
     FROM pipelines p
     CROSS
     JOIN generate_series(1, ${FILES}) n
     CROSS
     JOIN (SELECT v.*
     FROM pipeline_versions v
     JOIN pipelines o ON o.id = v.pipeline_id AND o.name = 'lab'
     ORDER BY v.number DESC LIMIT 1) v
     WHERE p.name <> 'lab'`,
  `INSERT INTO schedules (pipeline_id, name, run, delivery, cron, after, arrival, after_backfill, quiet_for,
    zone, missed, late_after, at_once, wait, done_until)
   SELECT p.id, s.name, s.run, s.delivery, s.cron, s.after, s.arrival, s.after_backfill, s.quiet_for, s.zone,
     s.missed, s.late_after, s.at_once, s.wait, s.done_until
  
     FROM pipelines p
     CROSS
     JOIN (SELECT s.*
     FROM schedules s
     JOIN pipelines o ON o.id = s.pipeline_id AND o.name = 'lab') s
     WHERE p.name <> 'lab'`,
];

/** Runs of the last hundred days, most of them done, with steps, statements and log lines. */
const MANY_RUNS: readonly string[] = [
  `INSERT INTO runs (kind, pipeline_id, pipeline_version_id, state, cause, run_time, attempt, rows, outcome,
    created_at, started_at, finished_at, options, slot)
   SELECT CASE WHEN g % 25 = 0 THEN 'train' ELSE 'score' END, p.id, v.id,
     CASE WHEN g % 40 = 0 THEN 'failed' ELSE 'done' END, 'schedule', at, 1, 500, '500 rows', at, at,
     at + interval '8 seconds', '{"delivery": "desk"}', 'bench ' || g
  
     FROM (SELECT g, now() - g * interval '7 minutes' AS at, 1 + g % $2::int AS place
     FROM generate_series(1, $1::int) g) s
   JOIN (SELECT id, row_number() OVER (ORDER BY id) AS place FROM pipelines) p USING (place)
  
     JOIN LATERAL (SELECT id
     FROM pipeline_versions v
     WHERE v.pipeline_id = p.id
     ORDER BY number DESC LIMIT 1) v ON true`,
  `INSERT INTO run_steps (run_id, position, attempt, name, state, rows, started_at, finished_at)
   SELECT r.id, n, 1, 'step ' || n, 'done', 500, r.started_at, r.finished_at
     FROM runs r
     CROSS
     JOIN generate_series(0, 5) n
     WHERE r.slot LIKE 'bench %'`,
  `INSERT INTO run_statements (run_id, step_id, purpose, sql, milliseconds, rows)
   SELECT s.run_id, s.id, 'do what the step does', repeat('SELECT 1; ', 60), 12, 500
     FROM run_steps s
     JOIN runs r ON r.id = s.run_id
     WHERE r.slot LIKE 'bench %'`,
  `INSERT INTO run_log (run_id, level, message) SELECT id, 'info', 'begun' FROM runs WHERE slot LIKE 'bench %'`,
  `INSERT INTO alerts (matter, kind, pipeline_id, title, problems, run_id, opened_at, cleared_at)
   SELECT 'bench ' || id, 'failed', pipeline_id, 'A scoring failed', '[]', id, created_at,
     created_at + interval '1 hour'
     FROM runs
     WHERE slot LIKE 'bench %' AND state = 'failed'`,
];

/** Versions of every copied pipeline, with all that the trained one keeps; the newest is in service. */
const MANY_MODELS: readonly string[] = [
  `WITH chosen AS (SELECT id, pipeline_id, pipeline_version_id, run_time,
    row_number() OVER (PARTITION BY pipeline_id
    ORDER BY created_at) AS number
    FROM runs
    WHERE slot LIKE 'bench %')
   INSERT INTO model_versions (pipeline_id, number, pipeline_version_id, run_id, candidate, plan_hash,
     code_version, run_time, learned, shape, model, metrics, buckets, judgement, engine, fit_seconds, data)
   SELECT c.pipeline_id, 100 + c.number, c.pipeline_version_id, c.id, m.candidate, m.plan_hash,
     m.code_version, c.run_time, m.learned, m.shape, m.model, m.metrics, m.buckets, m.judgement, m.engine,
     m.fit_seconds, m.data
   FROM chosen c CROSS JOIN (SELECT * FROM model_versions ORDER BY id LIMIT 1) m WHERE c.number <= ${MODELS}`,
  `UPDATE pipelines p SET in_service_model_id = (SELECT max(id)
    FROM model_versions m
    WHERE m.pipeline_id = p.id)
    WHERE in_service_model_id IS NULL`,
  "ANALYZE",
];

/**
 * Fills an installation: one pipeline is trained and scored for real, the others are copies of what that
 * left.
 * @returns the run and the version of the real one
 */
export async function fill(
  place: TestInstallation,
  { tables, pipelines, runs }: Amounts,
): Promise<{ readonly run: string; readonly model: number }> {
  await place.sql(labTable({ rows: LAB_ROWS }));
  await place.save(
    labFile({
      more: `schedules: [{name: nightly, run: score, delivery: desk, cron: "0 3 * * *"}]`,
    }),
  );
  const worker = await place.startWorker();
  await place.ended(await place.order("train", RUN_TIME));
  await place.serveNewest();
  const run = await place.order("score", RUN_TIME);
  await place.ended(run);
  await place.kill(worker);
  await place.sql(manyTables(tables));
  await place.sql("ANALYZE");
  const { pool } = place.context.store;
  for (const statement of MANY_PIPELINES)
    await pool.query(statement, statement.includes("$1") ? [pipelines] : []);
  for (const statement of MANY_RUNS)
    await pool.query(statement, statement.includes("$1") ? [runs, pipelines] : []);
  for (const statement of MANY_MODELS) await pool.query(statement);
  const { rows } = await pool.query<{ id: number }>("SELECT min(id) AS id FROM model_versions");
  return { run, model: rows[0]!.id };
}
