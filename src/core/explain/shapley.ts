import { contributions, type LinearPart } from "../learn/linear/linear-part";
import type { FeatureRow } from "../learn/task";
import { goesLeft, type Tree } from "../learn/trees/tree";

/** What each column adds to a prediction, beside what is predicted without knowing anything. */
export interface Reasons {
  /** The mean prediction (of the predictor: log odds, or the number). */
  readonly base: number;
  readonly parts: readonly { readonly column: string; readonly value: number }[];
}

/**
 * Exact Shapley values of a weighted sum, columns taken as independent: what a column adds beyond what it adds on average.
 * Source: Lundberg and Lee, "A unified approach to interpreting model predictions", NIPS 2017, corollary 1.
 * @param means mean of each number column over the rows that explanations are measured against
 */
export function linearReasons(
  part: LinearPart,
  row: FeatureRow,
  means: Readonly<Record<string, number>>,
): Reasons {
  const usual = new Map<string, number>([
    ...part.numbers.map((number): [string, number] => [
      number.column,
      number.coefficient * (means[number.column] ?? number.fill ?? 0),
    ]),
    ...part.categories.map((category): [string, number] => {
      const rows = category.levels.reduce((sum, level) => sum + level.rows, 0);
      return [
        category.column,
        rows > 0
          ? category.levels.reduce((sum, level) => sum + (level.coefficient * level.rows) / rows, 0)
          : category.unseen,
      ];
    }),
  ]);
  const parts = contributions(part, row).map(({ column, value }) => ({
    column,
    value: value - (usual.get(column) ?? 0),
  }));
  return { base: [...usual.values()].reduce((sum, value) => sum + value, part.intercept), parts };
}

interface PathStep {
  readonly column: string | undefined;
  /** Share of the rows that pass when the column is unknown, and whether this row passes when it is known. */
  readonly zero: number;
  readonly one: number;
  weight: number;
}

/**
 * Exact Shapley values of one number of a tree's prediction, by walking all paths once. An unknown column sends a row both ways,
 * in proportion to the training rows. Source: Lundberg, Erion and Lee, "Consistent individualized feature attribution for tree
 * ensembles", 2018, algorithm 2.
 * @param add receives what each column adds
 * @returns the mean prediction of the tree
 */
export function treeReasons(
  tree: Tree,
  output: number,
  row: FeatureRow,
  add: (column: string, value: number) => void,
): number {
  const { nodes } = tree;
  const walk = (
    position: number,
    before: readonly PathStep[],
    zero: number,
    one: number,
    column: string | undefined,
  ): void => {
    const path = extend(before, zero, one, column);
    const node = nodes[position]!;
    if (node.kind === "leaf") {
      for (let index = 1; index < path.length; index += 1) {
        const step = path[index]!;
        add(step.column!, unwoundSum(path, index) * (step.one - step.zero) * node.value[output]!);
      }
      return;
    }
    const [hot, cold] = goesLeft(node, row) ? [node.left, node.right] : [node.right, node.left];
    // A column met before counts once: its earlier step is taken back.
    const met = path.findIndex((step, index) => index > 0 && step.column === node.column);
    const [kept, zeroBefore, oneBefore] =
      met > 0 ? [unwind(path, met), path[met]!.zero, path[met]!.one] : [path, 1, 1];
    const total = nodes[node.left]!.weight + nodes[node.right]!.weight;
    const share = (child: number): number => (total > 0 ? nodes[child]!.weight / total : 0.5);
    walk(hot, kept, zeroBefore * share(hot), oneBefore, node.column);
    walk(cold, kept, zeroBefore * share(cold), 0, node.column);
  };
  walk(0, [], 1, 1, undefined);
  return meanOf(tree, output);
}

/** The mean prediction over training rows, as the tree sees them. */
export function meanOf(tree: Tree, output: number): number {
  const visit = (position: number): number => {
    const node = tree.nodes[position]!;
    if (node.kind === "leaf") return node.value[output]!;
    const [left, right] = [tree.nodes[node.left]!.weight, tree.nodes[node.right]!.weight];
    const share = left + right > 0 ? left / (left + right) : 0.5;
    return share * visit(node.left) + (1 - share) * visit(node.right);
  };
  return visit(0);
}

function extend(
  before: readonly PathStep[],
  zero: number,
  one: number,
  column: string | undefined,
): PathStep[] {
  const path = before.map((step) => ({ ...step }));
  const length = path.length;
  path.push({ column, zero, one, weight: length === 0 ? 1 : 0 });
  for (let index = length - 1; index >= 0; index -= 1) {
    path[index + 1]!.weight += (one * path[index]!.weight * (index + 1)) / (length + 1);
    path[index]!.weight = (zero * path[index]!.weight * (length - index)) / (length + 1);
  }
  return path;
}

function unwind(path: readonly PathStep[], at: number): PathStep[] {
  const last = path.length - 1;
  const { one, zero } = path[at]!;
  let next = path[last]!.weight;
  const weights = path.map((step) => step.weight);
  for (let index = last - 1; index >= 0; index -= 1) {
    if (one !== 0) {
      const kept = weights[index]!;
      weights[index] = (next * (last + 1)) / ((index + 1) * one);
      next = kept - (weights[index]! * zero * (last - index)) / (last + 1);
    } else weights[index] = (weights[index]! * (last + 1)) / (zero * (last - index));
  }
  const left = path.filter((_, index) => index !== at);
  return left.map((step, index) => ({ ...step, weight: weights[index]! }));
}

function unwoundSum(path: readonly PathStep[], at: number): number {
  return unwind(path, at).reduce((sum, step) => sum + step.weight, 0);
}
