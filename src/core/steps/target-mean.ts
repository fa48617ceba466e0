import { z } from "zod";
import {
  allOf,
  asDouble,
  binary,
  call,
  cast,
  column,
  countRows,
  double,
  integer,
  isNotNull,
  text,
  type Expression,
} from "../expression/ast";
import { hasOneOf, valuesOf } from "../expression/has-value";
import { problem } from "../problem";
import { filter, outputColumns, withColumns } from "../relation/relation";
import { hidden } from "../names/hidden";
import { isNumber, type ValueType } from "../value-type";
import { GROUP, MOST_CATEGORIES, withinLimit } from "./category-answers";
import { asText, checkNewName, columnNames, existing } from "./shared";
import {
  changed,
  defineStep,
  DRAW_COLUMN,
  listNames,
  PART_COLUMN,
  stepCommon,
  type StepKind,
  type TargetRole,
} from "./step";

const settings = z.strictObject({
  do: z.literal("target_mean"),
  ...stepCommon,
  columns: columnNames.describe(
    "Category columns; each is replaced by the mean target of its category in the training rows. Missing is a separate category.",
  ),
  smoothing: z
    .number()
    .min(0)
    .default(20)
    .describe(
      "Weight of the overall mean, in rows: mean = (sum of targets + smoothing * overall mean) / (rows + smoothing). Rare categories stay near the overall mean.",
    ),
  folds: z
    .int()
    .min(2)
    .max(50)
    .default(5)
    .describe(
      "A training row gets the mean of the folds it is not in, so that its own target never leaks into the feature.",
    ),
  keep: z
    .boolean()
    .default(false)
    .describe("true: keeps the category and adds the mean as column NAME_mean."),
});

const FOLD = hidden("step_fold");
/** Stands for missing values; no text can hold it. */
const NOTHING = "\u001f";

const sums = z.record(z.string(), z.object({ rows: z.number(), sum: z.number() }));
/** Rows and sums of the answer by fold and category: all that every leave-one-fold-out mean needs. */
const learnedSchema = z.object({
  folds: z.record(z.string(), z.array(sums)),
  levels: z.record(z.string(), z.array(z.string())),
});
type Sums = z.infer<typeof sums>;

/** The answer as a number, whatever kind of column says it. */
function answer(target: TargetRole, type: ValueType): Expression {
  const positives = target.kind === "binary" ? valuesOf(target.positive) : [];
  if (positives.length > 0 && type !== "boolean")
    return asDouble(cast(hasOneOf(target.column, type, positives).condition, "integer"));
  return asDouble(type === "boolean" ? cast(column(target.column), "integer") : column(target.column));
}

function totals(
  folds: readonly Sums[],
  leftOut: number | undefined,
): { readonly byLevel: ReadonlyMap<string, { rows: number; sum: number }>; readonly mean: number } {
  const byLevel = new Map<string, { rows: number; sum: number }>();
  const all = { rows: 0, sum: 0 };
  folds.forEach((fold, index) => {
    if (index === leftOut) return;
    for (const [level, value] of Object.entries(fold)) {
      const known = byLevel.get(level) ?? { rows: 0, sum: 0 };
      byLevel.set(level, { rows: known.rows + value.rows, sum: known.sum + value.sum });
      all.rows += value.rows;
      all.sum += value.sum;
    }
  });
  return { byLevel, mean: all.rows === 0 ? 0 : all.sum / all.rows };
}

/** The smoothed means as a lookup; categories never seen get the overall mean. */
function meanLookup(name: string, folds: readonly Sums[], smoothing: number, leftOut?: number): Expression {
  const { byLevel, mean } = totals(folds, leftOut);
  const smooth = (group: { rows: number; sum: number }): number =>
    group.rows + smoothing === 0 ? mean : (group.sum + smoothing * mean) / (group.rows + smoothing);
  const entries = [...byLevel]
    .filter(([level]) => level !== NOTHING)
    .map(([level, value]): readonly [string, number] => [level, smooth(value)]);
  const missing = byLevel.get(NOTHING);
  return {
    kind: "lookup",
    operand: asText(column(name)),
    entries,
    missing: double(missing ? smooth(missing) : mean),
    otherwise: double(mean),
    type: "double precision",
  };
}

