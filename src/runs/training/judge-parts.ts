import type { Judgement } from "@/core/evaluate/judgement";
import { formatNumber } from "@/core/format/numbers";
import type { Model } from "@/core/learn/model";
import type { Engine, Task } from "@/core/learn/task";
import { taskOf, type BaseTable } from "@/core/plan/frame";
import { judgedRelation, outputNames, type JudgedRows } from "@/core/plan/score";
import { BLIND_PART, TRAINING_PART } from "@/core/plan/split";
import type { Candidate } from "@/core/pipeline/schema";
import {
  keepColumns,
  outputColumns,
  table,
  type Relation,
  type TableReference,
} from "@/core/relation/relation";
import { blindTable, holdoutTable, trainedTable } from "../scratch";
import { judgedFiguresOf } from "../threads/figures";
import { explainModel } from "./explain";
import { judgeFolds, type FoldFrames } from "./folds";
import { judge, scoreHoldout, scoreInto } from "./judge";
import type { PreparedFrame } from "./prepare";
import { readScores } from "./scored-rows";
import type { Workshop } from "./workshop";

/** Training rows that are scored to be held against the holdout: a sample tells as much, and scoring may be slow. */
const MOST_TRAINED = 20_000;

/** A fitted model, with all that it is judged by. */
export interface ToJudge {
  readonly model: Model;
  /** The usual answer of the training rows. */
  readonly usual: readonly number[];
  readonly prepared: PreparedFrame;
  readonly base: BaseTable | undefined;
  /** Where there are folds. */
  readonly frames: FoldFrames | undefined;
  readonly candidate: Candidate;
  readonly engine: Engine;
}

export interface JudgedParts {
  readonly judgement: Omit<Judgement, "findings">;
  /** Tables that are kept with the version. */
  readonly tables: {
    readonly holdout?: TableReference;
    readonly blind?: TableReference;
    readonly trained: TableReference;
  };
}

/** Nothing was judged, since every row trains and there are no folds. */
const NOT_JUDGED: Omit<
  Judgement,
  "folds" | "findings" | "importance" | "importanceOf" | "dependence" | "background"
> = { rows: 0, figures: {}, base: {}, intervals: {}, byGroup: false };

/**
 * Judges a fitted model: on the holdout, or inside folds where every row trains; looks at training rows beside it; and explains it.
 * The blind part is scored unread.
 */
export async function judgeParts(shop: Workshop, fitted: ToJudge): Promise<JudgedParts> {
  const { model, usual, prepared, base, frames, candidate, engine } = fitted;
  const task = taskOf(shop.plan, prepared.shape);
  const everyRowTrains = shop.plan.file.holdout.by === "none";
  const scoring = { model, shape: prepared.shape, learned: prepared.learned, rows: { base } };
  const held = everyRowTrains ? undefined : await scoreHoldout(shop, scoring);
  const judgedFirst = held && (await judge(shop, held.holdout, task, usual));
  const inside = everyRowTrains && frames ? shop.scratch("outputs", "inside") : undefined;
  const folds = frames ? await judgeFolds(shop, frames, { candidate, engine, into: inside }) : [];
  const insideFolds = inside && folds.length > 0 ? await keepInsideFolds(shop, scoring, inside) : undefined;
  const judged = judgedFirst ?? (insideFolds && (await judge(shop, insideFolds, task, usual))) ?? NOT_JUDGED;
  if (judged === NOT_JUDGED)
    await shop.recorder.say(
      "warning",
      "All rows are used for training, so this version is not evaluated. Set folds to cross-validate it.",
    );
  const blind = await scoreBlindPart(shop, scoring);
  const { trained, share } = await scoreTraining(shop, scoring, prepared.rows);
  const training = await judgeTraining(shop, trained, task, usual);
  const holdout = held?.holdout ?? insideFolds;
  const explained = await explainModel(shop, holdout ?? trained, model, task);
  return {
    judgement: {
      ...judged,
      ...(held && held.unscored > 0 ? { unscored: held.unscored } : {}),
      ...(insideFolds ? { insideFolds: true } : {}),
      ...(training ? { training: { ...training, share } } : {}),
      folds,
      ...explained,
      ...(holdout ? {} : { importanceOf: { ...explained.importanceOf, training: true } }),
    },
    tables: { trained, ...(holdout ? { holdout } : {}), ...(blind ? { blind } : {}) },
  };
}

