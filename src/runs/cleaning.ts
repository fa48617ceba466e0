import { endedRuns, forgetRecords } from "@/store/runs";
import { noteCleaned, readKeeping, type Cleaned } from "@/store/settings";
import type { Context } from "./context";
import { sweepUploads } from "./import/sweep";
import { runOfScratch } from "./scratch";

/**
 * Takes away what runs have left behind and the rule does not keep, and uploaded files that nobody loaded: statements and logs of old runs, scratch tables of runs that are at
 * their end (a crash may have left some), and staged rows that nobody has gone on from. What runs under way are using is never touched,
 * nor are tables that no run of this installation made.
 */
export async function cleanUp(context: Context): Promise<Cleaned> {
  const {
    store: { db },
    warehouse,
  } = context;
  const keeping = await readKeeping(db);
  const forgotten = await forgetRecords(db, keeping.recordDays);
  await sweepUploads(context, keeping.recordDays);
  const { scratchSchema } = warehouse.config;
  const session = await warehouse.session();
  let tables = 0;
  try {
    const found = await session.run(
      "SELECT c.relname AS name, coalesce(obj_description(c.oid, 'pg_class'), '') LIKE 'complete%' AS sealed FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = $1 AND c.relkind = 'r'",
      "list tables in the scratch schema",
      [scratchSchema],
    );
    const ours = found.flatMap((row) => {
      const name = String(row["name"]);
      const run = runOfScratch(name);
      return run === undefined ? [] : [{ name, run, sealed: row["sealed"] === true }];
    });
    const ended = await endedRuns(db, [...new Set(ours.map((item) => item.run))]);
    for (const { name, run, sealed } of ours) {
      const end = ended.get(run);
      if (!end || (sealed && end.state === "failed" && end.hours < keeping.stageHours)) continue;
      await session.drop({ schema: scratchSchema, table: name }, "drop tables left by a run");
      tables += 1;
    }
  } finally {
    session.release();
  }
  const cleaned = { at: new Date(), runs: forgotten, tables };
  await noteCleaned(db, cleaned);
  return cleaned;
}
