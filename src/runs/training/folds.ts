import type { ScoredRows } from "@/core/evaluate/figures";
import type { Judgement } from "@/core/evaluate/judgement";
import type { Figures } from "@/core/evaluate/metrics";
import { allOf, binary, column, integer, isNotNull } from "@/core/expression/ast";
import type { ColumnData } from "@/core/learn/memory/column-data";
import { compileModel, valuesOf } from "@/core/learn/compiled";
import { featureRow } from "@/core/learn/feature-row";
import type { Model } from "@/core/learn/model";
import { outputsOf, type Engine, type FeatureRow } from "@/core/learn/task";
import { taskOf, type BaseTable, type Fold, type FrameShape } from "@/core/plan/frame";
import { TARGET_COLUMN, WEIGHT_COLUMN } from "@/core/plan/frame-columns";
import { FOLD_PART, foldsOf } from "@/core/plan/split";
import type { Candidate } from "@/core/pipeline/schema";
import { problem, ProblemError, warning } from "@/core/problem";
import { outputNames } from "@/core/plan/score";
import type { Question } from "@/core/questions/question";
import { rowsQuestion, type AnyRow } from "@/core/questions/rows";
import { filter, keepColumns, table as rowsOf, type TableReference } from "@/core/relation/relation";
import { FOLD_COLUMN, PART_COLUMN } from "@/core/steps/step";
import { openFrame, searchEngine } from "./engine";
import { fitAndMeasure } from "./fit";
import { buildFoldFrame, learnSteps, shapeOf, type PreparedFrame } from "./prepare";
import { inStretches } from "../pace";
import { KEPT } from "../scratch";
import { figuresOf } from "../threads/figures";
import { onceKept } from "./kept";
import { scoreInto } from "./judge";
import { readScores } from "./scored-rows";
import type { Workshop } from "./workshop";

/** The folds that a fit is judged by. Forward in time the first part is only learned from. */
export function foldList(shop: Workshop): readonly Fold[] {
  const { by, count } = foldsOf(shop.plan.file);
  return Array.from({ length: count }, (_, index) =>
    by === "time" ? { fold: index + 1, forward: true } : { fold: index, forward: false },
  );
}

/** Bytes of streamed rows that are kept between the trials of a search. */
const KEPT_BYTES = 512 * 1024 * 1024;

interface Prepared {
  readonly prepared: PreparedFrame;
  data?: ColumnData | undefined;
}

/** The frames of all folds, each with everything learned inside the fold; built when first asked for, and kept. */
export class FoldFrames {
  private readonly frames = new Map<number, Prepared>();

  constructor(
    private readonly shop: Workshop,
    private readonly base: BaseTable,
  ) {}

  private async frameOf(candidate: Candidate, fold: Fold): Promise<Prepared> {
    const known = this.frames.get(fold.fold);
    if (known) return known;
    const learned = await learnSteps(this.shop, this.base, fold);
    const shape = await shapeOf(this.shop, candidate, learned, this.base, fold);
    const made: Prepared = { prepared: await buildFoldFrame(this.shop, shape, learned, this.base, fold) };
    this.frames.set(fold.fold, made);
    return made;
  }

  /**
   * Fits a candidate inside a fold and gives its figures on the fold's rows.
   * @param wanted the engine; when left out, rows stream if they fit, since they are asked about many times
   * @param into a table that takes the predictions, by key
   */
  async judge(
    candidate: Candidate,
    wanted: Engine | undefined,
    fold: Fold,
    into?: TableReference,
  ): Promise<{ readonly fold: number; readonly rows: number; readonly figures: Figures }> {
    const { shop } = this;
    const entry = await this.frameOf(candidate, fold);
    const { prepared } = entry;
    const engine = wanted ?? searchEngine(candidate, prepared);
    const opened = await openFrame(shop, engine, prepared, {
      leftOut: fold,
      folded: false,
      which: `f${fold.fold}`,
      ...(entry.data ? { kept: entry.data } : {}),
    });
    if (
      opened.data &&
      opened.data.rows * 8 * (prepared.shape.numbers.length + 4) * this.frames.size <= KEPT_BYTES
    )
      entry.data = opened.data;
    try {
      const { model } = await fitAndMeasure(shop, opened.ask, candidate, prepared.shape, undefined);
      return await this.figuresOf(model, prepared, fold, into);
    } finally {
      await opened.close();
    }
  }

  /** Figures of a model on the rows of its fold. Of a model trained in the warehouse only predictions, answers and weights leave it. */
  private async figuresOf(
    model: Model,
    prepared: PreparedFrame,
    fold: Fold,
    into: TableReference | undefined,
  ): Promise<{ fold: number; rows: number; figures: Figures }> {
    const task = taskOf(this.shop.plan, prepared.shape);
    const scored =
      into !== undefined || model.fit.engine === "warehouse"
        ? await this.scoredThere(model, prepared, fold, into)
        : await this.scoredHere(model, prepared, fold);
    const rows = scored.answers.length;
    if (rows === 0)
      throw new ProblemError(
        problem(
          "empty_fold",
          `Fold ${fold.fold} has no row that can be evaluated.`,
          "Use fewer folds, check the fold column, or fill missing values in a step.",
        ),
      );
    return { fold: fold.fold, rows, figures: await figuresOf(task.kind, scored) };
  }