type Scoring = Omit<JudgedRows, "part">;

/** Scores the blind part into a table that stays unread. */
async function scoreBlindPart(shop: Workshop, scoring: Scoring): Promise<TableReference | undefined> {
  const { plan, recorder, context } = shop;
  if (!plan.file.holdout.blind) return undefined;
  const blind = blindTable(context.warehouse, recorder.run.id);
  return recorder.doing("score the blind holdout", async () => ({
    value: blind,
    rows: await scoreInto(shop, blind, { ...scoring, part: BLIND_PART }),
  }));
}

/** Scores training rows, of very many a sample, so that they can be looked at as those that judge. */
async function scoreTraining(
  shop: Workshop,
  scoring: Scoring,
  rows: number,
): Promise<{ readonly trained: TableReference; readonly share: number }> {
  const { recorder, context } = shop;
  const share = Math.min(1, MOST_TRAINED / Math.max(1, rows));
  const trained = trainedTable(context.warehouse, recorder.run.id);
  return recorder.doing("score training rows", async () => ({
    value: { trained, share },
    rows: await scoreInto(shop, trained, { ...scoring, part: TRAINING_PART, share }),
    ...(share < 1 ? { detail: `some of ${formatNumber(rows)}` } : {}),
  }));
}

async function judgeTraining(
  shop: Workshop,
  trained: TableReference,
  task: Task,
  usual: readonly number[],
): Promise<Omit<NonNullable<Judgement["training"]>, "share"> | undefined> {
  const { recorder, session, plan } = shop;
  return recorder.doing("metrics of training rows", async () => {
    const { weight } = plan.file.roles;
    const scored = await readScores(session, trained, task, { weight });
    const rows = scored.answers.length;
    if (rows === 0) return { value: undefined, rows };
    const found = await judgedFiguresOf({ kind: task.kind, scored, usual }, recorder.goesOn);
    const { figures, curve, pairs } = found;
    return {
      value: { rows, figures, ...(curve ? { curve } : {}), ...(pairs ? { pairs } : {}) },
      rows,
    };
  });
}

/** All training rows with the predictions that the folds made of them: a table like that of a holdout. */
async function keepInsideFolds(
  shop: Workshop,
  scoring: Scoring,
  inside: TableReference,
): Promise<TableReference> {
  const { plan, recorder, session, context } = shop;
  const holdout = holdoutTable(context.warehouse, recorder.run.id);
  return recorder.doing("combine predictions of the folds", async () => {
    const all = shop.scratch("outputs", "all");
    const wanted = { ...scoring, part: TRAINING_PART } as const;
    await scoreInto(shop, all, wanted);
    const { key } = plan.file.roles;
    const names = outputColumns(judgedRelation(plan, wanted, false));
    const outputs = outputNames(taskOf(plan, scoring.shape));
    const joined: Relation = {
      kind: "join",
      how: "inner",
      left: table(all, names),
      right: table(inside, [...key, ...outputs]),
      on: key.map((name) => ({ left: name, right: name })),
      take: outputs.map((name) => ({ from: name, name })),
    };
    const first = key.length + 1;
    const inOrder = keepColumns(joined, [...names.slice(0, first), ...outputs, ...names.slice(first)]);
    await session.drop(holdout, "remove an earlier attempt's rows");
    const rows = await session.materialize(inOrder, holdout, "cross-validated predictions", "kept");
    for (const table of [all, inside]) await session.drop(table, "drop a scratch table");
    return { value: holdout, rows };
  });
}
