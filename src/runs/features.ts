import { formatCount, formatNumber } from "@/core/format/numbers";
import { sha256 } from "@/core/hash";
import type { Delivery } from "@/core/pipeline/operating-schema";
import { writeTableName } from "@/core/pipeline/table-name";
import type { LearnedValues } from "@/core/plan/build";
import { freshRows, tablesOf } from "@/core/plan/deliver";
import { needsBase } from "@/core/plan/frame";
import { featuresRelation, type FeatureStamps } from "@/core/plan/prepared-features";
import { problem, ProblemError, unwrap } from "@/core/problem";
import { modelById } from "@/store/models";
import { pipelineById, type PipelineVersionRow } from "@/store/pipelines";
import type { RunEnd } from "@/store/runs";
import type { DeliveryRun } from "@/warehouse/port/landing";
import type { Move } from "@/warehouse/move";
import type { WarehouseSession } from "@/warehouse/port/session";
import { checkText } from "./check-file";
import type { Context } from "./context";
import type { FeatureDelivery } from "./feature-delivery";
import { checkAndLand, landedEarlier, newerByOf } from "./landing";
import { handOver } from "./outbox";
import type { RunRecorder } from "./recorder";
import { checkRequirements } from "./requirements";
import { dropScratch, KEPT, scratchTable, sealedTable, sealTable, sweep } from "./scratch";
import { buildBase, fingerprint, learnSteps } from "./training/prepare";
import { holdsOf } from "./training/kept";
import { openWorkshop, type Workshop } from "./training/workshop";

/** Values that steps have learned, and where they come from. */
interface Learned {
  readonly values: LearnedValues;
  readonly from: string;
  /** Number of the version in service that learned them; 0 where they were learned by this run. */
  readonly modelVersion: number;
}

/**
 * A run that delivers prepared features: rows that train, judge or are to be scored, as the newest file prepares them, move into their
 * table as predictions do. Needs no version in service.
 */
export async function featuresRun(
  context: Context,
  recorder: RunRecorder,
  session: WarehouseSession,
  { delivery, version }: FeatureDelivery,
): Promise<RunEnd> {
  const { run } = recorder;
  const work = { recorder, session };
  await sweep(session, context, run.id);
  let sealed = false;
  let ended = false;
  try {
    const pipeline = (await pipelineById(context.store.db, run.pipelineId))!;
    const plan = await recorder.doing("check the pipeline", async () => {
      const checked = unwrap(await checkText(version.text, context.warehouse));
      await recorder.warn(checked.warnings);
      return { value: checked, detail: formatCount(checked.features.length, "feature") };
    });
    const opened = openWorkshop(context, recorder, session, plan);
    await checkRequirements(opened);
    const shop: Workshop = { ...opened, ...holdsOf(await fingerprint(opened)) };
    const learned = await learnedValues(shop, version, pipeline.inService);
    await checkRequirements(shop, learned.values, true);
    const landing: DeliveryRun = {
      run: run.id,
      pipeline: pipeline.name,
      formerNames: pipeline.formerNames,
      delivery: delivery.name,
      modelVersion: learned.modelVersion,
      runTime: run.runTime.toISOString(),
    };
    const into = writeTableName(tablesOf(delivery)[0]!);
    const told = async (rows: number): Promise<void> => {
      // What is caught up is no news.
      if (run.backfillId !== null) return;
      const { id, runTime } = run;
      const { modelVersion } = learned;
      await handOver(context, { run: id, pipeline: pipeline.name, delivery, modelVersion, runTime, rows });
    };
    const earlier = await landedEarlier(work, landing);
    if (earlier !== undefined) {
      await told(earlier);
      return {
        state: "done",
        rows: earlier,
        outcome: `${formatNumber(earlier)} rows of features in ${into}, landed by an earlier attempt`,
      };
    }
    const move = await stageFeatures(shop, { delivery, version, learned, landing });
    sealed = true;
    const comment = `Features prepared by the pipeline ${pipeline.name}, delivery "${delivery.name}", file version ${version.number}; ${learned.from}. Run ${run.id}.`;
    const { landed } = await checkAndLand(work, { ...move, comment }, landing, {
      of: "features",
      comment,
      leavesOut: false,
    });
    await told(landed.rows);
    ended = true;
    return {
      state: "done",
      rows: landed.rows,
      outcome: `${formatNumber(landed.rows)} rows of features into ${into}, file version ${version.number}`,
    };
  } finally {
    await dropScratch(session, context, run.id, {
      keepSealed: sealed && !ended && !recorder.cancelled,
    }).catch(() => undefined);
  }
}

