import { formatNumber } from "@/core/format/numbers";
import { readFileSync } from "node:fs";
import path from "node:path";
import { parsePipeline } from "@/core/pipeline/parse";
import { unwrap } from "@/core/problem";
import { orderBackfill } from "@/runs/backfill";
import { checkText } from "@/runs/check-file";
import { homeFolder, type Context } from "@/runs/context";
import { errorText } from "@/runs/failure";
import { openQueue, orderRun, sendRun, type Order } from "@/runs/queue";
import { backfillById, listBackfills } from "@/store/backfills";
import { putInService } from "@/runs/service";
import { listModels, setInService } from "@/store/models";
import { findPipeline, saveVersion } from "@/store/pipelines";
import { listRuns, retryRun, runById } from "@/store/runs";
import {
  clockReached,
  demoState,
  readNotify,
  setClockOffset,
  setDemoSetup,
  setDemoState,
  setNotify,
} from "@/store/settings";
import { sendWeightsLater } from "../../../demo/later";
import { DEMO_SCHEMA, loadDemo } from "../../../demo/load";
import { DEMO_PIPELINES } from "../../../demo/pipelines";
import { SENT_LATER } from "../../../demo/tables";
import { DEMO_NOW } from "../../../demo/world";
import { watchDemoTime } from "./demo-time";
import { say, type Running } from "./installation";
import { asAdmin } from "./postgres";
import { startReceivers } from "./receivers";

export const WAREHOUSE_NAMES = {
  database: "ravlen_warehouse",
  outputSchema: "predictions",
  scratchSchema: "ravlen_scratch",
  importSchema: "imported",
};
const DEMO_FILES = DEMO_PIPELINES.map((name) => `demo/${name}.yaml`);

/** Makes the demo's tables when they are not there, sets its clock, and saves its pipelines. */
export async function prepareDemo(running: Running, scale: number, fresh: boolean): Promise<void> {
  const { admin, context } = running;
  const loaded = await asAdmin(
    admin,
    WAREHOUSE_NAMES.database,
    async (client) =>
      (await client.query("SELECT 1 FROM pg_namespace WHERE nspname = $1", [DEMO_SCHEMA])).rowCount,
  );
  if (!loaded || fresh) {
    say(
      `creating the demo tables (scale ${scale}: about ${formatNumber(Math.round(60_000 * scale))} parcels)`,
    );
    await asAdmin(admin, WAREHOUSE_NAMES.database, (client) => loadDemo(client, { scale }));
  }
  const known = !loaded || fresh ? undefined : await demoState(context.store.db);
  const until = known?.until ?? DEMO_NOW;
  await setDemoState(context.store.db, { scale: known?.scale ?? scale, until, wish: known?.wish ?? null });
  // The demo's clock begins at the end of its data. It stands while the demo is stopped, and never goes back.
  const reached = known && (await clockReached(context.store.db));
  const shown = Math.max(until.getTime(), reached?.getTime() ?? 0);
  await setClockOffset(context.store.db, shown - Date.now());
  for (const file of DEMO_FILES) {
    const shipped = readFileSync(path.join(process.cwd(), file), "utf8");
    const { name } = unwrap(parsePipeline(shipped)).file;
    if (await findPipeline(context.store.db, name)) continue;
    const text = name === MAIN ? firstTry(shipped) : shipped;
    const plan = unwrap(await checkText(text, context.warehouse));
    await saveVersion(
      context.store.db,
      plan.file,
      text,
      plan.hash,
      await context.now(),
      name === MAIN ? "first trial: all features" : "as shipped with the demo",
    );
    say(`saved the pipeline ${name}`);
  }
}

/** The first try of the main pipeline: before anybody asked when reminders are sent. It is kept, with its trial, as a warning. */
function firstTry(text: string): string {
  return text.replace(/ {4}- column: reminders_sent\n.*\n/, "").replace("    reminders_sent: after\n", "");
}

const MAIN = "uncollected-72h";
const MESSAGES = "message-topic";
/** Trained at the first start, in this order. */
const FIRST_TRIALS = ["plain logistic", "base rate", "small tree", "boosted trees"];
const DAY = 86_400_000;

/** Trains, puts a version in service, and scores, when nobody has done so. With a history, what serves is a version as it would have been trained before that. */
export async function firstRun(running: Running, history: number): Promise<void> {
  const { context } = running;
  const { db } = context.store;
  const pipeline = await findPipeline(db, MAIN);
  if (!pipeline || (await listModels(db, pipeline.id)).length > 0) return;
  const boss = await openQueue(running.instance.databaseUrl, "sender", () => undefined);
  const train = (candidate: string, runTime?: Date): Promise<string> =>
    runToEnd(context, boss, {
      kind: "train",
      pipeline: MAIN,
      cause: "command line",
      options: { candidate },
      ...(runTime ? { runTime } : {}),
    });
  const serve = async (reason: string, at: Date): Promise<void> => {
    const [model] = await listModels(db, pipeline.id);
    await setInService(db, pipeline.id, model!.id, { by: "the demo", reason, at });
    say(`version ${model!.number} is in service`);
  };
  try {
    say("training the main pipeline, first with a leaking column");
    say(`trained: ${await train("boosted trees")}`);
    const text = readFileSync(path.join(process.cwd(), DEMO_FILES[0]!), "utf8");
    const plan = unwrap(await checkText(text, context.warehouse));
    await saveVersion(
      db,
      plan.file,
      text,
      plan.hash,
      await context.now(),
      "reminders are known only after the prediction: excluded",
    );
    if (history > 0) {
      const then = new Date(DEMO_NOW.getTime() - (history + 1) * DAY);
      say(`trained as of ${then.toISOString().slice(0, 10)}: ${await train(FIRST_TRIALS[0]!, then)}`);
      await serve("simple, and good enough to start with", then);
    }
    for (const candidate of FIRST_TRIALS) {
      say(`trained: ${await train(candidate)}`);
      if (history > 0 || candidate !== FIRST_TRIALS[0]) continue;
      await serve("simple, and good enough to start with", DEMO_NOW);
      say(
        `scored: ${await runToEnd(context, boss, { kind: "score", pipeline: MAIN, cause: "command line" })}`,
      );
    }
    if (history > 0) {
      await sortMessages(context, boss);
      const from = new Date(DEMO_NOW.getTime() - history * DAY);
      unwrap(
        await orderBackfill(context, {
          pipeline: MAIN,
          from,
          until: new Date(DEMO_NOW.getTime() - 1),
          parallel: 1,
          by: "the demo",
        }),
      );
      say(`catching up ${history} days of predictions, for a minute or two after the start`);
    }
  } finally {
    await boss.stop({ graceful: false, wait: false });
  }
}

