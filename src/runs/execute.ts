import { setTimeout } from "node:timers/promises";
import pino from "pino";
import { formatDuration } from "@/core/format/numbers";
import { describeProblem, problem, ProblemError } from "@/core/problem";
import { announceRun } from "@/store/database";
import { versionById } from "@/store/pipelines";
import {
  beat,
  claimRun,
  endRun,
  MOST_ATTEMPTS,
  postponeRun,
  waitForWarehouse,
  type RunEnd,
  type RunRow,
} from "@/store/runs";
import type { WarehouseSession } from "@/warehouse/port/session";
import { noteEnd } from "./alerts";
import type { Context } from "./context";
import { canPass, isConnectionLoss, problemsOf } from "./failure";
import { featureDelivery } from "./feature-delivery";
import { featuresRun } from "./features";
import { startHeartbeat } from "./heartbeat";
import { Cancelled, RunRecorder } from "./recorder";
import { scoreRun } from "./score";
import { endThreads } from "./threads/thread";
import { trainRun } from "./training/train";

const log = pino({ name: "ravlen", level: process.env["RAVLEN_LOG"] ?? "info" });
const BEAT_MILLISECONDS = 2000;
/** After the first attempt; three times as long after each further one. */
const FIRST_PAUSE_SECONDS = 5;
/** How long a run may say nothing while no statement of it runs, in seconds. */
const stuckSeconds = (): number => 60 * (Number(process.env["RAVLEN_STUCK_MINUTES"]) || 30);

/**
 * Claims a run and does it to its end. Safe to call any number of times, by any number of workers:
 * only the one that gets the claim works. When the database goes away, the claim is left to lapse and
 * the run is taken up again, up to {@link MOST_ATTEMPTS} times.
 */
export async function executeRun(context: Context, runId: string, worker: string): Promise<void> {
  const run = await claimRun(context.store.db, runId, worker);
  if (!run) return;
  const recorder = new RunRecorder(context.store, run);
  if (run.attempt - run.retriedAt > MOST_ATTEMPTS) {
    await finish(context, recorder, {
      state: "failed",
      problems: problemsOf(new Error(`attempted ${MOST_ATTEMPTS} times without finishing`)),
      outcome: "given up",
    });
    return;
  }
  let session: WarehouseSession | undefined;
  let giveUp: (error: Error) => void = () => undefined;
  const stuck = new Promise<never>((_resolve, reject) => {
    giveUp = reject;
  });
  stuck.catch(() => undefined);
  const heart = startHeartbeat(BEAT_MILLISECONDS, async (stopped) => {
    try {
      const { liveness } = recorder;
      const { cancel, lost } = await beat(context.store.db, run.id, worker, liveness);
      if (liveness.progress) await recorder.announce();
      // A statement has its own limit in time.
      if (liveness.stillFor > stuckSeconds() && !session?.waits) {
        recorder.givenUp = stuckError(liveness.stillFor);
        giveUp(recorder.givenUp);
      }
      if ((cancel || lost) && !recorder.cancelled && !stopped()) {
        recorder.cancelled = true;
        await session?.cancel();
      }
    } catch (error) {
      log.warn({ run: run.id, error: String(error) }, "heartbeat failed");
    }
  });
  let failed = true;
  try {
    session = await context.warehouse.session({
      record: recorder.statement,
      runTime: run.runTime.toISOString(),
    });
    await recorder.say(
      "info",
      run.attempt === 1
        ? `${run.kind === "train" ? "Training" : "Scoring"} started; logical time ${run.runTime.toISOString()}.`
        : `Resumed (attempt ${run.attempt}).`,
    );
    const work = perform(context, recorder, session, run).catch((error: unknown) => {
      // What is given up fails in ways of its own, such as threads that were ended.
      throw recorder.givenUp ?? error;
    });
    const end = await Promise.race([work, stuck.catch((error: unknown) => abandon(work, error))]);
    await heart.stop();
    failed = false;
    await finish(context, recorder, end);
  } catch (error) {
    await heart.stop();
    const made = run.attempt - run.retriedAt;
    const lost = isConnectionLoss(error) && !recorder.cancelled;
    if (lost && (await waitsForWarehouse(context, recorder, session !== undefined))) return;
    if (lost && made < MOST_ATTEMPTS) {
      log.warn({ run: run.id, error: String(error) }, "connection lost; the run will be resumed");
    } else if (canPass(error) && !recorder.cancelled && made < MOST_ATTEMPTS) {
      const seconds = FIRST_PAUSE_SECONDS * 3 ** (made - 1);
      const [found] = problemsOf(error);
      await recorder.say(
        "warning",
        `${found?.message ?? "Failed"} This may be temporary: it is retried in ${seconds} seconds.`,
      );
      await postponeRun(
        context.store.db,
        run,
        seconds,
        `attempt ${made + 1} of ${MOST_ATTEMPTS}, after: ${found?.message ?? "a failure"}`,
      );
      await announceRun(context.store, run.id);
    } else if (error instanceof Cancelled || recorder.cancelled) {
      await finish(context, recorder, { state: "cancelled", outcome: "cancelled" });
    } else {
      await finish(context, recorder, { state: "failed", problems: problemsOf(error), outcome: "failed" });
    }
  } finally {
    session?.release(failed);
  }
}