/** What the steps have learned: by the version in service, where it was trained from a file that prepares rows in the same way, else now. */
async function learnedValues(
  shop: Workshop,
  version: PipelineVersionRow,
  inService: number | null,
): Promise<Learned> {
  const { plan, recorder, context } = shop;
  if (plan.learnsFrom === plan.main.steps.length)
    return { values: {}, from: "its steps learn no values", modelVersion: 0 };
  const model = inService === null ? undefined : await modelById(context.store.db, inService);
  if (model && model.planHash === version.planHash) {
    await recorder.say("info", `Learned values are those of version ${model.number}, which is in service.`);
    return {
      values: model.learned,
      from: `learned values are those of version ${model.number}`,
      modelVersion: model.number,
    };
  }
  await recorder.say(
    "info",
    model
      ? `Version ${model.number} was trained from another file version, so learned values come from today's training rows.`
      : "No version is in service, so learned values come from today's training rows.",
  );
  const base = needsBase(plan) ? await buildBase(shop, false) : undefined;
  const values = base ? await learnSteps(shop, base) : {};
  return { values, from: "learned values come from the training rows of the same run", modelVersion: 0 };
}

interface Staging {
  readonly delivery: Delivery;
  readonly version: PipelineVersionRow;
  readonly learned: Learned;
  readonly landing: DeliveryRun;
}

/** Writes the rows into a staged table, or takes the complete one of an earlier attempt. */
async function stageFeatures(
  shop: Workshop,
  { delivery, version, learned, landing }: Staging,
): Promise<Move> {
  const { plan, recorder, session, context } = shop;
  const { run } = recorder;
  const tables = tablesOf(delivery);
  const madeFrom = sha256(JSON.stringify([version.id, delivery, learned.values, shop.holds]));
  const kept =
    shop.holds === undefined
      ? undefined
      : await sealedTable(session, context, run.id, { purpose: "stage", madeFrom });
  const stage = kept?.table ?? scratchTable(context.warehouse, "stage", run.id, run.attempt);
  const newerBy = newerByOf(plan, delivery);
  const fresh = {
    after: newerBy && (await session.landing.newest(landing, newerBy)),
    tables: delivery.rows === "not_yet_predicted" ? await session.landing.tablesThere(tables) : [],
  };
  const stamps: FeatureStamps = {
    file: version.number,
    run: run.id,
    runTime: landing.runTime,
    madeAt: new Date().toISOString(),
  };
  const rows = await recorder.doing("prepare features in a staging table", async () => {
    if (kept) return { value: kept.rows, rows: kept.rows, detail: KEPT };
    const relation = featuresRelation(plan, learned.values, delivery, {
      stamps,
      narrow: (found) => freshRows(plan, delivery, found, fresh),
    });
    const made = await session.materialize(relation, stage, "staged features");
    return { value: made, rows: made };
  });
  if (!kept) await sealTable(context, run.id, stage, { purpose: "stage", madeFrom, rows });
  checkCount(delivery, rows);
  return {
    stage,
    key: plan.file.roles.key,
    mode: delivery.mode,
    partition: delivery.partition,
    tables,
    newerBy,
    onlyNew: delivery.rows === "not_yet_predicted",
  };
}

/** Stops where there are fewer or more rows than the contract of the delivery allows. */
function checkCount({ contract, name }: Delivery, rows: number): void {
  const { least_rows: least = 0, most_rows: most = Infinity } = contract;
  if (rows >= least && rows <= most) return;
  throw new ProblemError(
    problem(
      "contract_rows",
      `There are ${formatNumber(rows)} rows of features; the delivery "${name}" expects ${rows < least ? `at least ${formatNumber(least)}` : `at most ${formatNumber(most)}`}.`,
      "Check the sources, or change the limits of the delivery. Nothing was written.",
    ),
  );
}
