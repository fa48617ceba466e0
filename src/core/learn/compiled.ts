import type { BayesModel } from "./bayes/naive-bayes";
import type { LinearPart } from "./linear/linear-part";
import { columnsRead, predict, probabilityOf, shareOut, treesOf, type Model } from "./model";
import type { FeatureRow } from "./task";
import type { Tree } from "./trees/tree";

/** A row's values in the order of a compiled model's columns. */
export type Values = (number | string | null)[];

/** A model made ready to predict very many rows: columns have places instead of names. */
export interface CompiledModel {
  readonly columns: readonly string[];
  /** The same numbers as {@link predict}. */
  readonly predict: (values: Readonly<Values>) => readonly number[];
}

/** A tree in arrays. A leaf has column -1. */
interface FlatTree {
  readonly column: Int32Array;
  readonly below: Float64Array;
  readonly levels: readonly (ReadonlyMap<string | null, boolean> | undefined)[];
  /** Whether a missing number, or a category never seen, goes left. */
  readonly otherwise: Uint8Array;
  readonly left: Int32Array;
  readonly right: Int32Array;
  readonly value: readonly (readonly number[])[];
}

function flatten({ nodes }: Tree, places: ReadonlyMap<string, number>): FlatTree {
  return {
    column: Int32Array.from(nodes, (node) => (node.kind === "leaf" ? -1 : places.get(node.column)!)),
    below: Float64Array.from(nodes, (node) => (node.kind === "number" ? (node.below ?? Number.NaN) : 0)),
    levels: nodes.map((node) =>
      node.kind === "category"
        ? new Map([
            ...node.levels.map((level) => [level, true] as const),
            ...node.others.map((level) => [level, false] as const),
          ])
        : undefined,
    ),
    otherwise: Uint8Array.from(nodes, (node) =>
      node.kind === "leaf" ? 0 : Number((node.kind === "number" ? node.missing : node.unseen) === "left"),
    ),
    left: Int32Array.from(nodes, (node) => (node.kind === "leaf" ? 0 : node.left)),
    right: Int32Array.from(nodes, (node) => (node.kind === "leaf" ? 0 : node.right)),
    value: nodes.map((node) => node.value),
  };
}

function leafValue(tree: FlatTree, values: Readonly<Values>): readonly number[] {
  let at = 0;
  for (let column = tree.column[0]!; column >= 0; column = tree.column[at]!) {
    const value = values[column];
    const levels = tree.levels[at];
    let goes: boolean;
    if (levels) goes = levels.get((value ?? null) as string | null) ?? tree.otherwise[at] === 1;
    else if (value === null || value === undefined) goes = tree.otherwise[at] === 1;
    else {
      const below = tree.below[at]!;
      goes = Number.isNaN(below) || Number(value) < below;
    }
    at = goes ? tree.left[at]! : tree.right[at]!;
  }
  return tree.value[at]!;
}

type Places = ReadonlyMap<string, number>;

/** A weighted sum of columns by their places. */
function compileSum(part: LinearPart, places: Places): (values: Readonly<Values>) => number {
  const numbers = Int32Array.from(part.numbers, (number) => places.get(number.column)!);
  const coefficients = Float64Array.from(part.numbers, (number) => number.coefficient);
  const fills = Float64Array.from(part.numbers, (number) => number.fill ?? Number.NaN);
  const categories = part.categories.map((category) => ({
    place: places.get(category.column)!,
    unseen: category.unseen,
    levels: new Map(category.levels.map((level) => [level.level, level.coefficient])),
  }));
  return (values) => {
    let sum = part.intercept;
    for (let index = 0; index < numbers.length; index += 1) {
      const value = values[numbers[index]!];
      sum += coefficients[index]! * (typeof value === "number" ? value : fills[index]!);
    }
    for (const { place, unseen, levels } of categories)
      sum += levels.get((values[place] ?? null) as string | null) ?? unseen;
    return sum;
  };
}

/** What each column says for each class, by the columns' places. */
function compileBayes(model: BayesModel, places: Places): (values: Readonly<Values>) => readonly number[] {
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

/** Makes a model ready to predict very many rows. */
export function compileModel(model: Model): CompiledModel {
  const read = columnsRead(model);
  const columns = [...read.numbers, ...read.categories];
  const places = new Map(columns.map((name, index) => [name, index]));
  const trees = treesOf(model).map((tree) => flatten(tree, places));
  if (model.algorithm === "decision_tree")
    return { columns, predict: (values) => leafValue(trees[0]!, values) };
  if (model.algorithm === "random_forest") {
    const outputs = model.trees[0]!.nodes[0]!.value.length;
    return {
      columns,
      predict: (values) => {
        const sums = new Array<number>(outputs).fill(0);
        for (const tree of trees) {
          const value = leafValue(tree, values);
          for (let output = 0; output < outputs; output += 1) sums[output]! += value[output]!;
        }
        return sums.map((sum) => sum / trees.length);
      },
    };
  }
  if (model.algorithm === "boosted_trees") {
    const outputs = model.start.length;
    return {
      columns,
      predict: (values) => {
        const scores = [...model.start];
        trees.forEach((tree, index) => {
          scores[index % outputs]! += leafValue(tree, values)[0]!;
        });
        if (model.link === "softmax") return shareOut(scores);
        if (model.link === "logistic") return [probabilityOf(scores[0]!)];
        return scores;
      },
    };
  }
  if (
    model.algorithm === "linear_regression" ||
    model.algorithm === "logistic_regression" ||
    model.algorithm === "support_vector"
  ) {
    const sum = compileSum(model, places);
    if (model.algorithm === "linear_regression") return { columns, predict: (values) => [sum(values)] };
    const { slope, offset } =
      model.algorithm === "support_vector" ? model.calibration : { slope: 1, offset: 0 };
    return { columns, predict: (values) => [probabilityOf(slope * sum(values) + offset)] };
  }
  if (model.algorithm === "naive_bayes") return { columns, predict: compileBayes(model, places) };
  if (model.algorithm === "multinomial_regression") {
    const parts = model.predictors.map((part) => compileSum(part, places));
    return { columns, predict: (values) => shareOut([0, ...parts.map((part) => part(values))]) };
  }
  return {
    columns,
    predict: (values) =>
      predict(model, Object.fromEntries(columns.map((name, index) => [name, values[index] ?? null]))),
  };
}

/** A row's values in the order of the columns. */
export const valuesOf = (row: FeatureRow, columns: readonly string[]): Values =>
  columns.map((name) => row[name] ?? null);
