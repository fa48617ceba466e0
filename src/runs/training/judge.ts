import { formatNumber } from "@/core/format/numbers";
import { noteSentences } from "@/core/evaluate/figure-notes";
import type { Judgement } from "@/core/evaluate/judgement";
import type { Figures } from "@/core/evaluate/metrics";
import { fitsStatement } from "@/core/learn/scoring";
import type { Task } from "@/core/learn/task";
import { taskOf } from "@/core/plan/frame";
import type { PipelineFile } from "@/core/pipeline/schema";
import { TARGET_COLUMN } from "@/core/plan/frame-columns";
import { emptyHoldout } from "@/core/plan/filled-parts";
import { judgedRelation, outputColumn, type JudgedRows } from "@/core/plan/score";
import { HOLDOUT_PART, wholeGroup } from "@/core/plan/split";
import { problem, ProblemError } from "@/core/problem";
import type { TableReference } from "@/core/relation/relation";
import { outputColumns } from "@/core/relation/relation";
import { quoteIdentifier, quoteTable } from "@/core/sql/quote";
import { holdoutTable } from "../scratch";
import { judgedFiguresOf } from "../threads/figures";
import { figureIntervals } from "../threads/intervals";
import { scoreInPieces } from "./scored-in-pieces";
import { readScores, scoreHere } from "./scored-rows";
import { type Workshop } from "./workshop";

/**
 * Makes the table of judged rows with their predictions. Of a model that was trained in the warehouse no row leaves it: one too large
 * for a statement scores in several. One that was trained here, and is too large, scores here.
 */
export async function scoreInto(shop: Workshop, into: TableReference, judged: JudgedRows): Promise<number> {
  const { plan, session } = shop;
  const { shape, model } = judged;
  await session.drop(into, "remove an earlier attempt's rows");
  if (fitsStatement(model))
    return session.affected(
      `CREATE TABLE ${quoteTable(into)} AS\n${shop.print(judgedRelation(plan, judged))}`,
      "scored rows",
    );
  const [inputs, outputs] = [shop.scratch("inputs"), shop.scratch("outputs")];
  const plain = judgedRelation(plan, judged, false);
  const columns = outputColumns(plain);
  const streams = model.fit.engine === "streaming";
  await session.materialize(plain, inputs, streams ? "rows to score here" : "rows to score");
  if (streams) {
    const features = {
      numbers: shape.numbers.filter((name) => columns.includes(name)),
      categories: shape.categories.map((category) => category.column),
    };
    await scoreHere(session, { inputs, outputs, pace: shop.recorder }, model, {
      task: taskOf(plan, shape),
      ...features,
    });
  } else await scoreInPieces({ session, pace: shop.recorder }, { inputs, outputs }, model, columns);
  const rows = await session.affected(
    `CREATE TABLE ${quoteTable(into)} AS SELECT * FROM ${quoteTable(outputs)}`,
    "scored rows",
  );
  for (const table of [inputs, outputs]) await session.drop(table, "drop a scratch table");
  return rows;
}

