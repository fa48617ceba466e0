import { isTimed } from "@/runs/due";
import { nextSlots } from "@/core/schedule/slots";
import type { Context } from "@/runs/context";
import { errorText } from "@/runs/failure";
import { listSchedules } from "@/store/pipelines";
import { unfinishedRuns } from "@/store/runs";
import { demoState, noteDemoTime, setClockOffset, wishDemoTime } from "@/store/settings";
import { letTimePass } from "../../../demo/later";
import { DEMO_SEED } from "../../../demo/load";
import { makeWorld } from "../../../demo/world";
import { asAdmin, type AdminLogin } from "./postgres";

const LOOK_MILLISECONDS = 500;
/** How long a schedule is waited for to begin what is due, and its runs to end, before time goes on. */
const BEGIN_MILLISECONDS = 30_000;
const END_MILLISECONDS = 180_000;

const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => void setTimeout(resolve, milliseconds));

async function until(done: () => Promise<boolean>, most: number): Promise<void> {
  for (const end = Date.now() + most; Date.now() < end && !(await done());) await pause(200);
}

/** The next time of any schedule that runs at times, after a moment. */
async function nextTime(context: Context, after: Date): Promise<Date | undefined> {
  const timed = (await listSchedules(context.store.db))
    .filter(isTimed)
    .filter((schedule) => !schedule.paused);
  const times = timed.map(
    (schedule) =>
      nextSlots(
        schedule.cron,
        schedule.zone,
        new Date(Math.max(after.getTime(), schedule.doneUntil.getTime())),
        1,
      )[0]!,
  );
  return times.sort((left, right) => left.getTime() - right.getTime())[0];
}

/** Lets things happen in the demo's tables up to a moment, and sets the clock there. */
async function moveTo(context: Context, admin: AdminLogin, database: string, moment: Date): Promise<void> {
  const { db } = context.store;
  const demo = await demoState(db);
  if (!demo) return;
  await asAdmin(admin, database, (client) =>
    letTimePass(client, makeWorld(DEMO_SEED, demo.scale), {
      scale: demo.scale,
      from: demo.until,
      to: moment,
    }),
  );
  await noteDemoTime(db, moment);
  await setClockOffset(db, moment.getTime() - Date.now());
}

/**
 * Lets time pass until a moment: from one time of a schedule to the next, each of which is given the time to do its work, so that
 * a week has its seven nights.
 */
export async function passTime(
  context: Context,
  admin: AdminLogin,
  database: string,
  target: Date,
): Promise<void> {
  const { db } = context.store;
  for (;;) {
    const now = await context.now();
    if (now >= target) return;
    const next = await nextTime(context, now);
    const stop = next && next < target ? next : target;
    await moveTo(context, admin, database, new Date(stop.getTime() + 1000));
    if (stop !== next) return;
    await until(
      async () =>
        (await listSchedules(db)).every(
          (schedule) =>
            schedule.paused ||
            !isTimed(schedule) ||
            schedule.doneUntil >= stop ||
            nextSlots(schedule.cron, schedule.zone, schedule.doneUntil, 1)[0]! > stop,
        ),
      BEGIN_MILLISECONDS,
    );
    await until(async () => (await unfinishedRuns(db)) === 0, END_MILLISECONDS);
  }
}

/** Waits for wishes that time passes, and fulfils them, until it is stopped. */
export function watchDemoTime(
  context: Context,
  admin: AdminLogin,
  database: string,
  say: (line: string) => void,
): () => void {
  let stopped = false;
  const watch = async (): Promise<void> => {
    while (!stopped) {
      await pause(LOOK_MILLISECONDS);
      try {
        const demo = await demoState(context.store.db);
        if (!demo?.wish) continue;
        say(`advancing the clock to ${demo.wish.toISOString().slice(0, 16).replace("T", " ")} UTC`);
        await passTime(context, admin, database, demo.wish);
        await wishDemoTime(context.store.db, null);
      } catch (error) {
        if (!stopped) say(`the clock could not be advanced: ${errorText(error)}`);
        await pause(2000);
      }
    }
  };
  void watch();
  return () => {
    stopped = true;
  };
}
