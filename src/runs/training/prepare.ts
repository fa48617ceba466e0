import { formatNumber } from "@/core/format/numbers";
import type { LearnedValues } from "@/core/plan/build";
import {
  baseRelation,
  failingCheck,
  frameRelation,
  isIndicator,
  learnRelations,
  levelsRelation,
  needsBase,
  numberColumns,
  KEY_ROWS,
  repeatedKeys,
  sourcesOf,
  textColumns,
  type BaseTable,
  type CategoryLevels,
  type Fold,
  type FrameRows,
  type FrameShape,
} from "@/core/plan/frame";
import { MOST_CLASSES } from "@/core/plan/obstacles";
import { partsRelation, readParts, unfilledParts } from "@/core/plan/filled-parts";
import type { Candidate } from "@/core/pipeline/schema";
import { writeTableName } from "@/core/pipeline/table-name";
import { problem, ProblemError } from "@/core/problem";
import { levelsQuestion } from "@/core/questions/levels";
import { rowCountQuestion } from "@/core/questions/row-count";
import { rowsQuestion, someRowsQuestion } from "@/core/questions/rows";
import type { TableReference } from "@/core/relation/relation";
import type { LearnAnswer } from "@/core/steps/step";
import { KEPT } from "../scratch";
import { makeTable, tableOnce } from "./kept";
import { type Workshop } from "./workshop";

/** What a training frame was made of. */
export interface PreparedFrame {
  readonly frame: TableReference;
  readonly shape: FrameShape;
  readonly learned: LearnedValues;
  readonly rows: number;
}

/** Rows and last change of every source, as they are now. */
export async function fingerprint(
  shop: Workshop,
): Promise<Record<string, { rows: number; changedAt: string | null; marker: string }>> {
  return shop.recorder.doing("record sources", async () => {
    const found: Record<string, { rows: number; changedAt: string | null; marker: string }> = {};
    const tables = new Map(
      [...sourcesOf(shop.plan), ...shop.plan.division.tables.map(({ source }) => source)].map((source) => [
        writeTableName(source),
        source,
      ]),
    );
    for (const [name, source] of tables)
      found[name] = await shop.session.facts(source, "rows and last change");
    return {
      value: found,
      detail: Object.entries(found)
        .map(([name, facts]) => `${name} ${formatNumber(facts.rows)} rows`)
        .join(", "),
    };
  });
}

/** Prepares the rows before anything is learned, once, and decides on which side of the holdout, and in which fold, each is. */
export async function buildBase(shop: Workshop, folds: boolean): Promise<BaseTable | undefined> {
  const { plan, recorder, session } = shop;
  if (!needsBase(plan) && !folds) return undefined;
  return recorder.doing("prepare rows and split off the holdout", async () => {
    const { table, rows, kept } = await tableOnce(shop, "base", baseRelation(plan, folds), "prepared rows");
    if (!kept) await session.analyze(table, "count values for the planner");
    return { value: { ...table, folds }, rows, ...(kept ? { detail: KEPT } : {}) };
  });
}

/** What the steps learn from training rows; inside a fold, from those that are not left out. */
export async function learnSteps(shop: Workshop, base: BaseTable, leftOut?: Fold): Promise<LearnedValues> {
  const { plan, recorder, session } = shop;
  const learned: Record<string, unknown> = {};
  const learn = async (position: number): Promise<void> => {
    const { step } = plan.main.steps[position]!;
    const answers: LearnAnswer[] = [];
    for (const question of learnRelations(plan, position, learned, base, leftOut))
      answers.push(
        await session.ask(rowsQuestion(question, `what "${step.name}" learns from training rows`)),
      );
    learned[String(position)] = step.learned(answers);
  };
  for (const [position, { step }] of plan.main.steps.entries()) {
    if (learnRelations(plan, position, learned, base, leftOut).length === 0) continue;
    if (leftOut) await learn(position);
    else await recorder.doing(`learn: ${step.name}`, async () => ({ value: await learn(position) }));
  }
  return learned;
}

/** The values of a column in the rows learned from, as text, in the order of their codes. */
async function levelsOf(
  shop: Workshop,
  name: string,
  learned: LearnedValues,
  base: BaseTable,
  most: number,
  leftOut?: Fold,
): Promise<readonly (string | null)[] | undefined> {
  const relation = levelsRelation(shop.plan, name, learned, base, leftOut);
  const levels = await shop.session.ask(levelsQuestion(relation, most + 1, `categories of ${name}`));
  if (levels.length > most) return undefined;
  const texts = levels.filter((level) => level !== null).sort();
  return levels.includes(null) ? [...texts, null] : texts;
}

