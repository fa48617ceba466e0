import { z } from "zod";
import { binary, call, cast, column, double, sumOf, type Expression } from "../../expression/ast";
import { failure, problem, success, type Result } from "../../problem";
import { checkTarget } from "../linear/diagnose";
import type { Fitted, FitOptions } from "../fitting";
import { fitRecord } from "../fit-record";
import { isConstant } from "../left-out";
import type { FrameQuestions } from "../questions";
import type { BayesSettings } from "./facts";
import type { FeatureRow } from "../task";

const perClass = z.array(z.number());

/** A naive Bayes model as data: what each feature says for each class, on the logarithmic scale. */
export const bayesModelSchema = z.object({
  algorithm: z.literal("naive_bayes"),
  /** Whether the classes are no and yes. */
  binary: z.boolean(),
  /** Logarithms of the classes' shares. */
  priors: perClass,
  /** Numbers that are normal within each class. */
  normals: z.array(z.object({ column: z.string(), means: perClass, deviations: perClass })),
  /** Logarithm of each level's probability, by class. A category never seen says nothing. */
  categories: z.array(
    z.object({
      column: z.string(),
      levels: z.array(z.object({ level: z.string().nullable(), logs: perClass })),
    }),
  ),
  /** Terms of texts: logarithm of each term's probability, by class; the value says how often it occurs. */
  terms: z.array(z.object({ column: z.string(), logs: perClass })),
  fit: fitRecord,
});
export type BayesModel = z.infer<typeof bayesModelSchema>;

/** A class's deviation is kept at least at this share of the column's own, so that a constant does not decide everything. */
const LEAST_DEVIATION = 1e-3;

/**
 * Fits naive Bayes: normal densities for numbers, smoothed shares for categories, a multinomial over the terms of each text.
 * Numbers that are missing say nothing. Source: Hastie, Tibshirani and Friedman, The Elements of Statistical Learning, 2nd ed.,
 * section 6.6.3; McCallum and Nigam, "A comparison of event models for naive Bayes text classification", 1998.
 */
export async function fitBayes(
  ask: FrameQuestions,
  settings: BayesSettings,
  options: FitOptions,
): Promise<Result<Fitted<BayesModel>>> {
  const summary = await ask.summary();
  const found = checkTarget(summary);
  if (found.length > 0) return failure(...found);
  const broken = summary.numbers.find(
    (number) => number.missing < summary.rows && !Number.isFinite(number.deviation),
  );
  if (broken)
    return failure(
      problem(
        "not_finite",
        `The feature "${broken.column}" has infinite or NaN values.`,
        "Filter those rows, or derive a finite value.",
      ),
    );
  const tables = await ask.classTables();
  const texts = options.texts ?? [];
  const inText = new Set(texts.flat());
  const classes = summary.classes.length;
  const normals = tables.numbers
    .filter((number) => !inText.has(number.column))
    .flatMap(({ column: name, byClass }) => {
      const own = summary.numbers.find((number) => number.column === name)!;
      if (own.missing === summary.rows || isConstant(own)) return [];
      const means = byClass.map((moments) => (moments.weight > 0 ? moments.mean : own.mean));
      const deviations = byClass.map((moments) =>
        Math.max(
          moments.weight > 1 ? Math.sqrt(moments.squares / (moments.weight - 1)) : own.deviation,
          LEAST_DEVIATION * own.deviation,
        ),
      );
      return [{ column: name, means, deviations }];
    });
  const totals = summary.classes.map((oneClass) => oneClass.weight);
  const categories = options.categories.map((category) => {
    const { counts } = tables.categories.find((oneCategory) => oneCategory.column === category.column)!;
    const levels = category.levels.map((level, index) => ({
      level,
      logs: totals.map((total, code) =>
        Math.log(
          (counts[index]![code]! + settings.smoothing) /
            (total + settings.smoothing * category.levels.length),
        ),
      ),
    }));
    return { column: category.column, levels };
  });
  const terms = texts.flatMap((names) => {
    const sums = names.map((name) =>
      tables.numbers
        .find((number) => number.column === name)!
        .byClass.map((moments) => (moments.weight > 0 ? moments.sum : 0)),
    );
    const whole = Array.from({ length: classes }, (_, code) =>
      sums.reduce((total, sum) => total + sum[code]!, 0),
    );
    return names.map((name, index) => ({
      column: name,
      logs: whole.map((total, code) =>
        Math.log((sums[index]![code]! + settings.smoothing) / (total + settings.smoothing * names.length)),
      ),
    }));
  });
  if (
    settings.smoothing === 0 &&
    [...categories.flatMap((category) => category.levels), ...terms].some(({ logs }) =>
      logs.some((log) => !Number.isFinite(log)),
    )
  ) {
    return failure(
      problem(
        "never_together",
        "A category or term never occurs with one of the classes, so its probability would be 0.",
        "Set smoothing above 0, such as 1.",
      ),
    );
  }
  return success({
    warnings: [],
    model: {
      algorithm: "naive_bayes",
      binary: ask.task.kind === "binary",
      priors: totals.map((total) => Math.log(total / summary.weight)),
      normals,
      categories,
      terms,
      fit: { rows: summary.rows, engine: ask.engine, numbersOut: ask.numbersOut(), passes: [] },
    },
  });
}

