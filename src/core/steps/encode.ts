import { z } from "zod";
import {
  allOf,
  binary,
  call,
  cast,
  column,
  integer,
  isNotNull,
  text,
  when,
  type Expression,
} from "../expression/ast";
import { problem, ProblemError } from "../problem";
import { outputColumns, project, type NamedExpression } from "../relation/relation";
import { isUsableIdentifier } from "../names/identifier";
import { defineStep, listNames, stepCommon, type ColumnState, type StepKind } from "./step";

const settings = z.strictObject({
  do: z.literal("encode"),
  ...stepCommon,
  columns: z
    .array(z.string())
    .min(1)
    .describe("Category columns; each is replaced by one 0/1 column per category in the training rows."),
  unseen: z
    .enum(["zero", "other"])
    .default("zero")
    .describe("For unseen categories: all columns 0, or an additional column NAME=other that is 1."),
  reference: z
    .enum(["first", "none"])
    .default("first")
    .describe(
      "first: the alphabetically first category is the reference and gets no column. none: every category gets a column.",
    ),
  most_levels: z
    .int()
    .min(2)
    .max(500)
    .default(100)
    .describe("Maximum number of categories; with more, the run stops."),
});
type Settings = z.infer<typeof settings>;

const learnedSchema = z.object({ levels: z.record(z.string(), z.array(z.string())) });

/** Name of an indicator column, cut to what PostgreSQL can hold; the index keeps cut names apart. */
export function indicatorName(columnName: string, level: string, index: number): string {
  const full = `${columnName}=${level}`;
  if (isUsableIdentifier(full)) return full;
  let cut = full;
  while (cut.length > 0 && !isUsableIdentifier(`${cut}~${index}`)) cut = cut.slice(0, -1);
  return `${cut}~${index}`;
}

function indicators(current: Settings, name: string, levels: readonly string[]): readonly NamedExpression[] {
  const value = cast(column(name), "text");
  const flag = (condition: Expression): Expression => when(condition, integer(1), integer(0));
  const own = levels
    .map((level, index) => ({
      name: indicatorName(name, level, index),
      expression: flag(binary(value, "=", text(level))),
    }))
    .filter((_, index) => current.reference === "none" || index > 0);
  if (current.unseen === "zero" || levels.length === 0) return own;
  const unknown = allOf([
    isNotNull(column(name)),
    { kind: "in", operand: value, values: levels.map(text), negated: true },
  ]);
  // A category may itself be called "other".
  let label = "other";
  while (levels.includes(label)) label = `${label} (unseen)`;
  return [...own, { name: indicatorName(name, label, levels.length), expression: flag(unknown) }];
}

export const encodeStep: StepKind = defineStep({
  kind: "encode",
  title: "One-hot encode",
  help: {
    about: "Replaces a category by one 0/1 column per category in the training rows.",
    words: ["one-hot", "one hot", "dummy", "indicator", "categorical", "encoding", "encode categories"],
    missing: "A missing category is 0 in every column.",
    example: "columns: [size_class]\nunseen: other",
  },
  settings,
  sentence: (current) => `one-hot encode ${listNames(current.columns)}`,
  check: (current, context) => {
    const output = new Map(context.input);
    for (const [index, name] of current.columns.entries()) {
      const found = context.column(name, ["columns", index]);
      if (!found) continue;
      if (found.bundle)
        context.report(problem("bundle_read", `"${name}" has already been encoded.`, "Remove it here."), [
          "columns",
          index,
        ]);
      const bundle: ColumnState = {
        ...context.written(name, { type: "integer", nullable: false }, [found]),
        bundle: true,
      };
      output.set(name, bundle);
    }
    return { output, reads: current.columns, writes: current.columns, drops: [] };
  },
  learn: {
    schema: learnedSchema,
    questions: (current) => [
      {
        measures: current.columns.map((name, place) => ({
          name: `l${place}`,
          expression: {
            ...call("distinct_values", cast(column(name), "text")),
            filter: isNotNull(column(name)),
          },
        })),
      },
    ],
    decode: (current, [[row = {}] = []]) => ({
      levels: Object.fromEntries(
        current.columns.map((name, place) => {
          const levels = [...((row[`l${place}`] ?? []) as string[])].sort();
          if (levels.length > current.most_levels) {
            throw new ProblemError(
              problem(
                "too_many_levels",
                `"${name}" has ${levels.length} categories in the training rows; at most ${current.most_levels} get a column each.`,
                "Leave it unencoded (algorithms handle categories), group rare ones, or raise most_levels.",
                { step: current.name ?? "encode" },
              ),
            );
          }
          return [name, levels];
        }),
      ),
    }),
  },
  apply: (current, input, learned) => {
    const items = outputColumns(input).flatMap((name): readonly NamedExpression[] => {
      const levels = current.columns.includes(name) ? learned?.levels[name] : undefined;
      return levels ? indicators(current, name, levels) : [{ name, expression: column(name) }];
    });
    return project(input, items);
  },
});
