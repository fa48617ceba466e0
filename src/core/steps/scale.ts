import { z } from "zod";
import { binary, call, cast, column, double, when, isNull, NULL, type Expression } from "../expression/ast";
import { problem } from "../problem";
import { outputColumns, withColumns } from "../relation/relation";
import { isNumber } from "../value-type";
import { changed, defineStep, listNames, stepCommon, type ColumnState, type StepKind } from "./step";

const settings = z.strictObject({
  do: z.literal("scale"),
  ...stepCommon,
  columns: z.array(z.string()).min(1).describe("The number columns to scale."),
  method: z
    .enum(["standard", "min_max", "robust"])
    .default("standard")
    .describe(
      "standard: subtract the mean, divide by the standard deviation. min_max: scale to 0 to 1. robust: subtract the median, divide by the interquartile range, which is insensitive to outliers. All learned from training rows only.",
    ),
});

const learnedSchema = z.object({
  columns: z.record(z.string(), z.object({ centre: z.number().nullable(), spread: z.number().nullable() })),
});

function centreAndSpread(
  method: z.infer<typeof settings>["method"],
  value: Expression,
): readonly [Expression, Expression] {
  const quantile = (share: number): Expression => ({
    ...call("percentile_cont", double(share)),
    withinGroup: value,
  });
  switch (method) {
    case "standard":
      return [call("avg", value), call("stddev_samp", value)];
    case "min_max":
      return [call("min", value), binary(call("max", value), "-", call("min", value))];
    case "robust":
      return [quantile(0.5), binary(quantile(0.75), "-", quantile(0.25))];
  }
}

/** A column without spread in the training rows carries nothing: it becomes 0, not a division by zero. */
export const scaleStep: StepKind = defineStep({
  kind: "scale",
  title: "Scale numbers",
  help: {
    about: "Scales numbers with values learned from training rows.",
    words: ["standardise", "standardize", "normalise", "normalize", "z-score", "min-max", "robust"],
    missing: "Missing stays missing and is ignored. A constant column becomes 0.",
    example: "columns: [weight_g]\nmethod: robust",
  },
  settings,
  sentence: (current) =>
    `scale ${listNames(current.columns)} ${{ standard: "to mean 0, standard deviation 1", min_max: "to 0 to 1", robust: "by median and quartiles" }[current.method]}`,
  check: (current, context) => {
    const written: ColumnState[] = [];
    for (const [index, name] of current.columns.entries()) {
      const found = context.column(name, ["columns", index]);
      if (!found) continue;
      if (found.bundle || !isNumber(found.type))
        context.report(
          problem(
            "type_clash",
            `"${name}" is not a number and cannot be scaled.`,
            "Remove it here, or convert it in a derive step.",
          ),
          ["columns", index],
        );
      written.push(context.written(name, { type: "double precision", nullable: found.nullable }, [found]));
    }
    return {
      output: changed(context.input, written),
      reads: current.columns,
      writes: written.map((column) => column.name),
      drops: [],
    };
  },
  learn: {
    schema: learnedSchema,
    questions: (current) => [
      {
        measures: current.columns.flatMap((name, place) => {
          const value = cast(column(name), "double precision");
          const [centre, spread] = centreAndSpread(current.method, value);
          return [
            { name: `c${place}`, expression: centre },
            { name: `s${place}`, expression: spread },
          ];
        }),
      },
    ],
    decode: (current, [[row = {}] = []]) => ({
      columns: Object.fromEntries(
        current.columns.map((name, place) => [
          name,
          {
            centre: (row[`c${place}`] ?? null) as number | null,
            spread: (row[`s${place}`] ?? null) as number | null,
          },
        ]),
      ),
    }),
  },
  apply: (current, input, learned) => {
    const present = outputColumns(input);
    return withColumns(
      input,
      current.columns
        .filter((name) => present.includes(name))
        .map((name) => {
          const found = learned?.columns[name];
          const value = cast(column(name), "double precision");
          if (!found || found.centre === null) return { name, expression: value };
          if (!found.spread)
            return {
              name,
              expression: when(isNull(column(name)), cast(NULL, "double precision"), double(0)),
            };
          return {
            name,
            expression: binary(binary(value, "-", double(found.centre)), "/", double(found.spread)),
          };
        }),
    );
  },
});
