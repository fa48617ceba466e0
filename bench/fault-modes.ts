import { unwrap } from "@/core/problem";
import { orderBackfill } from "@/runs/backfill";
import { backfillById } from "@/store/backfills";
import { labFile, labTable } from "../testing/lab";
import { until, type TestInstallation } from "../testing/installation";
import type { FaultResult } from "./fault-suite";

/** Every mode of a delivery with every choice of rows that goes with it. */
const DELIVERIES: readonly (readonly [mode: string, rows: string])[] = [
  ["append", "all"],
  ["append", "not_yet_predicted"],
  ["append", "{newer_by: seen}"],
  ["upsert", "all"],
  ["upsert", "not_yet_predicted"],
  ["upsert", "{newer_by: seen}"],
  ["replace", "all"],
  ["partition, partition: seen", "all"],
];
const ROWS = 2000;
const PARALLEL = 8;
const FROM = new Date("2026-05-03T00:00:00Z");
const UNTIL = new Date("2026-05-24T00:00:00Z");
/** How long a backfill is under way before a worker is killed, in milliseconds. */
const KILLS = [1200, 2600, 4000];

const MOST_SECONDS = 600;

/** Saves, trains and serves a pipeline of one delivery, whose rows grow from day to day. */
async function serve(place: TestInstallation, name: string, mode: string, rows: string): Promise<void> {
  await place.save(
    labFile({
      name,
      from: "lab.days",
      train: "answer is not null",
      score: "'seen < cast(run_time() as date)'",
      delivery: `{name: desk, table: predictions.${name}, mode: ${mode}, rows: ${rows}, columns: [seen]}`,
    }),
  );
  const worker = await place.startWorker();
  await place.ended(await place.order("train", "2026-06-30T12:00:00Z", name));
  await place.serveNewest(name);
  await place.kill(worker);
}

/** Catches up a range of days with two workers, killing one of them some times. */
async function catchUp(
  place: TestInstallation,
  pipeline: string,
  parallel: number,
  kills: readonly number[],
): Promise<string> {
  const workers = await Promise.all([place.startWorker(), place.startWorker()]);
  const { id } = unwrap(
    await orderBackfill(place.context, {
      pipeline,
      from: FROM,
      until: UNTIL,
      cron: "0 */12 * * *",
      parallel,
    }),
  );
  for (const milliseconds of kills) {
    await new Promise((resolve) => setTimeout(resolve, milliseconds));
    await place.kill(workers.shift()!);
    await place.lapse();
    workers.push(await place.startWorker());
  }
  const ended = await until(
    `the end of the backfill of ${pipeline}`,
    async () => {
      const found = await backfillById(place.context.store.db, id);
      return found && found.state !== "running" && found.state;
    },
    MOST_SECONDS,
  );
  for (const worker of workers) await place.kill(worker);
  const { rows } = await place.context.store.pool.query<{ state: string; runs: number }>(
    "SELECT state, count(*)::int AS runs FROM runs WHERE backfill_id = $1 GROUP BY state ORDER BY state",
    [id],
  );
  return `${ended}: ${rows.map((row) => `${row.runs} ${row.state}`).join(", ")}`;
}

/**
 * Catches up in parallel, with workers killed in the middle, in every mode with every choice of rows, and counts by key against what
 * one run after the other gives.
 */
export async function backfillModes(
  place: TestInstallation,
  say: (line: string) => void,
): Promise<readonly FaultResult[]> {
  await place.sql(labTable({ table: "lab.days", rows: ROWS }));
  const results: FaultResult[] = [];
  for (const [index, [mode, rows]] of DELIVERIES.entries()) {
    const [plain, faulty] = [`days_${index}_plain`, `days_${index}_faulty`];
    await serve(place, plain, mode, rows);
    await catchUp(place, plain, 1, []);
    await serve(place, faulty, mode, rows);
    const ended = await catchUp(place, faulty, PARALLEL, KILLS);
    const counted = (table: string): string =>
      `(SELECT id, count(*) AS n FROM predictions.${table} GROUP BY id)`;
    const [found] = await place.sql(
      `SELECT coalesce(sum(greatest(coalesce(p.n, 0) - coalesce(f.n, 0), 0)), 0)::int AS lost, coalesce(sum(greatest(coalesce(f.n, 0) - coalesce(p.n, 0), 0)), 0)::int AS doubled, count(*)::int AS keys,
         (SELECT coalesce(bool_and(coalesce(l.rows, -1) >= r.rows), false) FROM (SELECT run_id, count(*) AS rows FROM predictions.${faulty} GROUP BY run_id) r LEFT JOIN predictions.ravlen_ledger l USING (run_id)) AS ledger
       FROM ${counted(plain)} p FULL JOIN ${counted(faulty)} f USING (id)`,
    );
    const result: FaultResult = {
      fault: `${mode}, rows: ${rows}: ${PARALLEL} at once, ${KILLS.length} workers killed, ${String(found!["keys"])} keys`,
      ended,
      lost: Number(found!["lost"]),
      doubled: Number(found!["doubled"]),
      // Later runs take rows over, so a run may have landed more than it still has.
      ledger: found!["ledger"] === true,
      scratch: (await place.leftovers()).length,
      held: ended.startsWith("done") && !ended.includes("failed") && Number(found!["keys"]) > 0,
    };
    results.push(result);
    say(`${result.fault}: ${result.ended}, lost ${result.lost}, doubled ${result.doubled}`);
  }
  return results;
}
