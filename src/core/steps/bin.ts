import { z } from "zod";
import { asDouble, binary, call, column, double, integer, isNull, type Expression } from "../expression/ast";
import { problem } from "../problem";
import { outputColumns, withColumns, type NamedExpression } from "../relation/relation";
import { checkNewName, columnNames, numberOrNull, ofFamily, typedNull } from "./shared";
import { changed, defineStep, listNames, stepCommon, type StepKind } from "./step";

const count = z.int().min(2).max(200);
const settings = z.strictObject({
  do: z.literal("bin"),
  ...stepCommon,
  columns: columnNames.describe("The number columns to cut into bins. Missing values stay missing."),
  at: z
    .union([
      z.strictObject({ edges: z.array(z.number()).min(1).max(200) }),
      z.strictObject({ equal_width: count }),
      z.strictObject({ quantiles: count }),
    ])
    .describe(
      "{edges: [..]}: given edges. {equal_width: n}: n equal-width bins between the smallest and largest training value. {quantiles: n}: n bins with about equal numbers of training rows.",
    ),
  keep: z
    .boolean()
    .default(false)
    .describe("true: keeps the number and adds the bin as column NAME_bin. false: the bin replaces it."),
});
type Settings = z.infer<typeof settings>;

const learnedSchema = z.object({ columns: z.record(z.string(), z.array(z.number())) });
const target = (current: Settings, name: string): string => (current.keep ? `${name}_bin` : name);
const shares = (bins: number): readonly number[] =>
  Array.from({ length: bins - 1 }, (_, index) => (index + 1) / bins);

/** Where bins end, in words. */
function binWords(at: Settings["at"]): string {
  if ("edges" in at) return `bins at ${listNames(at.edges.map(String))}`;
  return "equal_width" in at ? `${at.equal_width} equal-width bins` : `${at.quantiles} quantile bins`;
}

/** The bin's number from 1: one more than the number of edges that are at or below the value. Values beyond the training range fall into the outer bins. */
function binOf(name: string, edges: readonly number[]): Expression {
  const value = asDouble(column(name));
  const branches = [
    { when: isNull(column(name)), then: typedNull("integer") },
    ...edges.map((edge, index) => ({ when: binary(value, "<", double(edge)), then: integer(index + 1) })),
  ];
  return { kind: "case", branches, otherwise: integer(edges.length + 1) };
}

export const binStep: StepKind = defineStep({
  kind: "bin",
  title: "Bin numbers",
  help: {
    about: "Bins numbers; bins are numbered from 1.",
    words: ["quantile", "bucket", "discretise", "discretize", "decile", "histogram", "cut"],
    missing: "Missing stays missing.",
    example: "columns: [weight_g]\nat: {quantiles: 5}\nkeep: true",
  },
  settings,
  sentence: (current) => `${listNames(current.columns)} into ${binWords(current.at)}`,
  check: (current, context) => {
    if (
      "edges" in current.at &&
      current.at.edges.some((edge, index, all) => index > 0 && edge <= all[index - 1]!)
    )
      context.report(
        problem(
          "bad_bounds",
          "The edges are not increasing.",
          "List them in ascending order, without repeats.",
        ),
        ["at"],
      );
    const written = ofFamily(context, current.columns, ["columns"], "number", "cut into bins").map(
      (found) => {
        if (current.keep) checkNewName(context, target(current, found.name), ["columns"]);
        return context.written(target(current, found.name), { type: "integer", nullable: found.nullable }, [
          found,
        ]);
      },
    );
    return {
      output: changed(context.input, written),
      reads: current.columns,
      writes: written.map((column) => column.name),
      drops: [],
    };
  },
  learn: {
    when: (current) => !("edges" in current.at),
    schema: learnedSchema,
    questions: (current) => [
      {
        measures: current.columns.flatMap((name, place): NamedExpression[] => {
          const value = asDouble(column(name));
          if (!("quantiles" in current.at))
            return [
              { name: `l${place}`, expression: call("min", value) },
              { name: `h${place}`, expression: call("max", value) },
            ];
          return shares(current.at.quantiles).map((share, index) => ({
            name: `q${index}_${place}`,
            expression: { ...call("percentile_cont", double(share)), withinGroup: value },
          }));
        }),
      },
    ],
    decode: (current, [[row = {}] = []]) => ({
      columns: Object.fromEntries(
        current.columns.map((name, place) => {
          if ("quantiles" in current.at) {
            const found = shares(current.at.quantiles).flatMap(
              (_, index) => numberOrNull(row[`q${index}_${place}`]) ?? [],
            );
            // Many equal values make equal quantiles; a bin between two equal edges would be empty.
            return [name, [...new Set(found)]];
          }
          const [low, high] = [numberOrNull(row[`l${place}`]), numberOrNull(row[`h${place}`])];
          if (low === null || high === null || low === high || !("equal_width" in current.at))
            return [name, []];
          return [name, shares(current.at.equal_width).map((share) => low + share * (high - low))];
        }),
      ),
    }),
  },
  apply: (current, input, learned) => {
    const present = outputColumns(input);
    return withColumns(
      input,
      current.columns
        .filter((name) => present.includes(name))
        .map((name) => ({
          name: target(current, name),
          expression: binOf(name, "edges" in current.at ? current.at.edges : (learned?.columns[name] ?? [])),
        })),
    );
  },
});
