import { unwrap } from "@/core/problem";
import type { AdminLogin } from "@/cli/services/postgres";
import { orderBackfill } from "@/runs/backfill";
import type { Context, Instance } from "@/runs/context";
import { openQueue, orderRun } from "@/runs/queue";
import { runById } from "@/store/runs";
import { pause, until } from "../../testing/installation";
import { countHeld, letDaysPass, type Held } from "./days";
import { letPeopleWork, type Met } from "./people";
import { processesOf, type ProcessUse } from "./processes";
import { askTogether, type Crowd } from "./requests";

export interface LoadWishes {
  readonly requests: number;
  readonly people: number;
  readonly minutes: number;
  readonly days: number;
}

export interface LoadPlace {
  readonly context: Context;
  readonly instance: Instance;
  readonly admin: AdminLogin;
  readonly home: string;
  readonly pipeline: string;
  readonly say: (line: string) => void;
}

/** Memory of a process after it had warmed up, and a minute after the load had ended. */
export interface MemoryBack {
  readonly name: string;
  readonly warm: number;
  readonly after: number;
  readonly handlesWarm: number;
  readonly handlesAfter: number;
}

export interface LoadResult {
  readonly crowds: readonly Crowd[];
  readonly met: Met | undefined;
  /** How the work beside the people ended. */
  readonly beside: readonly string[];
  readonly memory: readonly MemoryBack[];
  readonly days: { readonly passed: number; readonly before: Held; readonly after: Held } | undefined;
}

const MINUTE_MILLISECONDS = 60_000;
const DAYS_BACK = 20;
const RUN_MINUTES = 15;

const baseOf = ({ instance }: LoadPlace): string => `http://127.0.0.1:${instance.port}`;

/** Two trainings, a backfill and an export, all at once. @returns how each of them ended */
async function workBeside(place: LoadPlace): Promise<readonly string[]> {
  const { context, instance, pipeline } = place;
  const boss = await openQueue(instance.databaseUrl, "sender", () => undefined);
  try {
    const now = await context.now();
    const trainings = await Promise.all(
      [undefined, 0.5].map(async (share) =>
        unwrap(
          await orderRun(context, boss, {
            kind: "train",
            pipeline,
            cause: "command line",
            options: share === undefined ? {} : { share },
          }),
        ),
      ),
    );
    const backfill = unwrap(
      await orderBackfill(context, {
        pipeline,
        from: new Date(now.getTime() - DAYS_BACK * 86_400_000),
        until: now,
        by: "the load",
      }),
    );
    const exported = await fetch(
      `${baseOf(place)}/api/export/table?schema=larkmere&table=parcels&format=csv`,
    );
    const bytes = (await exported.arrayBuffer()).byteLength;
    const ended = await Promise.all(
      trainings.map(({ id }) =>
        until(
          "a training to end",
          async () => {
            const run = await runById(context.store.db, id);
            return run && ["done", "failed", "cancelled"].includes(run.state) && `training ${run.state}`;
          },
          60 * RUN_MINUTES,
        ),
      ),
    );
    return [...ended, `backfill ${backfill.id} ordered`, `export ${exported.status}, ${bytes} bytes`];
  } finally {
    await boss.stop({ graceful: false, wait: false });
  }
}

function compareMemory(warm: readonly ProcessUse[], after: readonly ProcessUse[]): readonly MemoryBack[] {
  return warm.flatMap((use) => {
    const same = after.find((other) => other.pid === use.pid);
    return same
      ? [
          {
            name: `${use.name} ${use.pid}`,
            warm: use.megabytes,
            after: same.megabytes,
            handlesWarm: use.handles,
            handlesAfter: same.handles,
          },
        ]
      : [];
  });
}

/** Loads a running demo: many requests at once, people in browsers beside runs, and days that pass. Bounded in count and time. */
export async function runLoad(place: LoadPlace, wishes: LoadWishes): Promise<LoadResult> {
  const { instance, pipeline, say } = place;
  const crowds: Crowd[] = [];
  const addresses = ["/", "/tables", `/pipelines/${pipeline}/braid`];
  for (const address of wishes.requests > 0 ? addresses : []) {
    say(`${wishes.requests} requests at once for ${address}`);
    crowds.push(await askTogether(baseOf(place), address, wishes.requests));
  }
  let met: Met | undefined;
  let beside: readonly string[] = [];
  let memory: readonly MemoryBack[] = [];
  if (wishes.people > 0) {
    say("a first round, so that every process is warm");
    await letPeopleWork(baseOf(place), pipeline, 2, 0.5);
    await workBeside(place);
    const warm = processesOf(instance.pid);
    say(
      `${wishes.people} people for ${wishes.minutes} minutes, beside two trainings, a backfill and an export`,
    );
    [met, beside] = await Promise.all([
      letPeopleWork(baseOf(place), pipeline, wishes.people, wishes.minutes),
      workBeside(place),
    ]);
    await pause(MINUTE_MILLISECONDS);
    memory = compareMemory(warm, processesOf(instance.pid));
  }
  if (wishes.days === 0) return { crowds, met, beside, memory, days: undefined };
  const held = { ...place, pid: instance.pid };
  const before = await countHeld(held);
  say(`${wishes.days} days of the demo's clock`);
  const passed = await letDaysPass(held, wishes.days, say);
  await pause(MINUTE_MILLISECONDS);
  return { crowds, met, beside, memory, days: { passed, before, after: await countHeld(held) } };
}