/** How long a run waits before it asks again whether the warehouse is back. */
const AWAY_SECONDS = 15;

/**
 * Lets a run wait for a warehouse that does not answer. One that answers has ended the connection itself, as may happen again.
 * @param begun whether the warehouse answered when this attempt began
 * @returns whether the run waits
 */
async function waitsForWarehouse(context: Context, recorder: RunRecorder, begun: boolean): Promise<boolean> {
  if (await context.warehouse.answers()) return false;
  const { run } = recorder;
  try {
    // Said once for all the times that it is asked in vain.
    if (begun || run.retriedAt === 0)
      await recorder.say(
        "warning",
        "The warehouse is unreachable. The run waits and continues when it is back.",
      );
    await waitForWarehouse(context.store.db, run, AWAY_SECONDS);
    await announceRun(context.store, run.id);
    return true;
  } catch (error) {
    // Our own records are away too: the claim lapses, and the run is taken up again.
    log.warn({ run: run.id, error: String(error) }, "the run could not be postponed");
    return false;
  }
}

/** A run whose computation does not come back. What it still does cannot land: its session is closed. */
const stuckError = (seconds: number): ProblemError =>
  new ProblemError(
    problem(
      "stuck",
      `No progress for ${formatDuration(seconds * 1000)}, so the run was stopped.`,
      "Train on a share of the rows or on fewer columns, or raise RAVLEN_STUCK_MINUTES. If it happens again, please report it.",
    ),
  );

/** How long work that was given up has to clear up behind itself, in milliseconds. */
const CLEAR_UP_MILLISECONDS = 10_000;

/** Ends what a run computes, lets it clear up, and says why it ended. */
async function abandon(work: Promise<unknown>, why: unknown): Promise<never> {
  // A thread that the system does not let go of must not hold up the worker.
  await Promise.race([
    Promise.allSettled([endThreads(), work]),
    setTimeout(CLEAR_UP_MILLISECONDS, undefined, { ref: false }),
  ]);
  throw why;
}

async function perform(
  context: Context,
  recorder: RunRecorder,
  session: WarehouseSession,
  run: RunRow,
): Promise<RunEnd> {
  if (run.kind === "score") {
    const features = await featureDelivery(context, run);
    return features
      ? featuresRun(context, recorder, session, features)
      : scoreRun(context, recorder, session);
  }
  const version = await versionById(context.store.db, run.pipelineVersionId);
  if (!version) throw new Error("the pipeline version of this run is gone");
  return trainRun(context, recorder, session, version.text, version);
}

async function finish(context: Context, recorder: RunRecorder, end: RunEnd): Promise<void> {
  // A worker that was silent too long has lost the run to another, which will say how it ends.
  if (!(await endRun(context.store.db, recorder.run, end))) return;
  await noteEnd(context, recorder.run, end);
  for (const problem of end.problems ?? []) await recorder.say("error", describeProblem(problem));
  if (end.state !== "failed")
    await recorder.say(
      "info",
      end.state === "done"
        ? `Done: ${end.outcome ?? ""}.`
        : "Cancelled; scratch tables were dropped and nothing was delivered.",
    );
  await announceRun(context.store, recorder.run.id);
}
