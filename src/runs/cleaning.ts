import { endedRuns, forgetRecords } from "@/store/runs";
import { forgetSeals, sealsOf } from "@/store/seals";
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
    const found = await session.tableNames(scratchSchema, "list tables in the scratch schema");
    const ours = found.flatMap((name) => {
      const run = runOfScratch(name);
      return run === undefined ? [] : [{ name, run }];
    });
    const runs = [...new Set(ours.map(({ run }) => run))];
    const ended = await endedRuns(db, runs);
    const sealed = new Set((await sealsOf(db, runs)).map(({ table }) => table));
    for (const { name, run } of ours) {
      const end = ended.get(run);
      if (!end || (sealed.has(name) && end.state === "failed" && end.hours < keeping.stageHours)) continue;
      await session.drop({ schema: scratchSchema, table: name }, "drop tables left by a run");
      await forgetSeals(db, run, [name]);
      tables += 1;
    }
  } finally {
    session.release();
  }
  const cleaned = { at: new Date(), runs: forgotten, tables };
  await noteCleaned(db, cleaned);
  return cleaned;
}