  /** Predictions and answers of a fold's rows, scored in the warehouse. */
  private async scoredThere(
    model: Model,
    { shape, learned }: PreparedFrame,
    fold: Fold,
    into: TableReference | undefined,
  ): Promise<ScoredRows> {
    const { plan, session } = this.shop;
    const table = this.shop.scratch("outputs", `f${fold.fold}`);
    const rows = { base: this.base, folds: true, leftOut: fold };
    await scoreInto(this.shop, table, { model, shape, learned, rows, part: FOLD_PART });
    const names = [...plan.file.roles.key, ...outputNames(taskOf(plan, shape))];
    if (into) await session.append(rowsOf(table, names), into, "cross-validated predictions of a fold");
    const { weight } = plan.file.roles;
    const scored = await readScores(session, table, taskOf(plan, shape), { weight });
    await session.drop(table, "drop a scratch table");
    return scored;
  }

  /** Predictions and answers of a fold's rows, scored here, where the rows have streamed to anyway. */
  private async scoredHere(model: Model, { frame, shape }: PreparedFrame, fold: Fold): Promise<ScoredRows> {
    const { plan, session, recorder } = this.shop;
    const { numbers } = shape;
    const weighted = plan.file.roles.weight !== undefined;
    const names = [
      ...numbers,
      ...shape.categories.map((category) => category.column),
      TARGET_COLUMN,
      ...(weighted ? [WEIGHT_COLUMN] : []),
    ];
    const rows = await session.ask(foldRowsQuestion(frame, names, fold.fold));
    session.leave({ streamed: rows.length });
    const compiled = compileModel(model);
    const outputs = Array.from(
      { length: outputsOf(taskOf(plan, shape)) },
      () => new Float64Array(rows.length),
    );
    await inStretches(rows.length, recorder, (row) => {
      const values = foldRow(rows[row]!, shape);
      const prediction = compiled.predict(valuesOf(values, compiled.columns));
      outputs.forEach((output, index) => {
        output[row] = prediction[index]!;
      });
    });
    // As on the holdout, a row that cannot be scored is not judged.
    const known = [...outputs[0]!.keys()].filter((row) => !Number.isNaN(outputs[0]![row]!));
    const told = (value: (row: number) => number): Float64Array => Float64Array.from(known, value);
    return {
      outputs: outputs.map((output) => told((row) => output[row]!)),
      answers: told((row) => Number(rows[row]![TARGET_COLUMN])),
      ...(weighted ? { weights: told((row) => Number(rows[row]![WEIGHT_COLUMN] ?? 0)) } : {}),
    };
  }
}

/** The rows of a judged fold that have a target. */
function foldRowsQuestion(
  frame: TableReference,
  names: readonly string[],
  fold: number,
): Question<readonly AnyRow[]> {
  const isJudged = allOf([
    binary(column(PART_COLUMN), "=", integer(FOLD_PART)),
    binary(column(FOLD_COLUMN), "=", integer(fold)),
    isNotNull(column(TARGET_COLUMN)),
  ]);
  const rows = filter(rowsOf(frame, [...names, PART_COLUMN, FOLD_COLUMN]), isJudged);
  return rowsQuestion(keepColumns(rows, names), `rows of fold ${fold}`);
}

/** A text that no category has, for those the fold has not seen. */
const NEVER_SEEN = "\u0000 never seen";

/** The features of a streamed row of a fold, with categories as their texts. */
function foldRow(row: Readonly<Record<string, unknown>>, { numbers, categories }: FrameShape): FeatureRow {
  const texts = categories.map(({ column, levels }): [string, string | null] => {
    const code = Number(row[column]);
    // Code 0 is a category that the fold never saw.
    return [column, code === 0 ? NEVER_SEEN : (levels[code - 1] ?? null)];
  });
  return { ...featureRow(row, numbers, []), ...Object.fromEntries(texts) };
}

type JudgedFold = Judgement["folds"][number];

/** One fold as a step of the run. A fold that cannot be judged is a warning: the version is good without it. */
async function judgeFold(
  shop: Workshop,
  name: string,
  madeOf: readonly unknown[],
  judge: () => Promise<{ readonly fold: number; readonly rows: number; readonly figures: Figures }>,
): Promise<{ readonly value: JudgedFold | undefined; readonly rows?: number; readonly detail?: string }> {
  try {
    const { value, kept } = await onceKept(shop, name, madeOf, judge);
    return {
      value: { ...value, figures: value.figures as JudgedFold["figures"] },
      rows: value.rows,
      ...(kept ? { detail: KEPT } : {}),
    };
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error;
    shop.recorder.stopIfAsked();
    await shop.recorder.warn(
      error.problems.map((problem) =>
        warning(
          problem.code,
          `In ${name}: ${problem.message} The version is saved without it.`,
          problem.hint,
        ),
      ),
    );
    return { value: undefined, detail: "cannot be evaluated" };
  }
}

/** What is judged inside folds. */
interface FoldsJudged {
  readonly candidate: Candidate;
  readonly engine: Engine;
  /** A table of this attempt that takes the predictions; figures are then not taken from an earlier one. */
  readonly into?: TableReference | undefined;
}

/** Figures of a candidate fold by fold, as steps of the run. */
export async function judgeFolds(
  shop: Workshop,
  frames: FoldFrames,
  { candidate, engine, into }: FoldsJudged,
): Promise<Judgement["folds"]> {
  const folds = foldList(shop);
  const found: Judgement["folds"] = [];
  for (const [index, fold] of folds.entries()) {
    const name = `fold ${index + 1} of ${folds.length}`;
    const judged = await shop.recorder.doing(name, () =>
      judgeFold(shop, name, [candidate, engine, into?.table], () =>
        frames.judge(candidate, engine, fold, into),
      ),
    );
    if (judged) found.push(judged);
  }
  return found;
}
