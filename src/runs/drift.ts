import { formatNumber, formatShare } from "@/core/format/numbers";
import { driftOf, MUCH_DRIFT, SOME_DRIFT, type Drift } from "@/core/evaluate/drift";
import { FEW_VALUES, numberShape, type ColumnSpread, type SpreadShape } from "@/core/evaluate/spread";
import { column } from "@/core/expression/ast";
import { rowCountQuestion } from "@/core/questions/row-count";
import { trainingRows } from "@/core/questions/training-rows";
import {
  distinctQuestion,
  gridQuestion,
  inStatements,
  levelsQuestion,
  MOST_LEVELS,
  MOST_OTHER_LEVELS,
  spreadQuestion,
} from "@/core/questions/spread";
import type { Task } from "@/core/learn/task";
import { featureInputs, inputsToScore } from "@/core/plan/row-profile";
import type { Delivery } from "@/core/pipeline/operating-schema";
import type { BaseTable } from "@/core/plan/frame";
import type { CheckedPlan } from "@/core/plan/plan";
import { outputColumn, PREDICTION_COLUMN, PROBABILITY_COLUMN } from "@/core/plan/score";
import { problem } from "@/core/problem";
import { project, table, type Relation, type TableReference } from "@/core/relation/relation";
import { isNumber } from "@/core/value-type";
import { clearAlert, raiseAlert } from "@/store/alerts";
import { addDrift } from "@/store/drift";
import type { ModelRow } from "@/store/models";
import type { RunRow } from "@/store/runs";
import type { WarehouseSession } from "@/warehouse/port/session";
import type { Context } from "./context";
import type { PreparedFrame } from "./training/prepare";
import type { Workshop } from "./training/workshop";

/** Training rows that spreads are taken from, at the most: shares of more would hardly differ. */
const MOST_ROWS = 100_000;
/** Columns that an alert tells of one by one. */
const MOST_TOLD = 5;
/** Fewer rows than these say nothing about a change. */
const LEAST_ROWS = 50;

/** Columns whose values are sorted by one statement. */
const COLUMNS_OF_A_STATEMENT = 100;

const finite = (values: readonly (number | null)[] | null): number[] =>
  (values ?? []).filter((value): value is number => value !== null && Number.isFinite(value));

async function shapeOfNumbers(
  session: WarehouseSession,
  rows: Relation,
  names: readonly string[],
): Promise<SpreadShape[]> {
  const shapes: SpreadShape[] = [];
  for (let first = 0; first < names.length; first += COLUMNS_OF_A_STATEMENT) {
    const some = names.slice(first, first + COLUMNS_OF_A_STATEMENT);
    const grids = await session.ask(gridQuestion(rows, some));
    const few = some.filter((_, index) => grids[index]!.distinct <= FEW_VALUES);
    const listed = few.length === 0 ? [] : await session.ask(distinctQuestion(rows, few));
    some.forEach((name, index) => {
      const values = listed[few.indexOf(name)];
      shapes.push(numberShape(name, finite(grids[index]!.values), values && finite(values)));
    });
  }
  return shapes;
}

async function shapeOfCategory(
  session: WarehouseSession,
  rows: Relation,
  column: string,
): Promise<SpreadShape> {
  const levels = await session.ask(levelsQuestion(rows, column));
  const listed = levels.length <= MOST_LEVELS + MOST_OTHER_LEVELS;
  return {
    column,
    kind: "category",
    edges: [],
    levels: levels.slice(0, MOST_LEVELS),
    ...(listed ? { others: levels.slice(MOST_LEVELS) } : {}),
  };
}

async function spreads(
  session: WarehouseSession,
  rows: Relation,
  shapes: readonly SpreadShape[],
): Promise<ColumnSpread[]> {
  const found: ColumnSpread[] = [];
  for (const some of inStatements(shapes)) found.push(...(await session.ask(spreadQuestion(rows, some))));
  return found;
}

/** Predictions of a table of scored rows, under the name that spreads know them by. */
const predictionsIn = (scored: TableReference, name: string): Relation =>
  project(table(scored, [name]), [{ name: PREDICTION_COLUMN, expression: column(name) }]);

