import { evidence, logShareExpression, type BayesModel } from "./naive-bayes";
import { shareOut } from "../links";
import type { ModelKind, Places, Predict } from "../model-kind";
import { softmaxProgram } from "../scoring-program";

/** What each column says for each class, by the columns' places. */
function compileBayes(model: BayesModel, places: Places): Predict {
  const classes = model.priors.length;
  const normals = Int32Array.from(model.normals, (normal) => places.get(normal.column)!);
  // Class by class for each column.
  const [means, deviations, logs] = [
    model.normals.map((normal) => normal.means),
    model.normals.map((normal) => normal.deviations),
    model.normals.map((normal) =>
      normal.deviations.map((deviation) => Math.log(deviation) + 0.5 * Math.log(2 * Math.PI)),
    ),
  ].map((table) => Float64Array.from(table.flat())) as [Float64Array, Float64Array, Float64Array];
  const categories = model.categories.map((category) => ({
    place: places.get(category.column)!,
    levels: new Map(category.levels.map(({ level, logs }) => [level, logs])),
  }));
  const terms = model.terms.map((term) => ({ place: places.get(term.column)!, logs: term.logs }));
  return (values) => {
    const sums = [...model.priors];
    for (let index = 0; index < normals.length; index += 1) {
      const value = values[normals[index]!];
      if (typeof value !== "number") continue;
      for (let code = 0, at = index * classes; code < classes; code += 1, at += 1) {
        const away = (value - means[at]!) / deviations[at]!;
        sums[code]! -= 0.5 * away * away + logs[at]!;
      }
    }
    for (const { place, levels } of categories)
      levels.get((values[place] ?? null) as string | null)?.forEach((log, code) => {
        sums[code]! += log;
      });
    for (const { place, logs } of terms) {
      const value = Number(values[place] ?? 0);
      if (value !== 0) for (let code = 0; code < classes; code += 1) sums[code]! += value * logs[code]!;
    }
    const shares = shareOut(sums);
    return model.binary ? [shares[1]!] : shares;
  };
}

/** The shares of the classes, by what each column says for them by itself. */
export const naiveBayes: ModelKind<BayesModel> = {
  reads: ({ normals, terms, categories }) => ({
    numbers: [...normals, ...terms].map(({ column }) => column),
    categories: categories.map(({ column }) => column),
  }),
  compile: compileBayes,
  program: (model, number) => {
    const program = softmaxProgram(
      [],
      model.priors.map((_, code) => logShareExpression(model, code, number)),
    );
    return model.binary ? { ...program, outputs: [program.outputs[1]!] } : program;
  },
  explain: ({ model, row, output }) => {
    const { binary, priors } = model;
    const parts = evidence(model, row);
    if (!binary)
      return {
        base: priors[output]!,
        parts: parts.map(({ column, logs }) => ({ column, value: logs[output]! })),
        scale: "log of the class's share",
        exact: true,
      };
    return {
      base: priors[1]! - priors[0]!,
      parts: parts.map(({ column, logs }) => ({ column, value: logs[1]! - logs[0]! })),
      scale: "log odds",
      exact: true,
    };
  },
};
