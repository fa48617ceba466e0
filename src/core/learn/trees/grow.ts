import type { CategoryLevels } from "../../plan/frame";
import { bestCategorySplit, bestNumberSplit, rowsIn, type FoundSplit, type SplitRules } from "./split";
import type { Tree, TreeNode } from "./tree";
import type { AppliedSplit, NodeHistogram, RowSample, TreeQuestions } from "./tree-questions";

/** Columns of the frame as trees see them: numbers first, then categories. */
export interface TreeColumns {
  readonly numbers: readonly string[];
  readonly categories: readonly CategoryLevels[];
  readonly cuts: readonly Float64Array[];
}

export interface GrowRules extends SplitRules {
  readonly depth: number;
  /** Columns that a node may split on. The same for all nodes of a tree lets half of the histograms be had by subtraction. */
  readonly columns:
    | { readonly kind: "tree"; readonly columns: readonly number[] }
    | { readonly kind: "node"; readonly pick: (node: number) => readonly number[] };
}

/** A node while its tree grows. */
export interface GrownNode {
  readonly number: number;
  readonly depth: number;
  readonly sums: Float64Array;
  readonly split?: AppliedSplit & { readonly gain: number };
}

export interface GrownTree {
  readonly nodes: readonly GrownNode[];
  readonly splits: readonly AppliedSplit[];
  /** Numbers of the nodes that were not split. */
  readonly leaves: readonly number[];
  readonly gini: boolean;
}

interface Open {
  readonly node: GrownNode;
  readonly parent?: { readonly histogram: NodeHistogram; readonly sibling: number };
}

/**
 * Grows one tree, level by level, from histograms alone. Every split is the best of its node; ties go to the earlier column and
 * the lower bin, so that the same sums give the same tree.
 */
export async function growTree(
  ask: TreeQuestions,
  output: number,
  sample: RowSample,
  columns: TreeColumns,
  rules: GrowRules,
): Promise<GrownTree> {
  const nodes: GrownNode[] = [{ number: 0, depth: 0, sums: await ask.grow(output, sample) }];
  const splits: AppliedSplit[] = [];
  let level: Open[] = [{ node: nodes[0]! }];
  while (level.length > 0) {
    const able = level.filter(
      ({ node }) =>
        node.depth < rules.depth && rowsIn(node.sums) >= 2 * rules.least_rows && rowsIn(node.sums) > 1,
    );
    const histograms = await levelHistograms(ask, splits, able, rules);
    const next: Open[] = [];
    for (const { node } of able) {
      const histogram = histograms.get(node.number)!;
      const found = bestSplit(histogram, node.sums, columns, rules);
      if (!found) continue;
      const [left, right] = [nodes.length, nodes.length + 1];
      const { column, gain, lastBin, codes, missingLeft } = found;
      const split = {
        node: node.number,
        column,
        gain,
        missingLeft,
        left,
        right,
        ...(lastBin === undefined ? {} : { lastBin }),
        ...(codes === undefined ? {} : { codes }),
      };
      nodes[node.number] = { ...node, split };
      splits.push(split);
      const sides = [
        { number: left, depth: node.depth + 1, sums: found.left },
        { number: right, depth: node.depth + 1, sums: found.right },
      ];
      nodes.push(...sides);
      sides.forEach((side, index) =>
        next.push({ node: side, parent: { histogram, sibling: sides[1 - index]!.number } }),
      );
    }
    level = next;
  }
  return {
    nodes,
    splits,
    leaves: nodes.filter((node) => !node.split).map((node) => node.number),
    gini: rules.loss === "gini",
  };
}