const LOG_ROOT_TAU = 0.5 * Math.log(2 * Math.PI);

/** What each feature adds to the logarithm of each class's share, for a row. */
export function evidence(
  model: BayesModel,
  row: FeatureRow,
): readonly { readonly column: string; readonly logs: readonly number[] }[] {
  const nothing = model.priors.map(() => 0);
  return [
    ...model.normals.map(({ column: name, means, deviations }) => {
      const value = row[name];
      if (value === null || value === undefined) return { column: name, logs: nothing };
      return {
        column: name,
        logs: means.map(
          (mean, code) =>
            -0.5 *
              ((Number(value) - mean) / deviations[code]!) *
              ((Number(value) - mean) / deviations[code]!) -
            (Math.log(deviations[code]!) + LOG_ROOT_TAU),
        ),
      };
    }),
    ...model.categories.map((category) => ({
      column: category.column,
      logs: category.levels.find((level) => level.level === (row[category.column] ?? null))?.logs ?? nothing,
    })),
    ...model.terms.map(({ column: name, logs }) => ({
      column: name,
      logs: logs.map((log) => Number(row[name] ?? 0) * log),
    })),
  ];
}

/** The logarithm of one class's share times its probability of the row. */
export function logShareExpression(
  model: BayesModel,
  code: number,
  number: (name: string) => Expression,
): Expression {
  const zero = double(0);
  return sumOf([
    double(model.priors[code]!),
    ...model.normals.map(({ column: name, means, deviations }) => {
      const scaled = binary(binary(number(name), "-", double(means[code]!)), "/", double(deviations[code]!));
      return call(
        "coalesce",
        binary(
          binary(binary(double(-0.5), "*", scaled), "*", scaled),
          "-",
          double(Math.log(deviations[code]!) + LOG_ROOT_TAU),
        ),
        zero,
      );
    }),
    ...model.categories.map(({ column: name, levels }): Expression => {
      const missing = levels.find((level) => level.level === null)?.logs[code] ?? 0;
      const entries = levels.flatMap((level): (readonly [string, number])[] =>
        level.level === null ? [] : [[level.level, level.logs[code]!]],
      );
      return {
        kind: "lookup",
        operand: cast(column(name), "text"),
        entries,
        missing: double(missing),
        otherwise: zero,
        type: "double precision",
      };
    }),
    ...model.terms.map(({ column: name, logs }) =>
      binary(call("coalesce", number(name), zero), "*", double(logs[code]!)),
    ),
  ]);
}
