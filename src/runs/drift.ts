import { formatNumber, formatShare } from "@/core/format/numbers";
import { driftOf, MUCH_DRIFT, SOME_DRIFT, type Drift } from "@/core/evaluate/drift";
import { FEW_VALUES, numberShape, type ColumnSpread, type SpreadShape } from "@/core/evaluate/spread";
import {
  distinctSql,
  frequentLevelsSql,
  gridSql,
  inStatements,
  MOST_LEVELS,
  MOST_OTHER_LEVELS,
  readSpread,
  spreadSql,
} from "@/core/evaluate/drift-sql";
import type { Task } from "@/core/learn/task";
import { featureInputs, inputsToScore } from "@/core/plan/row-profile";
import type { Delivery } from "@/core/pipeline/operating-schema";
import type { BaseTable } from "@/core/plan/frame";
import type { CheckedPlan } from "@/core/plan/plan";
import { outputColumn, PREDICTION_COLUMN, PROBABILITY_COLUMN } from "@/core/plan/score";
import { TRAINING_PART } from "@/core/plan/split";
import { problem } from "@/core/problem";
import type { Relation, TableReference } from "@/core/relation/relation";
import { quoteIdentifier, quoteTable } from "@/core/sql/quote";
import { DRAW_COLUMN, PART_COLUMN } from "@/core/steps/step";
import { isNumber } from "@/core/value-type";
import { clearAlert, raiseAlert } from "@/store/alerts";
import { addDrift } from "@/store/drift";
import type { ModelRow } from "@/store/models";
import type { RunRow } from "@/store/runs";
import type { WarehouseSession } from "@/warehouse/warehouse";
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

const finite = (values: unknown): number[] =>
  ((values ?? []) as (number | null)[]).filter(
    (value): value is number => value !== null && Number.isFinite(value),
  );

async function shapeOfNumbers(
  session: WarehouseSession,
  rows: string,
  names: readonly string[],
): Promise<SpreadShape[]> {
  const shapes: SpreadShape[] = [];
  for (let first = 0; first < names.length; first += COLUMNS_OF_A_STATEMENT) {
    const some = names.slice(first, first + COLUMNS_OF_A_STATEMENT);
    const [row] = await session.run(gridSql(rows, some), "how each number is spread");
    const few = some.filter((_, index) => Number(row?.[`d${index}`] ?? 0) <= FEW_VALUES);
    const [listed] =
      few.length === 0 ? [] : await session.run(distinctSql(rows, few), "values of numbers that have few");
    some.forEach((name, index) => {
      const place = few.indexOf(name);
      const values = place < 0 ? undefined : finite(listed?.[`v${place}`]);
      shapes.push(numberShape(name, finite(row?.[`e${index}`]), values));
    });
  }
  return shapes;
}

async function shapeOfCategory(
  session: WarehouseSession,
  rows: string,
  column: string,
): Promise<SpreadShape> {
  const found = await session.run(frequentLevelsSql(rows, column), `values of ${column}`);
  const levels = found.map((item) => String(item["level"]));
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
  rows: string,
  shapes: readonly SpreadShape[],
): Promise<ColumnSpread[]> {
  const found: ColumnSpread[] = [];
  for (const some of inStatements(shapes)) {
    const [row] = await session.run(spreadSql(rows, some), "rows in each part of each column");
    found.push(...readSpread(row ?? {}, some));
  }
  return found;
}

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
  const from = base ?? prepared.frame;
  const share = prepared.rows > MOST_ROWS ? MOST_ROWS / prepared.rows : 1;
  const wanted = [...numbers, ...categories];
  const rows = `SELECT ${wanted.map(quoteIdentifier).join(", ")} FROM ${quoteTable(from)} WHERE ${quoteIdentifier(PART_COLUMN)} = ${TRAINING_PART}${share < 1 ? ` AND ${quoteIdentifier(DRAW_COLUMN)} < ${share}` : ""}`;
  const shapes = wanted.length === 0 ? [] : await shapeOfNumbers(session, rows, numbers);
  for (const column of categories) shapes.push(await shapeOfCategory(session, rows, column));
  const found = await spreads(session, rows, shapes);
  if (task.kind === "classes") return found;
  const predicted = `SELECT ${quoteIdentifier(outputColumn(0))} AS ${quoteIdentifier(PREDICTION_COLUMN)} FROM ${quoteTable(holdout)}`;
  return [
    ...found,
    ...(await spreads(session, predicted, await shapeOfNumbers(session, predicted, [PREDICTION_COLUMN]))),
  ];
}

interface Measured {
  readonly plan: CheckedPlan;
  readonly model: ModelRow;
  readonly print: (relation: Relation) => string;
  readonly stage: TableReference;
  readonly task: Task;
  readonly run: RunRow;
  readonly delivery: Delivery;
}

/** Compares the rows to score, and their predictions, with training; keeps what was found, and raises an alert when much has changed. @returns what was found, in a line */
export async function measureDrift(
  context: Context,
  session: WarehouseSession,
  { plan, model, print, stage, task, run, delivery }: Measured,
): Promise<string> {
  const before = model.data.spreads ?? [];
  if (before.length === 0) return "the version has no training distributions";
  const [counted] = await session.run(
    `SELECT count(*)::integer AS rows FROM ${quoteTable(stage)}`,
    "rows that were scored",
  );
  const rows = Number(counted?.["rows"] ?? 0);
  if (rows < LEAST_ROWS) return `${rows} rows are too few`;
  const inputs = before.filter((value) => value.column !== PREDICTION_COLUMN);
  const prediction = before.filter((value) => value.column === PREDICTION_COLUMN);
  const now = [
    ...(inputs.length === 0
      ? []
      : await spreads(
          session,
          print(
            inputsToScore(
              plan,
              model.learned,
              inputs.map((input) => input.column),
            ),
          ),
          inputs,
        )),
    ...(await spreads(
      session,
      `SELECT ${quoteIdentifier(task.kind === "binary" ? PROBABILITY_COLUMN : PREDICTION_COLUMN)} AS ${quoteIdentifier(PREDICTION_COLUMN)} FROM ${quoteTable(stage)}`,
      prediction,
    )),
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