/** Histograms of a level. Of two siblings only the one with fewer rows is asked for; the other is what remains of the parent's. */
async function levelHistograms(
  ask: TreeQuestions,
  splits: readonly AppliedSplit[],
  able: readonly Open[],
  rules: GrowRules,
): Promise<ReadonlyMap<number, NodeHistogram>> {
  const found = new Map<number, NodeHistogram>();
  if (able.length === 0) return found;
  if (rules.columns.kind === "node") {
    const { pick } = rules.columns;
    for (const histogram of await ask.histograms(
      splits,
      able.map(({ node }) => ({ node: node.number, columns: pick(node.number) })),
    ))
      found.set(histogram.node, histogram);
    return found;
  }
  const { columns } = rules.columns;
  const sums = new Map(able.map(({ node }) => [node.number, node.sums]));
  const isLarger = ({ node, parent }: Open): boolean => {
    const sibling = parent && sums.get(parent.sibling);
    return (
      sibling !== undefined &&
      (rowsIn(node.sums) > rowsIn(sibling) ||
        (rowsIn(node.sums) === rowsIn(sibling) && node.number > parent!.sibling))
    );
  };
  const larger = able.filter(isLarger);
  const asked = able.filter((open) => !isLarger(open));
  for (const histogram of await ask.histograms(
    splits,
    asked.map(({ node }) => ({ node: node.number, columns })),
  ))
    found.set(histogram.node, histogram);
  for (const { node, parent } of larger) {
    const other = found.get(parent!.sibling)!;
    found.set(node.number, {
      // The parent's sums are needed no more, so the difference takes their place.
      node: node.number,
      columns: other.columns,
      sums: subtract(parent!.histogram.sums, other.sums),
    });
  }
  return found;
}

function subtract(from: Float64Array, what: Float64Array): Float64Array {
  for (let index = 0; index < from.length; index += 1) from[index]! -= what[index]!;
  return from;
}

function bestSplit(
  histogram: NodeHistogram,
  whole: Float64Array,
  columns: TreeColumns,
  rules: SplitRules,
): FoundSplit | undefined {
  let best: FoundSplit | undefined;
  for (const place of histogram.columns) {
    const found =
      place.column < columns.numbers.length
        ? bestNumberSplit(histogram.sums, place, whole, rules, best?.gain ?? 0)
        : bestCategorySplit(place.column, histogram.sums.subarray(place.from, place.to), whole, rules);
    if (found && found.gain > (best?.gain ?? 0)) best = found;
  }
  return best;
}

/**
 * The grown tree as a model: thresholds instead of bins, levels instead of codes.
 * @param valueOf what is predicted in a node
 */
export function toTree(
  grown: GrownTree,
  columns: TreeColumns,
  valueOf: (node: GrownNode) => readonly number[],
): Tree {
  return {
    nodes: grown.nodes.map((node): TreeNode => {
      const common = {
        rows: rowsIn(node.sums),
        weight: weightIn(node.sums, grown.gini),
        value: [...valueOf(node)],
      };
      const { split } = node;
      if (!split) return { ...common, kind: "leaf" };
      const shape = { ...common, left: split.left, right: split.right, gain: split.gain };
      const side = split.missingLeft ? "left" : "right";
      if (split.column < columns.numbers.length) {
        const cuts = columns.cuts[split.column]!;
        return {
          ...shape,
          kind: "number",
          column: columns.numbers[split.column]!,
          below: cuts[split.lastBin! - 1] ?? null,
          missing: side,
        };
      }
      const { column, levels } = columns.categories[split.column - columns.numbers.length]!;
      const left = new Set(split.codes);
      return {
        ...shape,
        kind: "category",
        column,
        levels: levels.filter((_, index) => left.has(index + 1)),
        others: levels.filter((_, index) => !left.has(index + 1)),
        unseen: side,
      };
    }),
  };
}

/** What the learner counts as the node's weight: curvature for gradients, weight of all classes for gini. */
function weightIn(sums: Float64Array, gini: boolean): number {
  if (!gini) return sums[1]!;
  return sums.slice(0, -1).reduce((sum, oneSum) => sum + oneSum, 0);
}
