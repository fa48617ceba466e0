import { hidden } from "../../names/hidden";
import { z } from "zod";
import { binary, call, cast, column, double, sumOf, type Expression } from "../../expression/ast";
import type { NamedExpression } from "../../relation/relation";
import { fitRecord } from "../fit-record";
import type { FeatureRow } from "../task";

const layer = z.object({
  /** weights[unit][input]. */
  weights: z.array(z.array(z.number())),
  offsets: z.array(z.number()),
});

/** A feed-forward network as data. Hidden units are rectified sums; the last layer's sums are the predictors. */
export const networkModelSchema = z.object({
  algorithm: z.literal("neural_network"),
  /** Inputs from number columns: (value, or the mean where missing, minus centre) / spread. */
  numbers: z.array(z.object({ column: z.string(), centre: z.number(), spread: z.number() })),
  /** Inputs from categories: one per level; all 0 for a category never seen. */
  categories: z.array(z.object({ column: z.string(), levels: z.array(z.string().nullable()) })),
  layers: z.array(layer),
  link: z.enum(["identity", "logistic", "softmax"]),
  /** For numbers: prediction = centre + spread * sum. */
  target: z.object({ centre: z.number(), spread: z.number() }),
  fit: fitRecord.extend({ epochs: z.number(), chosen: z.number() }),
});
export type NetworkModel = z.infer<typeof networkModelSchema>;

/** The inputs of the first layer for a row. */
export function inputsOf(model: Pick<NetworkModel, "numbers" | "categories">, row: FeatureRow): number[] {
  return [
    ...model.numbers.map(({ column: name, centre, spread }) => {
      const value = row[name];
      return value === null || value === undefined ? 0 : (Number(value) - centre) / spread;
    }),
    ...model.categories.flatMap(({ column: name, levels }) =>
      levels.map((level) => (level === (row[name] ?? null) ? 1 : 0)),
    ),
  ];
}

/** Sums of the last layer for a row. */
export function networkSums(model: NetworkModel, row: FeatureRow): readonly number[] {
  let values = inputsOf(model, row);
  model.layers.forEach(({ weights, offsets }, depth) => {
    const hidden = depth < model.layers.length - 1;
    values = weights.map((line, unit) => {
      const sum = line.reduce((total, weight, index) => total + weight * values[index]!, offsets[unit]!);
      return hidden ? Math.max(0, sum) : sum;
    });
  });
  return values;
}

const unitName = (depth: number, unit: number): string => hidden(`unit_${depth}_${unit}`);

/** The layers as SQL: one list of named columns for the scaled inputs and one for each layer. The last holds the sums. */
export function networkStages(
  model: NetworkModel,
  number: (name: string) => Expression,
): { readonly stages: readonly (readonly NamedExpression[])[]; readonly sums: readonly Expression[] } {
  const inputs = model.numbers.map(({ column: name, centre, spread }, index): NamedExpression => ({
    name: hidden(`input_${index}`),
    expression: call(
      "coalesce",
      binary(binary(number(name), "-", double(centre)), "/", double(spread)),
      double(0),
    ),
  }));
  const stages = model.layers.map(({ weights, offsets }, depth): readonly NamedExpression[] =>
    weights.map((line, unit) => {
      const hidden = depth < model.layers.length - 1;
      const sum =
        depth > 0
          ? sumOf([
              double(offsets[unit]!),
              ...line.map((weight, index) => binary(double(weight), "*", column(unitName(depth - 1, index)))),
            ])
          : sumOf([
              double(offsets[unit]!),
              ...inputs.map((input, index) => binary(double(line[index]!), "*", column(input.name))),
              ...categorySums(model, line),
            ]);
      return { name: unitName(depth, unit), expression: hidden ? call("greatest", double(0), sum) : sum };
    }),
  );
  return {
    stages: [inputs, ...stages],
    sums: model.layers.at(-1)!.offsets.map((_, unit) => column(unitName(model.layers.length - 1, unit))),
  };
}

/** What the categories add to a unit of the first layer. */
function categorySums(model: NetworkModel, line: readonly number[]): readonly Expression[] {
  let at = model.numbers.length;
  return model.categories.map(({ column: name, levels }): Expression => {
    const weights = line.slice(at, at + levels.length);
    at += levels.length;
    const entries = levels.flatMap((level, index): (readonly [string, number])[] =>
      level === null ? [] : [[level, weights[index]!]],
    );
    return {
      kind: "lookup",
      operand: cast(column(name), "text"),
      entries,
      missing: double(weights[levels.indexOf(null)] ?? 0),
      otherwise: double(0),
      type: "double precision",
    };
  });
}
