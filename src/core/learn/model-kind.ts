import type { Expression } from "../expression/ast";
import type { Background, ExplainedRow } from "../explain/explained-row";
import type { NumberExpression, ScoringProgram } from "./scoring-program";
import type { FeatureRow } from "./task";
import type { Tree } from "./trees/tree";

/** A row's values in the order of a compiled model's columns. */
export type Values = (number | string | null)[];

/** The place of each column among a row's values. */
export type Places = ReadonlyMap<string, number>;

/** Predicts a row: the probability of yes, the number, or a probability for each class. */
export type Predict = (values: Readonly<Values>) => readonly number[];

/** Names of the columns that a model reads; some may come several times. */
export interface ReadColumns {
  readonly numbers: readonly string[];
  readonly categories: readonly string[];
}

/** A tree that adds to the sum of an output. */
export interface TreeTerm {
  readonly tree: Tree;
  /** Which of the tree's values counts. */
  readonly value: number;
}

/** A model of trees as sums, one for each output. */
export interface TreeSums {
  /** The sums before any tree. */
  readonly start: readonly number[];
  /** Round after round, the tree that adds to each output. */
  readonly rounds: readonly (readonly TreeTerm[])[];
  /** The prediction from the last sums. */
  readonly finish: (sums: readonly Expression[]) => ScoringProgram;
}

/** A row whose prediction is to be explained. */
export interface ToExplain<Model> {
  readonly model: Model;
  readonly row: FeatureRow;
  /** Which class is explained, for models of several classes; else 0. */
  readonly output: number;
  readonly background: Background;
}

/**
 * How models of one kind predict. There are two ways, whose numbers agree but for the last bits: compiled, for rows
 * in memory, and as a program of expressions, for rows of a relation.
 */
export interface ModelKind<Model> {
  readonly reads: (model: Model) => ReadColumns;
  /** NaN where a number that the model needs is missing. */
  readonly compile: (model: Model, places: Places) => Predict;
  readonly program: (model: Model, number: NumberExpression) => ScoringProgram;
  /** For models of trees, whose programs may be too long for one statement. */
  readonly treeSums?: (model: Model) => TreeSums;
  readonly explain: (wanted: ToExplain<Model>) => ExplainedRow;
  /** What reasons add up to, where that is not the prediction itself. */
  readonly compilePredictor?: (model: Model, places: Places) => Predict;
}
