import { formatNumber } from "@/core/format/numbers";
import { noteSentences } from "@/core/evaluate/figure-notes";
import type { Judgement } from "@/core/evaluate/judgement";
import type { Figures } from "@/core/evaluate/metrics";
import { fitsStatement } from "@/core/learn/scoring";
import type { Task } from "@/core/learn/task";
import { taskOf } from "@/core/plan/frame";
import type { PipelineFile } from "@/core/pipeline/schema";
import { emptyHoldout } from "@/core/plan/filled-parts";
import { judgedRelation, outputNames, type JudgedRows } from "@/core/plan/score";
import { numberedRows } from "@/core/plan/score-pieces";
import { HOLDOUT_PART, wholeGroup } from "@/core/plan/split";
import { problem, ProblemError } from "@/core/problem";
import { gapsQuestion } from "@/core/questions/judged/gaps";
import { outputColumns, table, type TableReference } from "@/core/relation/relation";
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
  const task = taskOf(plan, shape);
  await session.drop(into, "remove an earlier attempt's rows");
  if (fitsStatement(model))
    return session.materialize(judgedRelation(plan, judged), into, "scored rows", "kept");
  const [inputs, outputs] = [shop.scratch("inputs"), shop.scratch("outputs")];
  const plain = judgedRelation(plan, judged, false);
  const columns = outputColumns(plain);
  const streams = model.fit.engine === "streaming";
  await session.materialize(numberedRows(plain), inputs, streams ? "rows to score here" : "rows to score");
  if (streams) {
    const features = {
      numbers: shape.numbers.filter((name) => columns.includes(name)),
      categories: shape.categories.map((category) => category.column),
    };
    const work = { inputs, columns, outputs, pace: shop.recorder };
    await scoreHere(session, work, model, { task, ...features });
  } else await scoreInPieces({ session, pace: shop.recorder }, { inputs, outputs }, model, columns);
  const scored = table(outputs, [...columns, ...outputNames(task)]);
  const rows = await session.materialize(scored, into, "scored rows", "kept");
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
    const { unscored, untargeted } = await session.ask(gapsQuestion(holdout));
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
    if (untargeted === rows)
      throw new ProblemError(
        problem(
          "empty_holdout",
          "No holdout row has a target, so the model cannot be evaluated.",
          "Check rows.train and the target.",
        ),
      );
    if (untargeted > 0)
      await recorder.say(
        "warning",
        `${formatNumber(untargeted)} holdout rows have no target; they are not evaluated.`,
      );
    return { value: unscored, rows };
  });
  return { holdout, unscored };
}

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
      const scored = await readScores(session, holdout, task, { group, weight });
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
