import { formatNumber } from "@/core/format/numbers";
import { describeProgress } from "@/core/format/progress";
import { describeWait } from "@/core/schedule/describe-wait";
import { forecastWait } from "@/runs/capacity/forecast";
import type { Context } from "@/runs/context";
import { runById, runRecord, type RunRow } from "@/store/runs";

const FINAL = new Set(["done", "failed", "cancelled"]);

/** How often it is said how far a step has come. */
const PROGRESS_MILLISECONDS = 10_000;
/** What a run waits for is said less and less often, but at least this often. */
const MOST_PATIENCE = 5 * 60_000;

export const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => void setTimeout(resolve, milliseconds));

/** Follows a run to its end, printing its steps as they are done when somebody shall hear of them. */
export async function follow(context: Context, id: string, talk: boolean): Promise<RunRow> {
  let [shown, warned] = [0, 0];
  let told = { what: "", at: Date.now() };
  let patience = PROGRESS_MILLISECONDS;
  for (;;) {
    const run = await runById(context.store.db, id);
    if (!run) throw new Error(`run ${id} is gone`);
    if (talk) {
      const { steps, log } = await runRecord(context.store.db, id);
      for (const step of steps.slice(shown)) {
        if (step.state === "running") break;
        process.stderr.write(
          `  ${step.name}${step.rows === null ? "" : `, ${formatNumber(step.rows)} rows`}${step.detail ? `: ${step.detail}` : ""}\n`,
        );
        shown += 1;
      }
      const what = run.progress ? describeProgress(run.progress) : "";
      if (what !== "" && what !== told.what && Date.now() - told.at > PROGRESS_MILLISECONDS) {
        process.stderr.write(`    ${what}\n`);
        told = { what, at: Date.now() };
      }
      for (const warning of log.filter((entry) => entry.level === "warning").slice(warned)) {
        process.stderr.write(`  ! ${warning.message}\n`);
        warned += 1;
      }
    }
    if (talk && run.state === "queued" && run.waitsFor === null && Date.now() - told.at > patience) {
      patience = Math.min(2 * patience, MOST_PATIENCE);
      const what = describeWait(await forecastWait(context.store, run, new Date()));
      process.stderr.write(`    ${what}\n`);
      told = { what, at: Date.now() };
    }
    if (FINAL.has(run.state)) return run;
    await pause(300);
  }
}
