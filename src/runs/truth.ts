import { formatCount, formatNumber } from "@/core/format/numbers";
import { keptCurve } from "@/core/evaluate/kept-curve";
import { METRICS, type Figures, type MetricName } from "@/core/evaluate/metrics";
import { promisedFigures } from "@/core/evaluate/promise";
import { measuredMetrics, readTruth, summarise, type TruthDay } from "@/core/evaluate/truth";
import { TRUE_ANSWER, truthQuestion } from "@/core/questions/truth";
import { cast, column } from "@/core/expression/ast";
import { columnsOf } from "@/core/expression/visit";
import { PlanBuilder } from "@/core/plan/build";
import { tablesOf } from "@/core/plan/deliver";
import { targetExpression } from "@/core/plan/frame";
import type { CheckedPlan } from "@/core/plan/plan";
import type { Delivery } from "@/core/pipeline/operating-schema";
import { problem } from "@/core/problem";
import { prune } from "@/core/relation/prune";
import { filter, project, type Relation } from "@/core/relation/relation";
import { clearAlert, raiseAlert } from "@/store/alerts";
import { listModels, type ModelRow } from "@/store/models";
import type { RunRow } from "@/store/runs";
import { keepTruth } from "@/store/truth";
import type { WarehouseSession } from "@/warehouse/port/session";
import type { Context } from "./context";

/** Days before the run's time whose predictions are looked at again. */
const DAYS_BACK = 120;
/** Days over which figures are held against the promise, and the answers that takes. */
const DAYS_JUDGED = 28;
const LEAST_ANSWERS = 200;
const DAY = 86_400_000;

/** Rows whose answer is known: key and answer. */
function truthRelation(plan: CheckedPlan, model: ModelRow): Relation {
  const { key, target } = plan.file.roles;
  // Classes are compared by their names, as they are delivered: a class that the version never saw is an answer too.
  const answer = target.kind === "classes" ? cast(plan.target, "text") : targetExpression(plan, model.shape);
  const rows = filter(new PlanBuilder(plan).main({ learned: model.learned }), plan.train);
  const needed = new Set([...key, ...columnsOf(answer), ...columnsOf(plan.train)]);
  return project(prune(rows, needed), [
    ...key.map((name) => ({ name, expression: column(name) })),
    { name: TRUE_ANSWER, expression: answer },
  ]);
}

/** The metric that a pipeline's predictions are judged by over time: that of the brief, where it can be had from sums. */
export function truthMetric(plan: Pick<CheckedPlan, "file">): MetricName {
  const { kind } = plan.file.roles.target;
  const measured = measuredMetrics(kind);
  const wished = plan.file.brief?.success?.metric;
  return wished !== undefined && measured.includes(wished) ? wished : measured[0]!;
}

/** By how much a figure is worse than another: as a share of it for errors, in its own unit where the best is 1. Negative when it is better. */
export function shortfall(metric: MetricName, figure: number, promised: number): number {
  return METRICS[metric].better === "high"
    ? promised - figure
    : (figure - promised) / Math.max(Math.abs(promised), 1e-12);
}

/** What a version's holdout promises of predictions at a threshold. */
const promisedBy = (model: ModelRow, threshold: number): Figures =>
  promisedFigures(
    {
      metrics: model.metrics,
      unweighted: model.judgement?.unweighted,
      curve: model.judgement?.unweightedCurve ?? keptCurve(model),
    },
    threshold,
  );

interface TruthWork {
  readonly plan: CheckedPlan;
  readonly model: ModelRow;
  readonly run: RunRow;
  readonly delivery: Delivery;
}

/**
 * Holds the predictions of the last months against the answers that have arrived since; keeps figures by day and version, and raises an
 * alert when the version in service does worse than its holdout promised by more than the contract allows. @returns what was found, in a line
 */
export async function measureTruth(
  context: Context,
  session: WarehouseSession,
  { plan, model, run, delivery }: TruthWork,
): Promise<string> {
  const { db } = context.store;
  const { kind } = plan.file.roles.target;
  const tables = await session.landing.tablesThere(tablesOf(delivery));
  if (tables.length === 0) return "no prediction table yet";
  const sums = await session.ask(
    truthQuestion({
      truth: truthRelation(plan, model),
      tables,
      key: plan.file.roles.key,
      kind,
      since: new Date(run.runTime.getTime() - DAYS_BACK * DAY).toISOString(),
      until: run.runTime.toISOString(),
    }),
  );
  const days = sums.map(({ version, day, predicted, ...rest }): TruthDay => ({
    version,
    day,
    predicted,
    ...readTruth(rest, kind),
  }));
  const models = new Map((await listModels(db, run.pipelineId)).map((model) => [model.number, model]));
  await keepTruth(
    db,
    days.flatMap(({ version, ...rest }) => {
      const made = models.get(version);
      return made ? [{ pipelineId: run.pipelineId, delivery: delivery.name, modelId: made.id, ...rest }] : [];
    }),
  );
  const metric = truthMetric(plan);
  const from = new Date(run.runTime.getTime() - DAYS_JUDGED * DAY).toISOString().slice(0, 10);
  const found = summarise(days.filter((day) => day.version === model.number && day.day >= from));
  // What is caught up says how it was, not how it is.
  if (run.backfillId === null) await judgeTruth(context, { run, delivery, model, metric, found, plan });
  const answered = days.reduce((sum, day) => sum + day.answered, 0);
  return answered === 0
    ? "no actuals have arrived yet"
    : `${formatNumber(answered)} actuals for ${formatNumber(days.reduce((sum, day) => sum + day.predicted, 0))} predictions; ${METRICS[metric].title} over ${DAYS_JUDGED} days ${formatNumber(found.figures[metric])}, holdout ${formatNumber(promisedBy(model, delivery.threshold)[metric])}`;
}

async function judgeTruth(
  context: Context,
  {
    run,
    delivery,
    model,
    metric,
    found,
    plan,
  }: Pick<TruthWork, "run" | "delivery" | "model" | "plan"> & {
    readonly metric: MetricName;
    readonly found: Pick<TruthDay, "answered" | "figures">;
  },
): Promise<void> {
  const figure = found.figures[metric];
  const promised = promisedBy(model, delivery.threshold)[metric];
  if (
    figure === undefined ||
    figure === null ||
    promised === undefined ||
    promised === null ||
    found.answered < LEAST_ANSWERS
  )
    return;
  const matter = `worse:${run.pipelineId}:${delivery.name}`;
  const worse = shortfall(metric, figure, promised);
  if (worse <= delivery.contract.most_worse)
    return void (await clearAlert(
      context.store.db,
      matter,
      `${METRICS[metric].title} is ${formatNumber(figure)} again`,
      run.runTime,
    ));
  await raiseAlert(context.store.db, {
    matter,
    kind: "worse",
    pipelineId: run.pipelineId,
    runId: run.id,
    runTime: run.runTime,
    title: `Predictions of ${plan.file.name} are worse than on the holdout`,
    problems: [
      problem(
        "worse_than_promised",
        `${METRICS[metric].title} over the last ${DAYS_JUDGED} days is ${formatNumber(figure)} on ${formatCount(found.answered, "actual")}; on the holdout of version ${model.number} it was ${formatNumber(promised)}.`,
        "See Deliver for the start and for drift, and retrain. Or raise contract.most_worse if rows to score differ from training rows.",
      ),
    ],
  });
}
