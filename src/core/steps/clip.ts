import { z } from "zod";
import { asDouble, call, column, double, isNotNull, when, type Expression } from "../expression/ast";
import { problem } from "../problem";
import { outputColumns, withColumns } from "../relation/relation";
import { isInteger } from "../value-type";
import { columnNames, numberOrNull, ofFamily, typedNull } from "./shared";
import { changed, defineStep, listNames, stepCommon, type StepKind } from "./step";

const bound = z.union([z.number(), z.strictObject({ quantile: z.number().min(0).max(1) })]);
const settings = z.strictObject({
  do: z.literal("clip"),
  ...stepCommon,
  columns: columnNames.describe("The number columns to clip. Missing values stay missing."),
  low: bound
    .optional()
    .describe(
      "Smaller values are set to this: a number, or {quantile: 0.01}, learned from training rows only.",
    ),
  high: bound.optional().describe("Larger values are set to this: a number, or {quantile: 0.99}."),
});
type Settings = z.infer<typeof settings>;

const learnedSchema = z.object({
  columns: z.record(z.string(), z.object({ low: z.number().nullable(), high: z.number().nullable() })),
});
const isLearned = (bound: Settings["low"]): bound is { quantile: number } => typeof bound === "object";
const wholeOnly = (current: Settings): boolean =>
  [current.low, current.high].every(
    (bound) => bound === undefined || (typeof bound === "number" && Number.isInteger(bound)),
  );
const wording = (bound: Settings["low"], none: string): string => {
  if (bound === undefined) return none;
  if (isLearned(bound)) return `quantile ${bound.quantile}`;
  return String(bound);
};

export const clipStep: StepKind = defineStep({
  kind: "clip",
  title: "Clip numbers",
  help: {
    about: "Limits numbers to a range.",
    words: ["winsorise", "winsorize", "cap", "truncate", "outlier", "limit"],
    missing: "Missing stays missing; quantiles ignore missing values.",
    example: "columns: [weight_g]\nlow: 0\nhigh: {quantile: 0.99}",
  },
  settings,
  sentence: (current) =>
    `clip ${listNames(current.columns)} between ${wording(current.low, "no limit")} and ${wording(current.high, "no limit")}`,
  check: (current, context) => {
    if (current.low === undefined && current.high === undefined)
      context.report(
        problem("no_bound", "Neither a low nor a high bound is given.", "Give at least one."),
        [],
      );
    if (typeof current.low === "number" && typeof current.high === "number" && current.low > current.high)
      context.report(problem("bad_bounds", "The low bound lies above the high one.", "Swap them."), ["low"]);
    const written = ofFamily(context, current.columns, ["columns"], "number", "clipped").map((found) =>
      context.written(
        found.name,
        {
          type: isInteger(found.type) && wholeOnly(current) ? found.type : "double precision",
          nullable: found.nullable,
        },
        [found],
      ),
    );
    return {
      output: changed(context.input, written),
      reads: current.columns,
      writes: written.map((column) => column.name),
      drops: [],
    };
  },
  learn: {
    when: (current) => isLearned(current.low) || isLearned(current.high),
    schema: learnedSchema,
    questions: (current) => [
      {
        measures: current.columns.flatMap((name, place) => {
          const quantile = (bound: Settings["low"]): Expression =>
            isLearned(bound)
              ? { ...call("percentile_cont", double(bound.quantile)), withinGroup: asDouble(column(name)) }
              : call("min", typedNull("double precision"));
          return [
            { name: `l${place}`, expression: quantile(current.low) },
            { name: `h${place}`, expression: quantile(current.high) },
          ];
        }),
      },
    ],
    decode: (current, [[row = {}] = []]) => ({
      columns: Object.fromEntries(
        current.columns.map((name, place) => [
          name,
          { low: numberOrNull(row[`l${place}`]), high: numberOrNull(row[`h${place}`]) },
        ]),
      ),
    }),
  },
  apply: (current, input, learned, context) => {
    const present = outputColumns(input);
    return withColumns(
      input,
      current.columns
        .filter((name) => present.includes(name))
        .map((name) => {
          const found = learned?.columns[name];
          const whole = wholeOnly(current) && isInteger(context.input.get(name)?.type ?? "text");
          const constant = (value: number): Expression =>
            whole ? { kind: "literal", type: "number", text: String(value) } : double(value);
          const low = typeof current.low === "number" ? current.low : found?.low;
          const high = typeof current.high === "number" ? current.high : found?.high;
          const value = whole ? column(name) : asDouble(column(name));
          const above = low === null || low === undefined ? value : call("greatest", value, constant(low));
          const clipped = high === null || high === undefined ? above : call("least", above, constant(high));
          // greatest() and least() pass over NULL: a missing value must not become a bound.
          return {
            name,
            expression:
              clipped === value
                ? value
                : when(isNotNull(column(name)), clipped, typedNull(whole ? "bigint" : "double precision")),
          };
        }),
    );
  },
});
