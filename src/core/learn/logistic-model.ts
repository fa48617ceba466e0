import { z } from "zod";
import { binary, call, cast, column, double, sumOf, type Expression } from "../expression/ast";

const coefficientRow = z.object({
  term: z.string(), column: z.string().optional(),
  /** Original units: change of the log odds for one unit. */
  estimate: z.number(), error: z.number(), z: z.number(), p: z.number(),
  /** Change of the log odds for one standard deviation. */
  perDeviation: z.number(),
});
export type CoefficientRow = z.infer<typeof coefficientRow>;

const pass = z.object({ pass: z.number(), scope: z.enum(["all", "sample"]), loss: z.number(), gradientNorm: z.number(), step: z.number() });

/** A fitted logistic regression as data: all that scoring and reading it need. */
export const logisticModelSchema = z.object({
  algorithm: z.literal("logistic_regression"),
  intercept: z.number(),
  numbers: z.array(z.object({ column: z.string(), coefficient: z.number() })),
  categories: z.array(z.object({
    column: z.string(),
    levels: z.array(z.object({ level: z.string().nullable(), rows: z.number(), coefficient: z.number() })),
    /** For a category training never saw: the mean coefficient over training rows. */
    unseen: z.number(),
  })),
  coefficients: z.array(coefficientRow),
  fit: z.object({
    rows: z.number(), positives: z.number(), ridge: z.number(), sampleRows: z.number(), passes: z.array(pass),
    meanLoss: z.number(), gradientNorm: z.number(), errorsFrom: z.enum(["all rows", "sample"]), numbersOut: z.number(),
  }),
});
export type LogisticModel = z.infer<typeof logisticModelSchema>;

/** Beyond this the logistic function is 0 or 1 to double precision, and exp() would overflow in PostgreSQL. */
const MOST_LOG_ODDS = 700;

/**
 * Log odds of a row, by the core's own arithmetic.
 * @param row feature values: numbers for number columns, the text (or null) for categories
 */
export function logOdds(model: LogisticModel, row: Readonly<Record<string, number | string | null>>): number {
  let sum = model.intercept;
  for (const each of model.numbers) {
    const value = row[each.column];
    if (value === null || value === undefined) return Number.NaN;
    sum += each.coefficient * Number(value);
  }
  for (const each of model.categories) {
    const value = row[each.column] ?? null;
    sum += each.levels.find((level) => level.level === value)?.coefficient ?? each.unseen;
  }
  return sum;
}

/** Probability of the positive class from log odds. */
export const probabilityOf = (odds: number): number => 1 / (1 + Math.exp(-Math.max(-MOST_LOG_ODDS, Math.min(MOST_LOG_ODDS, odds))));

/** The log odds as SQL over the prepared rows, term by term in the order of {@link logOdds}. NULL when a number is missing. */
export function logOddsExpression(model: LogisticModel, number: (name: string) => Expression): Expression {
  return sumOf([
    double(model.intercept),
    ...model.numbers.map((each) => binary(double(each.coefficient), "*", number(each.column))),
    ...model.categories.map((each): Expression => {
      const missing = each.levels.find((level) => level.level === null)?.coefficient ?? each.unseen;
      const entries = each.levels.flatMap((level): (readonly [string, number])[] => (level.level === null ? [] : [[level.level, level.coefficient]]));
      return { kind: "lookup", operand: cast(column(each.column), "text"), entries, missing: double(missing), otherwise: double(each.unseen), type: "double precision" };
    }),
  ]);
}

/** The probability as SQL, from an expression of the log odds. */
export function probabilityExpression(odds: Expression): Expression {
  const bounded = call("greatest", double(-MOST_LOG_ODDS), call("least", double(MOST_LOG_ODDS), odds));
  // greatest() and least() pass over NULL, which would turn a missing feature into a certain answer.
  return { kind: "case", branches: [{ when: { kind: "is", operand: odds, test: "null", negated: true }, then: binary(double(1), "/", binary(double(1), "+", call("exp", { kind: "negate", operand: bounded }))) }] };
}
