import type PgBoss from "pg-boss";
import { parseTableName } from "@/core/pipeline/table-name";
import { problem, type Problem } from "@/core/problem";
import { newestQuestion } from "@/core/questions/newest";
import { announceRun } from "@/store/database";
import { addLog, endRun, releaseRun, runsWaiting } from "@/store/runs";
import type { RunWait } from "@/store/schema";
import { noteEnd } from "./alerts";
import type { Context } from "./context";
import { problemsOf } from "./failure";
import { sendRun } from "./queue";

const MINUTE = 60_000;
const minute = (moment: Date): string => moment.toISOString().slice(0, 16).replace("T", " ");

/** Sources that are not as fresh as a run wants them, each with what is there. Empty when the run may begin. */
export async function staleSources(
  context: Context,
  wait: Pick<RunWait, "for">,
  runTime: Date,
): Promise<readonly Problem[]> {
  const found: Problem[] = [];
  for (const { table, column, within } of wait.for) {
    const least = new Date(runTime.getTime() - within * MINUTE);
    const wanted = `${table} has to reach ${minute(least)} UTC`;
    const hint = "Check what loads it, or change wait in the schedule.";
    const reference = parseTableName(table);
    if (!reference) return [problem("source_not_fresh", `"${table}" is not a table name.`, hint)];
    try {
      const milliseconds = await context.warehouse.ask(newestQuestion(reference, column), {
        milliseconds: 10_000,
      });
      const newest = milliseconds === undefined ? undefined : new Date(milliseconds);
      if (!newest || newest < least)
        found.push(
          problem(
            "source_not_fresh",
            `${wanted}; ${newest ? `its newest "${column}" is ${minute(newest)} UTC` : "it has no rows"}.`,
            hint,
          ),
        );
    } catch (error) {
      found.push(
        problem(
          "source_not_fresh",
          `${wanted}; it could not be read: ${problemsOf(error)[0]?.message ?? ""}`,
          hint,
        ),
      );
    }
  }
  return found;
}

/** Looks after runs that wait for their sources: lets them begin when these are fresh, and ends them when they have waited long enough. */
export async function watchWaiting(context: Context, boss: PgBoss): Promise<void> {
  const { db } = context.store;
  for (const run of await runsWaiting(db)) {
    const { wait } = run.options;
    if (!wait) continue;
    const stale = await staleSources(context, wait, run.runTime);
    if (stale.length === 0) {
      await releaseRun(db, run.id);
      await addLog(db, run.id, "info", "Its sources are fresh.");
      await sendRun(boss, run);
    } else if ((await context.now()) >= new Date(wait.until)) {
      const end = { state: "failed", problems: stale, outcome: "its sources did not arrive" } as const;
      if (!(await endRun(db, run, end))) continue;
      await noteEnd(context, run, end);
    } else continue;
    await announceRun(context.store, run.id);
  }
}