/** Sorts the messages to support onto the desks' tables; from then on that follows their arrival. */
async function sortMessages(context: Context, boss: Parameters<typeof orderRun>[1]): Promise<void> {
  say(
    `trained: ${await runToEnd(context, boss, { kind: "train", pipeline: MESSAGES, cause: "command line" })}`,
  );
  const [model] = await listModels(context.store.db, (await findPipeline(context.store.db, MESSAGES))!.id);
  await putInService(context, model!.id, { by: "the demo", reason: "sorts messages well enough" });
  say(
    `scored: ${await runToEnd(context, boss, { kind: "score", pipeline: MESSAGES, cause: "command line" })}`,
  );
}

/**
 * Trains the pipelines that nobody has trained yet, one after the other, so that each kind of answer has a
 * version that was judged.
 */
async function trainOthers({ context, instance }: Running): Promise<void> {
  const { db } = context.store;
  const boss = await openQueue(instance.databaseUrl, "sender", () => undefined);
  try {
    await setDemoSetup(db, { stage: "training" });
    for (const name of DEMO_PIPELINES) {
      const pipeline = await findPipeline(db, name);
      if (!pipeline || (await listModels(db, pipeline.id)).length > 0) continue;
      await runToEnd(context, boss, { kind: "train", pipeline: name, cause: "command line" }).catch(
        (error: unknown) => say(`${name} was not trained: ${errorText(error)}`),
      );
    }
    await setDemoSetup(db, { stage: "ready" });
  } finally {
    await boss.stop({ graceful: false, wait: false });
  }
}

/**
 * What the demo does as long as it runs: it lets time pass when somebody wishes so, trains what is left,
 * and mends what was sent late.
 */
export function keepDemo(running: Running): void {
  const stop = watchDemoTime(running.context, running.admin, WAREHOUSE_NAMES.database, say);
  void trainOthers(running).catch((error: unknown) =>
    say(`the demo's other pipelines were not trained: ${errorText(error)}`),
  );
  process.once("SIGINT", stop);
  process.once("SIGTERM", stop);
  void receiveNews(running).catch((error: unknown) =>
    say(`the demo's receivers did not start: ${String(error)}`),
  );
  void mendHistory(running).catch((error: unknown) =>
    say(`the demo's history was not repaired: ${String(error)}`),
  );
}

/** Starts the two receivers, and has alerts sent there. */
async function receiveNews({ context }: Running): Promise<void> {
  const { db } = context.store;
  const { webhook, mailServer } = await startReceivers(homeFolder(), say);
  const { since } = await readNotify(db);
  await setNotify(db, {
    webhook,
    mail: { server: mailServer, from: "ravlen@larkmere.example", to: "night-desk@larkmere.example" },
    since,
  });
}

/**
 * Some weights came days late: the runs that broke on that go on once they are there, as they would have. Those of the days before stay
 * as they were, with what broke the contract.
 */
async function mendHistory({ context, admin, instance }: Running): Promise<void> {
  const { db } = context.store;
  const pipeline = await findPipeline(db, MAIN);
  const backfill =
    pipeline && (await listBackfills(db, pipeline.id)).find((backfill) => backfill.by === "the demo");
  if (!pipeline || !backfill) return;
  while ((await backfillById(db, backfill.id))?.state === "running")
    await new Promise((resolve) => void setTimeout(resolve, 1000));
  const since = new Date(`${SENT_LATER[0]}T00:00:00Z`);
  const broken = (await listRuns(db, { limit: 1000, pipelineId: pipeline.id, kind: "score" })).filter(
    (run) => run.backfillId === backfill.id && run.state === "failed" && run.runTime >= since,
  );
  if (broken.length === 0) return;
  await asAdmin(admin, WAREHOUSE_NAMES.database, (client) => sendWeightsLater(client));
  const boss = await openQueue(instance.databaseUrl, "sender", () => undefined);
  for (const run of broken) if (await retryRun(db, run.id)) await sendRun(boss, run);
  await boss.stop({ graceful: false, wait: false });
}

async function runToEnd(
  context: Context,
  boss: Parameters<typeof orderRun>[1],
  order: Order,
): Promise<string> {
  const { id } = unwrap(await orderRun(context, boss, order));
  for (;;) {
    const run = await runById(context.store.db, id);
    if (run?.state === "done") return run.outcome ?? "";
    if (run?.state === "failed" || run?.state === "cancelled")
      throw new Error(
        `the demo's first ${order.kind} run ${run.state}: ${run.problems.map((problem) => problem.message).join("; ")}`,
      );
    await new Promise((resolve) => void setTimeout(resolve, 200));
  }
}
