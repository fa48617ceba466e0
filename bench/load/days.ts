import { asAdmin, type AdminLogin } from "@/cli/services/postgres";
import type { Context } from "@/runs/context";
import { demoState, wishDemoTime } from "@/store/settings";
import { pause } from "../../testing/installation";
import { countFiles, processesOf } from "./processes";

/** What an installation holds at a moment. */
export interface Held {
  readonly megabytes: number;
  readonly handles: number;
  readonly connections: number;
  readonly scratchTables: number;
  readonly files: number;
}

const DAY_MILLISECONDS = 86_400_000;
const STEP_MILLISECONDS = 3000;
/** So long may one day take before the rest is left out. */
const MOST_MILLISECONDS = 600_000;

interface Place {
  readonly context: Context;
  readonly admin: AdminLogin;
  readonly home: string;
  readonly pid: number;
}

/** Counts what an installation holds. */
export async function countHeld({ context, admin, home, pid }: Place): Promise<Held> {
  const { warehouse } = context;
  const [found] = await asAdmin(admin, warehouse.config.reader.database, async (client) => {
    const { rows } = await client.query<{ connections: number; tables: number }>(
      "SELECT (SELECT count(*) FROM pg_stat_activity WHERE usename IS NOT NULL AND pid <> pg_backend_pid())::int AS connections, (SELECT count(*) FROM pg_tables WHERE schemaname = $1 AND tablename !~ '^(holdout|blind|trained)_')::int AS tables",
      [warehouse.config.scratchSchema],
    );
    return rows;
  });
  const processes = processesOf(pid);
  return {
    megabytes: processes.reduce((sum, process) => sum + process.megabytes, 0),
    handles: processes.reduce((sum, process) => sum + process.handles, 0),
    connections: found?.connections ?? 0,
    scratchTables: found?.tables ?? 0,
    files: countFiles(home),
  };
}

/**
 * Lets days pass in the demo, one every three seconds or as fast as their runs end.
 * @returns how many passed
 */
export async function letDaysPass(
  { context }: Place,
  days: number,
  say: (line: string) => void,
): Promise<number> {
  const { db } = context.store;
  for (let day = 1; day <= days; day += 1) {
    const begun = Date.now();
    await wishDemoTime(db, new Date((await context.now()).getTime() + DAY_MILLISECONDS));
    while ((await demoState(db))?.wish && Date.now() - begun < MOST_MILLISECONDS) await pause(200);
    if ((await demoState(db))?.wish) return day - 1;
    await pause(Math.max(0, STEP_MILLISECONDS - (Date.now() - begun)));
    if (day % 20 === 0) say(`${day} days have passed`);
  }
  return days;
}