const foldOf = (folds: number): Expression =>
  cast(call("floor", binary(column(DRAW_COLUMN), "*", integer(folds))), "integer");

export const targetMeanStep: StepKind = defineStep({
  kind: "target_mean",
  title: "Target encode",
  help: {
    about:
      "Replaces a category by the mean target of its training rows, smoothed towards the overall mean. A training row gets the mean without its own fold, so that its target does not leak into its feature.",
    words: ["target encoding", "mean encoding", "likelihood", "encoding", "mean answer"],
    missing: "Missing is a separate category. Unseen categories get the overall mean.",
    example: "columns: [site_id]\nsmoothing: 20\nkeep: true",
  },
  settings,
  sentence: (current) => `mean target for each ${listNames(current.columns)}`,
  check: (current, context) => {
    const { target } = context;
    const state = context.column(target.column, ["do"]);
    if (state && state.type !== "boolean" && !isNumber(state.type) && target.positive === undefined)
      context.report(
        problem(
          "type_clash",
          `The target "${target.column}" is ${state.type}, and has no mean.`,
          "Use this step with yes/no or number targets.",
        ),
        ["do"],
      );
    const written = existing(context, current.columns, ["columns"]).map((found) => {
      const name = current.keep ? `${found.name}_mean` : found.name;
      if (current.keep) checkNewName(context, name, ["columns"]);
      if (found.bundle)
        context.report(
          problem("bundle_read", `"${found.name}" has already been encoded.`, "Remove it here."),
          ["columns"],
        );
      if (found.name === target.column)
        context.report(problem("role_clash", `"${found.name}" is the target itself.`, "Remove it here."), [
          "columns",
        ]);
      return context.written(name, { type: "double precision", nullable: false }, [found]);
    });
    return {
      output: changed(context.input, written),
      reads: [...current.columns, target.column],
      writes: written.map((column) => column.name),
      drops: [],
    };
  },
  learn: {
    schema: learnedSchema,
    questions: (current, _input, types, target) => {
      const value = answer(target, types.get(target.column)?.type ?? "boolean");
      return current.columns.map((name) => ({
        rows: (training) => filter(training, isNotNull(column(target.column))),
        by: [
          { name: GROUP, expression: call("coalesce", asText(column(name)), text(NOTHING)) },
          { name: FOLD, expression: foldOf(current.folds) },
        ],
        measures: [
          { name: "rows", expression: countRows },
          { name: "sum", expression: call("sum", value) },
        ],
        limit: {
          order: [{ expression: column(GROUP) }, { expression: column(FOLD) }],
          rows: MOST_CATEGORIES + 1,
        },
      }));
    },
    decode: (current, answers) => {
      const folds = Object.fromEntries(
        current.columns.map((name, index) => {
          const parts = Array.from({ length: current.folds }, (): Sums => ({}));
          for (const row of withinLimit(answers[index] ?? [], name, current.name ?? "target_mean"))
            parts[Number(row[FOLD])]![String(row[GROUP])] = {
              rows: Number(row["rows"]),
              sum: Number(row["sum"]),
            };
          return [name, parts];
        }),
      );
      return {
        folds,
        levels: Object.fromEntries(
          Object.entries(folds).map(([name, parts]) => [
            name,
            [...new Set(parts.flatMap((part) => Object.keys(part)))].filter((level) => level !== NOTHING),
          ]),
        ),
      };
    },
  },
  apply: (current, input, learned) => {
    const present = outputColumns(input);
    const split = present.includes(PART_COLUMN);
    return withColumns(
      input,
      current.columns
        .filter((name) => present.includes(name))
        .map((name) => {
          const folds = learned?.folds[name] ?? [];
          const everywhere = meanLookup(name, folds, current.smoothing);
          // Only training rows were learned from; holdout rows and rows to score get the mean over all of them.
          const branches = folds.map((_, fold) => ({
            when: allOf([
              binary(column(PART_COLUMN), "=", integer(0)),
              binary(foldOf(current.folds), "=", integer(fold)),
            ]),
            then: meanLookup(name, folds, current.smoothing, fold),
          }));
          return {
            name: current.keep ? `${name}_mean` : name,
            expression:
              split && branches.length > 0
                ? { kind: "case" as const, branches, otherwise: everywhere }
                : everywhere,
          };
        }),
    );
  },
});