/** Scores the holdout into a table that is kept with the version. */
export async function scoreHoldout(
  shop: Workshop,
  judged: Omit<JudgedRows, "part">,
): Promise<{
  readonly holdout: TableReference;
  /** Holdout rows that could not be scored. */
  readonly unscored: number;
}> {
  const { plan, recorder, session, context } = shop;
  const holdout = holdoutTable(context.warehouse, recorder.run.id);
  const unscored = await recorder.doing("score the holdout", async () => {
    const rows = await scoreInto(shop, holdout, { ...judged, part: HOLDOUT_PART });
    if (rows === 0) throw new ProblemError(emptyHoldout(plan.file.holdout));
    const [row] = await session.run(
      `SELECT count(*) FILTER (WHERE ${quoteIdentifier(outputColumn(0))} IS NULL) AS unscored, count(*) FILTER (WHERE ${quoteIdentifier(TARGET_COLUMN)} IS NULL) AS unanswered FROM ${quoteTable(holdout)}`,
      "rows without a score or target",
    );
    const unscored = Number(row?.["unscored"] ?? 0);
    if (unscored === rows)
      throw new ProblemError(
        problem(
          "feature_missing",
          "No holdout row can be scored, because a required number is missing in each.",
          "Add a fill step for columns with missing values.",
        ),
      );
    if (unscored > 0)
      await recorder.say(
        "warning",
        `${formatNumber(unscored)} of ${formatNumber(rows)} holdout rows cannot be scored, because a required number is missing; they are not evaluated. Add a fill step for columns with missing values.`,
      );
    const unanswered = Number(row?.["unanswered"] ?? 0);
    if (unanswered === rows)
      throw new ProblemError(
        problem(
          "empty_holdout",
          "No holdout row has a target, so the model cannot be evaluated.",
          "Check rows.train and the target.",
        ),
      );
    if (unanswered > 0)
      await recorder.say(
        "warning",
        `${formatNumber(unanswered)} holdout rows have no target; they are not evaluated.`,
      );
    return { value: unscored, rows };
  });
  return { holdout, unscored };
}

/** Rows of a judged table that have an answer and a prediction. */
export const answered = (table: TableReference): string =>
  `(SELECT * FROM ${quoteTable(table)} WHERE ${quoteIdentifier(TARGET_COLUMN)} IS NOT NULL AND ${quoteIdentifier(outputColumn(0))} IS NOT NULL)`;

/** Figures, intervals and what is drawn, from the scored holdout. */
export async function judge(
  shop: Workshop,
  holdout: TableReference,
  task: Task,
  usual: readonly number[],
): Promise<
  Omit<Judgement, "folds" | "importance" | "importanceOf" | "dependence" | "background" | "findings">
> {
  const { recorder, session, plan } = shop;
  const { by } = plan.file.holdout;
  return recorder.doing(
    by === "none" ? "evaluate by cross-validation" : "evaluate on the holdout",
    async () => {
      const group = wholeGroup(plan.file);
      const { weight } = plan.file.roles;
      const scored = await readScores(session, answered(holdout), task, { group, weight });
      const goesOn = recorder.goesOn;
      const { notes, ...found } = await judgedFiguresOf({ kind: task.kind, scored, usual }, goesOn);
      const { figures } = found;
      for (const sentence of noteSentences(task, notes)) await recorder.say("warning", sentence);
      if (task.kind === "binary" && figures.auc === null)
        await recorder.say(
          "warning",
          "The holdout has only one class, so there is no AUC and metrics are not meaningful. Use a larger holdout.",
        );
      const { intervals, because } = await figureIntervals(
        { kind: task.kind, scored: [scored], seed: 1, groups: scored.groups },
        goesOn,
      );
      const rows = scored.answers.length;
      const judged = {
        ...found,
        rows,
        intervals: intervals as Judgement["intervals"],
        ...(because === undefined ? {} : { noIntervals: because }),
        byGroup: group !== undefined,
        ...notes,
        absentClasses: [...notes.absentClasses],
      };
      return { value: judged, rows, detail: describeFigures(task.kind, figures, by) };
    },
  );
}

/** The figures that are told in one line. */
export function describeFigures(
  kind: Task["kind"],
  figures: Figures,
  by: PipelineFile["holdout"]["by"],
): string {
  if (Object.keys(figures).length === 0) return "not evaluated";
  const where = by === "none" ? "cross-validation" : "holdout";
  if (kind === "number")
    return `${where} RMSE ${formatNumber(figures.rmse)}, R² ${formatNumber(figures.r_squared)}`;
  if (kind === "classes")
    return `${where} accuracy ${formatNumber(figures.accuracy)}, log loss ${formatNumber(figures.log_loss)}`;
  return figures.auc === null
    ? `no AUC (${by === "none" ? "the rows have" : "the holdout has"} one class)`
    : `${where} AUC ${formatNumber(figures.auc)}`;
}
