import type { Judgement } from "@/core/evaluate/judgement";
import { metricsFor } from "@/core/evaluate/metrics";
import type { ExplainQuestion, Explanation } from "@/core/explain/explain-rows";
import { compileModel, valuesOf } from "@/core/learn/compiled";
import { columnsRead } from "@/core/learn/model-kinds";
import type { Model } from "@/core/learn/model";
import type { FeatureRow, Task } from "@/core/learn/task";
import { explainedQuestion } from "@/core/questions/judged/explained";
import type { JudgedTable } from "@/core/questions/judged/judged-rows";
import type { WarehouseSession } from "@/warehouse/port/session";

/** Holdout rows that a model is explained over. */
const EXPLAINED_ROWS = 1500;
/** A model of very many columns takes longer for each row, so that fewer rows have to do. */
const [MOST_VALUES, FEWEST_ROWS] = [150_000, 200];

/** Judged rows with the features that a model reads. */
export interface ExplainedRows {
  readonly rows: readonly FeatureRow[];
  readonly answers: Float64Array;
  readonly numbers: readonly string[];
  readonly categories: readonly string[];
}

/**
 * Some judged rows with the features of a model, the same every time.
 * @param key columns that tell rows apart
 */
export async function explainedRows(
  session: WarehouseSession,
  judged: JudgedTable,
  key: readonly string[],
  model: Model,
): Promise<ExplainedRows> {
  const read = columnsRead(model);
  const features = { numbers: [...read.numbers], categories: [...read.categories] };
  const columns = features.numbers.length + features.categories.length;
  const most = Math.min(
    EXPLAINED_ROWS,
    Math.max(FEWEST_ROWS, Math.floor(MOST_VALUES / Math.max(1, columns))),
  );
  const found = await session.ask(explainedQuestion(judged, key, features, most));
  session.leave({ explained: found.length });
  return {
    ...features,
    rows: found.map((row) => row.features),
    answers: Float64Array.from(found, ({ target }) => target),
  };
}

/** What is asked about a model over such rows. */
export function explainQuestion(
  model: Model,
  task: Task,
  { rows, answers }: ExplainedRows,
  most: Pick<ExplainQuestion, "importances" | "dependences">,
): ExplainQuestion {
  const { columns } = compileModel(model);
  const [metric] = metricsFor(task.kind);
  return {
    model,
    task,
    rows: rows.map((row) => valuesOf(row, columns)),
    answers,
    metric: metric!,
    seed: 5,
    ...most,
  };
}

/** What is kept of an explanation with a version. */
export const judgedExplanation = (
  { metric, rows, model }: ExplainQuestion,
  { importance, dependence }: Explanation,
): Pick<Judgement, "importance" | "importanceOf" | "dependence"> => ({
  importance: [...importance],
  importanceOf: { metric, rows: rows.length, columns: compileModel(model).columns.length },
  dependence: dependence.map(({ column, points }) => ({
    column,
    points: points.map((point) => ({ ...point, outputs: [...point.outputs] })),
  })),
});
