import { median } from "d3-array";
import type { Doing, Wait } from "@/core/schedule/describe-wait";
import { secondsLeft, secondsToStart } from "@/core/schedule/forecast";
import type { Store } from "@/store/database";
import type { RunRow } from "@/store/runs";
import { pastPace, pastSeconds, queueBefore, workerStates, type RunAndPipeline } from "@/store/workers";

/** Earlier runs that a duration is reckoned from. */
const PAST_RUNS = 5;
const PAST_PACES = 20;

/** How long a run takes, by earlier ones of its pipeline, else by how fast values were looked at in others. */
async function expectedSeconds(store: Store, run: RunRow): Promise<number | undefined> {
  const past = median(await pastSeconds(store.db, run, PAST_RUNS));
  if (past !== undefined || !run.workload) return past;
  const pace = median(await pastPace(store.db, run.kind, PAST_PACES));
  return pace === undefined ? undefined : pace * run.workload.cells;
}

async function doingOf(store: Store, { run, pipeline }: RunAndPipeline, now: Date): Promise<Doing> {
  const secondsSoFar = (now.getTime() - (run.startedAt ?? now).getTime()) / 1000;
  const expected = await expectedSeconds(store, run);
  return {
    id: run.id,
    kind: run.kind,
    pipeline,
    secondsSoFar,
    secondsLeft: expected === undefined ? undefined : secondsLeft(expected, secondsSoFar),
  };
}

/**
 * What a queued run waits for, and about how long.
 * @param now the computer's time, which durations are reckoned by
 */
export async function forecastWait(store: Store, run: RunRow, now: Date): Promise<Wait> {
  const [states, queue] = await Promise.all([workerStates(store.db), queueBefore(store.db, run)]);
  const small = run.workload?.small ?? true;
  const workers = await Promise.all(
    states.map(async (state) => ({
      ...state,
      doing: state.run && (await doingOf(store, state.run, now)),
    })),
  );
  const able = workers.filter((worker) => small || worker.takesLarge);
  const rivals = queue.filter((pipeline) => small || pipeline.run.workload?.small === false);
  const startsIn = secondsToStart(
    workers.map(({ takesLarge, doing }) => ({ takesLarge, busyFor: doing ? doing.secondsLeft : 0 })),
    await Promise.all(
      queue.map(async (pipeline) => ({
        small: pipeline.run.workload?.small ?? true,
        takes: await expectedSeconds(store, pipeline.run),
      })),
    ),
  );
  return {
    small,
    doing: able.flatMap(({ doing }) => (doing ? [doing] : [])),
    before: Math.max(0, rivals.length - 1),
    startsIn,
    nobodyTakesIt: workers.length > 0 && able.length === 0,
  };
}
