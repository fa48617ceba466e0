import { z } from "zod";
import { binary, call, cast, column, double, sumOf, type Expression } from "../../expression/ast";
import type { FeatureRow } from "../task";

const numberPart = z.object({
  column: z.string(),
  coefficient: z.number(),
  /** What stands in for a missing value; without it, a missing value has no prediction. */
  fill: z.number().optional(),
});

/** A weighted sum of features as data: what scoring needs of every linear model. */
export const linearPartSchema = z.object({
  intercept: z.number(),
  numbers: z.array(numberPart),
  categories: z.array(
    z.object({
      column: z.string(),
      levels: z.array(z.object({ level: z.string().nullable(), rows: z.number(), coefficient: z.number() })),
      /** For a category training never saw: the mean coefficient over training rows. */
      unseen: z.number(),
    }),
  ),
});
export type LinearPart = z.infer<typeof linearPartSchema>;

/** What each feature adds to the sum for a row; NaN for a missing number that nothing stands in for. */
export function contributions(
  part: LinearPart,
  row: FeatureRow,
): readonly { readonly column: string; readonly value: number }[] {
  return [
    ...part.numbers.map((number) => {
      const value = row[number.column] ?? number.fill;
      return {
        column: number.column,
        value: value === undefined || value === null ? Number.NaN : number.coefficient * Number(value),
      };
    }),
    ...part.categories.map((category) => ({
      column: category.column,
      value:
        category.levels.find((level) => level.level === (row[category.column] ?? null))?.coefficient ??
        category.unseen,
    })),
  ];
}

/**
 * The sum over the prepared rows, in the order in which `compileSum` (weighted-sum) adds. NULL when a number is
 * missing.
 * @param number how a number column of the frame is computed from the prepared rows
 */
export function linearExpression(part: LinearPart, number: (name: string) => Expression): Expression {
  return sumOf([
    double(part.intercept),
    ...part.numbers.map((oneNumber) =>
      binary(
        double(oneNumber.coefficient),
        "*",
        oneNumber.fill === undefined
          ? number(oneNumber.column)
          : call("coalesce", number(oneNumber.column), double(oneNumber.fill)),
      ),
    ),
    ...part.categories.map((category): Expression => {
      const missing = category.levels.find((level) => level.level === null)?.coefficient ?? category.unseen;
      const entries = category.levels.flatMap((level): (readonly [string, number])[] =>
        level.level === null ? [] : [[level.level, level.coefficient]],
      );
      return {
        kind: "lookup",
        operand: cast(column(category.column), "text"),
        entries,
        missing: double(missing),
        otherwise: double(category.unseen),
        type: "double precision",
      };
    }),
  ]);
}
