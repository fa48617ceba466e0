import {
  asDouble,
  binary,
  call,
  column,
  countWhere,
  double,
  integer,
  sum,
  sumWhere,
  when,
  type Expression,
} from "../../expression/ast";
import type { AppliedSplit } from "../../learn/trees/tree-questions";
import { filter, project, type NamedExpression, type Relation } from "../../relation/relation";
import { TARGET_COLUMN } from "../../plan/frame-columns";
import { rowsFromHalf } from "../frame/order";
import { groupedNumbers, numbersOf } from "../groups";
import type { Question } from "../question";
import { additionOf, nodeOf, type ValuedNodes } from "./nodes";
import {
  binName,
  curvatureName,
  gradientName,
  ROW_TARGET,
  ROW_WEIGHT,
  scoreName,
  stateRows,
  VOTED,
  voteName,
  type TreeState,
} from "./state";

const [NODE, BIN, GRADIENT, CURVATURE, COUNT, REST] = [
  "node",
  "bin",
  "gradient",
  "curvature",
  "times",
  "rest",
] as const;

/**
 * A tree that is being grown: of which output, with how many rows of each in its sample, and of how many classes
 * for gini, else 0.
 */
export interface GrowingTree {
  readonly output: number;
  /** How often a row is in the tree's sample. */
  readonly count: Expression;
  readonly classes: number;
}

const isDrawn = binary(column(COUNT), ">", integer(0));
const kept = (name: string, from: string): NamedExpression => ({ name, expression: column(from) });

/** What is summed: target, gradient and curvature of rows, and how often the row counts. */
const summands = ({ output, count }: GrowingTree): readonly NamedExpression[] => [
  kept(ROW_TARGET, ROW_TARGET),
  kept(GRADIENT, gradientName(output)),
  kept(CURVATURE, curvatureName(output)),
  { name: COUNT, expression: count },
];

/** Sums in whole numbers: gradients by class for gini, else gradients and curvatures; and last the rows. */
function sumsOf(classes: number): readonly Expression[] {
  const counted = (name: string): Expression => binary(column(name), "*", column(COUNT));
  const rows = asDouble(countWhere(isDrawn));
  if (classes === 0) return [sum(counted(GRADIENT)), sum(counted(CURVATURE)), rows];
  const ofClasses = Array.from({ length: classes }, (_, code) => {
    const isOfClass = binary(column(ROW_TARGET), "=", integer(code));
    return call("coalesce", sumWhere(counted(GRADIENT), isOfClass), double(0));
  });
  return [...ofClasses, rows];
}

const withoutNulls = (values: readonly (number | null)[]): readonly number[] =>
  values.map((value) => value ?? 0);

/** Sums over all rows of a tree's sample. */
export function rootQuestion(state: TreeState, tree: GrowingTree): Question<readonly number[]> {
  const { relation, read } = numbersOf(project(stateRows(state), summands(tree)), sumsOf(tree.classes));
  return { relation, purpose: "sums over all rows", read: (rows) => withoutNulls(read(rows)) };
}

/** Sums of one bin of a node. */
export interface BinSums {
  readonly node: number;
  readonly bin: number;
  readonly sums: readonly number[];
}

/** Where sums are wanted: in the bins of a feature, in some nodes of a tree. */
export interface HistogramPlace {
  readonly splits: readonly AppliedSplit[];
  readonly nodes: readonly number[];
  readonly feature: number;
  /** What the feature is called. */
  readonly name: string;
}

/** Sums by node and bin of one feature. */
export function histogramQuestion(
  state: TreeState,
  tree: GrowingTree,
  { splits, nodes, feature, name }: HistogramPlace,
): Question<readonly BinSums[]> {
  const binned = project(stateRows(state), [
    { name: NODE, expression: nodeOf(splits) },
    kept(BIN, binName(feature)),
    ...summands(tree),
  ]);
  const wanted = inNodes(binned, nodes);
  const { relation, read } = groupedNumbers(wanted, [NODE, BIN], sumsOf(tree.classes));
  return {
    relation,
    purpose: `sums by bin of ${name}`,
    read: (rows) =>
      read(rows).map(({ keys, values }) => ({
        node: keys[0] ?? 0,
        bin: keys[1] ?? 0,
        sums: withoutNulls(values),
      })),
  };
}

const inNodes = (rows: Relation, nodes: readonly number[]): Relation =>
  filter(rows, { kind: "in", operand: column(NODE), values: nodes.map(integer), negated: false });

/** The weighted median of the target less the score in nodes, over the rows of the tree's sample; NaN without rows. */
export function mediansQuestion(
  state: TreeState,
  splits: readonly AppliedSplit[],
  nodes: readonly number[],
  count: Expression,
): Question<readonly number[]> {
  const rests = project(stateRows(state), [
    { name: NODE, expression: nodeOf(splits) },
    { name: REST, expression: binary(column(ROW_TARGET), "-", column(scoreName(0))) },
    kept(ROW_WEIGHT, ROW_WEIGHT),
    { name: COUNT, expression: count },
  ]);
  const half = rowsFromHalf(filter(rests, isDrawn), column(REST), column(ROW_WEIGHT), [NODE]);
  const { relation, read } = groupedNumbers(half, [NODE], [call("min", column(TARGET_COLUMN))]);
  return {
    relation,
    purpose: "median residual by leaf",
    read: (rows) => {
      const byNode = new Map(read(rows).map(({ keys, values }) => [keys[0], values[0]]));
      return nodes.map((node) => byNode.get(node) ?? Number.NaN);
    },
  };
}

/** No votes yet, for so many outputs. */
export const noVotes = (outputs: number): readonly NamedExpression[] =>
  [...Array.from({ length: outputs }, (_, output) => voteName(output)), VOTED].map((name) => ({
    name,
    expression: double(0),
  }));

/**
 * Votes with those of a tree for rows that its sample left out, and how many trees have voted.
 * @param trees the tree with its values, for one output after the other
 */
export function addedVotes(trees: readonly ValuedNodes[], count: Expression): readonly NamedExpression[] {
  const isLeftOut = binary(count, "=", integer(0));
  const more = (name: string, value: Expression): NamedExpression => ({
    name,
    expression: binary(column(name), "+", when(isLeftOut, value, double(0))),
  });
  return [...trees.map((tree, output) => more(voteName(output), additionOf(tree))), more(VOTED, double(1))];
}