/** How the columns that features are made from, and the predictions of the holdout, are spread: what later rows are held against. */
export async function noteSpreads(
  shop: Workshop,
  prepared: PreparedFrame,
  base: BaseTable | undefined,
  holdout: TableReference,
  task: Task,
): Promise<ColumnSpread[]> {
  const { plan, session } = shop;
  const known = plan.main.steps[plan.learnsFrom]?.input ?? plan.main.output;
  const names = featureInputs(plan);
  const numbers = names.filter((name) => isNumber(known.get(name)?.type ?? "other"));
  // Without a base the frame stands in for it, where only numbers are still what they were.
  const categories = base
    ? names.filter((name) => ["text", "boolean"].includes(known.get(name)?.type ?? ""))
    : [];
  const share = prepared.rows > MOST_ROWS ? MOST_ROWS / prepared.rows : 1;
  const wanted = [...numbers, ...categories];
  const rows = trainingRows(base ?? prepared.frame, wanted, share);
  const shapes = wanted.length === 0 ? [] : await shapeOfNumbers(session, rows, numbers);
  for (const name of categories) shapes.push(await shapeOfCategory(session, rows, name));
  const found = await spreads(session, rows, shapes);
  if (task.kind === "classes") return found;
  const predicted = predictionsIn(holdout, outputColumn(0));
  return [
    ...found,
    ...(await spreads(session, predicted, await shapeOfNumbers(session, predicted, [PREDICTION_COLUMN]))),
  ];
}

interface Measured {
  readonly plan: CheckedPlan;
  readonly model: ModelRow;
  readonly stage: TableReference;
  readonly task: Task;
  readonly run: RunRow;
  readonly delivery: Delivery;
}

/** Compares the rows to score, and their predictions, with training; keeps what was found, and raises an alert when much has changed. @returns what was found, in a line */
export async function measureDrift(
  context: Context,
  session: WarehouseSession,
  { plan, model, stage, task, run, delivery }: Measured,
): Promise<string> {
  const before = model.data.spreads ?? [];
  if (before.length === 0) return "the version has no training distributions";
  const rows = await session.ask(rowCountQuestion(table(stage, []), "rows that were scored"));
  if (rows < LEAST_ROWS) return `${rows} rows are too few`;
  const inputs = before.filter((value) => value.column !== PREDICTION_COLUMN);
  const prediction = before.filter((value) => value.column === PREDICTION_COLUMN);
  const wanted = inputs.map((input) => input.column);
  const predicted = predictionsIn(stage, task.kind === "binary" ? PROBABILITY_COLUMN : PREDICTION_COLUMN);
  const now = [
    ...(await spreads(session, inputsToScore(plan, model.learned, wanted), inputs)),
    ...(await spreads(session, predicted, prediction)),
  ];
  const found = [...inputs, ...prediction]
    .flatMap((input, index): Drift[] => {
      const drift = driftOf(input, now[index]!);
      return drift ? [drift] : [];
    })
    .sort((left, right) => right.psi - left.psi);
  await addDrift(context.store.db, {
    runId: run.id,
    pipelineId: run.pipelineId,
    modelId: model.id,
    runTime: run.runTime,
    rows,
    columns: found,
  });
  const bound = delivery.contract.most_drift;
  const much = found.filter(
    (drift) => drift.psi >= (bound ?? (drift.column === PREDICTION_COLUMN ? MUCH_DRIFT : Infinity)),
  );
  const some = found.filter((drift) => drift.psi >= SOME_DRIFT).length;
  const said =
    found.length === 0
      ? "nothing to compare"
      : `largest index ${formatNumber(found[0]!.psi)}, of ${found[0]!.column}; ${some} of ${found.length} columns have drifted`;
  // What is caught up says how it was, not how it is.
  if (run.backfillId !== null) return said;
  const matter = `drift:${run.pipelineId}:${delivery.name}`;
  if (much.length > 0) {
    await raiseAlert(context.store.db, {
      matter,
      kind: "drift",
      pipelineId: run.pipelineId,
      runId: run.id,
      runTime: run.runTime,
      title: `Rows of ${plan.file.name} have drifted from training${much.length > MOST_TOLD ? `: ${formatNumber(much.length)} columns, largest first` : ""}`,
      problems: much
        .slice(0, MOST_TOLD)
        .map((drift) =>
          problem(
            "drift",
            `"${drift.column}" has drifted (index ${formatNumber(drift.psi)}${drift.missing[1] > drift.missing[0] + 0.05 ? `; missing in ${formatShare(drift.missing[1])} instead of ${formatShare(drift.missing[0])}` : ""}).`,
            "Check whether a source has changed. If the data has really changed, retrain.",
          ),
        ),
    });
  } else await clearAlert(context.store.db, matter, "rows match training again", run.runTime);
  return said;
}
