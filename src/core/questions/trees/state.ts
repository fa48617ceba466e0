import { cast, column, double, integer, isNull, when, type Expression } from "../../expression/ast";
import type { TreeStart } from "../../learn/trees/tree-questions";
import { fence, project, table, type NamedExpression, type Relation } from "../../relation/relation";
import type { TableReference } from "../../relation/relation";
import { DRAW_COLUMN } from "../../steps/step";
import { target, type FrameRows } from "../frame/frame-rows";
import { keptColumns } from "../frame/predictor";
import { isHeld } from "./strata";

/**
 * A state table holds, per training row, target, weight, stable random number, whether it is held apart, its
 * bins, scores, and gradients and curvatures as whole numbers. It is written anew every round. Its columns have
 * names of their own.
 */
export const [ROW_TARGET, ROW_WEIGHT, HELD, VOTED] = ["target", "weight", "held", "voted"] as const;

const numbered =
  (name: string) =>
  (place: number): string =>
    `${name}${place}`;

/** Column names by the number of a feature, or of an output. */
export const binName = numbered("b");
export const scoreName = numbered("s");
export const gradientName = numbered("g");
export const curvatureName = numbered("h");
export const voteName = numbered("v");

const places = (count: number): readonly number[] => Array.from({ length: count }, (_, place) => place);

/** A state table and what it holds. */
export interface TreeState {
  readonly table: TableReference;
  /** How many features, and so bins, a row has. */
  readonly features: number;
  /** How many scores a row has. */
  readonly outputs: number;
  /** Whether rows are held apart. */
  readonly held: boolean;
  /** Of how many outputs a row has gradients and curvatures; none before the first round. */
  readonly slopes: number;
  /** How many outputs votes are counted of; none before the first vote. */
  readonly votes: number;
}

/** Names of the columns that a state keeps from round to round. */
const lastingNames = ({ features, held }: TreeState): readonly string[] => [
  ROW_TARGET,
  ROW_WEIGHT,
  DRAW_COLUMN,
  ...(held ? [HELD] : []),
  ...places(features).map(binName),
];

const voteNames = ({ votes }: TreeState): readonly string[] =>
  votes === 0 ? [] : [...places(votes).map(voteName), VOTED];

const scoreNames = ({ outputs }: TreeState): readonly string[] => places(outputs).map(scoreName);

const slopeNames = ({ slopes }: TreeState): readonly string[] =>
  places(slopes).flatMap((output) => [gradientName(output), curvatureName(output)]);

/** The rows of a state, with gradients once a round has begun. */
export const stateRows = (state: TreeState): Relation =>
  table(state.table, [
    ...lastingNames(state),
    ...scoreNames(state),
    ...slopeNames(state),
    ...voteNames(state),
  ]);

/** The first state: bins instead of values. */
export function firstState(
  frame: FrameRows,
  columns: { readonly numbers: readonly string[]; readonly categories: readonly string[] },
  start: TreeStart,
): Relation {
  const bins: readonly Expression[] = [
    ...columns.numbers.map((name, index) => binOf(column(name), [...start.cuts[index]!])),
    ...columns.categories.map((name) => cast(column(name), "integer")),
  ];
  return project(frame.rows, [
    { name: ROW_TARGET, expression: target },
    { name: ROW_WEIGHT, expression: frame.weight ?? double(1) },
    ...keptColumns([DRAW_COLUMN]),
    ...(start.held === undefined ? [] : [{ name: HELD, expression: isHeld(start.held) }]),
    ...bins.map((expression, place) => ({ name: binName(place), expression })),
    ...start.start.map((score, output) => ({ name: scoreName(output), expression: double(score) })),
  ]);
}

/** The bin of a number: 0 if it is missing, else one more than the cuts that are at most the number. */
function binOf(value: Expression, cuts: readonly number[]): Expression {
  const place: Expression = {
    kind: "binary",
    operator: "+",
    left: integer(1),
    right: { kind: "bin", operand: value, cuts },
  };
  return cast(when(isNull(value), integer(0), place), "smallint");
}

/** The rows of a state with what trees have added to their scores; scores are computed once a row. */
export const scoredRows = (state: TreeState, scores: readonly Expression[]): Relation =>
  fence(
    project(stateRows(state), [
      ...keptColumns(lastingNames(state)),
      ...scores.map((expression, output) => ({ name: scoreName(output), expression })),
      ...keptColumns(voteNames(state)),
    ]),
  );

/** The state of a new round: scores with what trees have added, and the gradients at them. */
export const nextRound = (
  state: TreeState,
  scores: readonly Expression[],
  slopes: readonly NamedExpression[],
): Relation =>
  project(scoredRows(state, scores), [
    ...keptColumns([...lastingNames(state), ...scoreNames(state)]),
    ...slopes,
    ...keptColumns(voteNames(state)),
  ]);

/** The same state with other votes. */
export const withVotes = (state: TreeState, votes: readonly NamedExpression[]): Relation =>
  project(stateRows(state), [
    ...keptColumns([...lastingNames(state), ...scoreNames(state), ...slopeNames(state)]),
    ...votes,
  ]);
