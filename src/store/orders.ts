import { and, eq, inArray, sql } from "drizzle-orm";
import type { Database } from "./database";
import { addRun, type NewRun, type RunRow } from "./runs";
import { runs } from "./schema";

/** Two-part advisory locks under which orders that are the same are looked for; the number means nothing. */
const ORDER_LOCK = 7_203;

/** Does something while nobody else orders the same. @param order what is ordered; equal texts are equal orders */
export function whileOrdering<T>(
  db: Database,
  order: string,
  work: (transaction: Database) => Promise<T>,
): Promise<T> {
  return db.transaction(async (transaction) => {
    await transaction.execute(sql`SELECT pg_advisory_xact_lock(${ORDER_LOCK}, hashtext(${order}))`);
    return work(transaction);
  });
}

/**
 * Adds a run that somebody asks for, unless the same is under way or waits already: then gives that one.
 * @param timed whether the order says for which time it is, so that another time is another order
 */
export async function orderOnce(
  db: Database,
  run: NewRun,
  timed: boolean,
): Promise<{ readonly run: RunRow; readonly fresh: boolean }> {
  const { kind, pipelineId, pipelineVersionId, runTime, options = {} } = run;
  const order = JSON.stringify([kind, pipelineId, options]);
  return whileOrdering(db, order, async (transaction) => {
    const [same] = await transaction
      .select()
      .from(runs)
      .where(
        and(
          eq(runs.kind, kind),
          eq(runs.pipelineVersionId, pipelineVersionId),
          inArray(runs.state, ["queued", "running"]),
          inArray(runs.cause, ["hand", "command line", "again"]),
          eq(runs.cancelAsked, false),
          sql`${runs.options} = ${JSON.stringify(options)}::jsonb`,
          timed ? eq(runs.runTime, runTime) : undefined,
        ),
      )
      .limit(1);
    if (same) return { run: same, fresh: false };
    return { run: (await addRun(transaction, run))!, fresh: true };
  });
}
