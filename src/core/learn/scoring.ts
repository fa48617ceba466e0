import type { Model } from "./model";
import { kindOf, treesOf } from "./model-kinds";
import type { NumberExpression, ScoringProgram } from "./scoring-program";

/** Beyond this many tree nodes a statement is too long to be planned in reasonable time: such a model scores by streaming. */
export const MOST_NODES = 60_000;

/** Whether the model is small enough to be a statement. */
export const fitsStatement = (model: Model): boolean =>
  treesOf(model).reduce((sum, tree) => sum + tree.nodes.length, 0) <= MOST_NODES;

/**
 * A model as columns over the prepared rows.
 * @param number how a number column of the frame is computed from the prepared rows
 */
export const scoringProgram = (model: Model, number: NumberExpression): ScoringProgram =>
  kindOf(model).program(model, number);