/** Which columns the frame will have, given what was learned. */
export async function shapeOf(
  shop: Workshop,
  candidate: Candidate,
  learned: LearnedValues,
  base: BaseTable | undefined,
  leftOut?: Fold,
): Promise<FrameShape> {
  const { plan } = shop;
  const most = candidate.settings.most_levels;
  const names = base
    ? plan.features.filter((feature) => feature.kind === "category").map((feature) => feature.name)
    : [];
  const categories: CategoryLevels[] = [];
  for (const name of names) {
    const levels = await levelsOf(shop, name, learned, base!, most, leftOut);
    if (!levels)
      throw new ProblemError(
        problem(
          "too_many_levels",
          `"${name}" has more than ${most} different texts in the training rows.`,
          "Exclude it if it is an identifier or free text; or raise most_levels in the candidate's settings.",
        ),
      );
    categories.push({ column: name, levels });
  }
  const shape: FrameShape = {
    numbers: numberColumns(plan, learned),
    categories,
    texts: textColumns(plan, learned),
  };
  const small = shape.numbers.filter((number) => isIndicator(plan, number)).length + categories.length;
  const features = shape.numbers.length + categories.length;
  const { name: kind, limits } = shop.context.warehouse.dialect;
  if (features > limits.tableColumns || 8 * (features - small) + 4 * small > limits.rowBytes) {
    throw new ProblemError(
      problem(
        "too_many_columns",
        `The frame would have ${formatNumber(features)} features; a ${kind} row holds about ${formatNumber(limits.rowBytes / 8)} numbers, or ${formatNumber(limits.tableColumns)} one-hot columns.`,
        "Leave category columns unencoded (algorithms handle them), or learn fewer terms.",
      ),
    );
  }
  if (plan.file.roles.target.kind !== "classes") return shape;
  // Classes are those of all training rows: a fold that lacks one must still know its name.
  const { column } = plan.file.roles.target;
  const found = await levelsOf(shop, column, learned, base!, MOST_CLASSES);
  if (!found)
    throw new ProblemError(
      problem(
        "too_many_classes",
        `"${column}" has more than ${MOST_CLASSES} classes in the training rows.`,
        "Group rare ones in an earlier step, or predict a number.",
      ),
    );
  const classes = found.filter((part) => part !== null);
  if (classes.length < found.length)
    throw new ProblemError(
      problem(
        "target_missing",
        `Some training rows have no "${column}".`,
        "Restrict rows.train to rows whose target is known, or fill the target.",
      ),
    );
  if (classes.length < 2)
    throw new ProblemError(
      problem(
        "one_class",
        `All training rows have the same target value (${classes[0] ?? "none"}).`,
        "Check the target column; training needs two classes.",
      ),
    );
  return { ...shape, classes };
}

/** Builds the frame that learners ask about. */
export async function buildFrame(
  shop: Workshop,
  shape: FrameShape,
  learned: LearnedValues,
  base: BaseTable | undefined,
  folds: boolean,
): Promise<PreparedFrame & { readonly kept: boolean }> {
  const { table, rows, kept } = await tableOnce(
    shop,
    "frame",
    frameRelation(shop.plan, shape, learned, { base, folds }),
    "training frame",
  );
  return { frame: table, shape, learned, rows, kept };
}

/** Builds the frame of one fold, with what was learned without it. */
export async function buildFoldFrame(
  shop: Workshop,
  shape: FrameShape,
  learned: LearnedValues,
  base: BaseTable,
  fold: Fold,
): Promise<PreparedFrame> {
  const frame = shop.scratch("frame", `f${fold.fold}`);
  return {
    frame,
    shape,
    learned,
    rows: await makeTable(
      shop,
      frame,
      frameRelation(shop.plan, shape, learned, { base, folds: true, leftOut: fold }),
      "training frame",
    ),
  };
}

/** Stops where the key does not name one row. */
export async function checkKey(shop: Workshop, frame: TableReference): Promise<void> {
  const { plan, recorder, session } = shop;
  await recorder.doing("check that the key is unique", async () => {
    const repeated = repeatedKeys(plan, frame);
    const rows = await session.ask(someRowsQuestion(repeated, 5, "keys that repeat or are missing"));
    if (rows.length > 0) {
      const examples = rows
        .map(
          (row) =>
            `${plan.file.roles.key.map((name) => String(row[name] ?? "(missing)")).join(", ")} (${String(row[KEY_ROWS])} rows)`,
        )
        .join("; ");
      throw new ProblemError(
        problem(
          "key_repeats",
          `The key ${plan.file.roles.key.join(", ")} is not unique among the rows to train on, for example ${examples}.`,
          "Remove duplicates in an earlier step, or choose a key that identifies one row.",
        ),
      );
    }
    return { value: undefined };
  });
}

/** Looks at the file's checks; each warns or stops. */
export async function checkRows(shop: Workshop, learned: LearnedValues): Promise<void> {
  const { plan, recorder, session } = shop;
  for (const check of plan.file.checks) {
    await recorder.doing(`check: ${check.name}`, async () => {
      const failing = await session.ask(
        rowCountQuestion(failingCheck(plan, check.expect, learned, plan.train), check.expect),
      );
      const found = problem(
        "check_failed",
        `${formatNumber(failing)} rows fail the check "${check.name}": ${check.expect}.`,
        "Inspect those rows, or correct the check.",
      );
      if (failing > 0 && check.otherwise === "stop") throw new ProblemError(found);
      if (failing > 0) await recorder.warn([found]);
      return {
        value: undefined,
        rows: failing,
        detail: failing === 0 ? "all rows pass" : `${formatNumber(failing)} rows fail`,
      };
    });
  }
}

/**
 * Counts whether holdout and folds can be filled, so that what cannot be judged is known before anything is trained.
 * @param searches whether a search ranks settings by the folds
 */
export async function checkParts(
  shop: Workshop,
  learned: LearnedValues,
  from: FrameRows,
  searches: boolean,
): Promise<void> {
  const { plan, recorder, session } = shop;
  await recorder.doing("count the rows of holdout and folds", async () => {
    const parts = partsRelation(plan, learned, from);
    const rows = await session.ask(rowsQuestion(parts, "rows by side, fold and class"));
    const found = unfilledParts(plan.file, readParts(rows), from.folds === true, searches);
    const errors = found.filter((problem) => problem.severity === "error");
    if (errors.length > 0) throw new ProblemError(...errors);
    await recorder.warn(found);
    return {
      value: undefined,
      detail: found.length > 0 ? `${found.length} to review` : "none empty",
    };
  });
}
