import { byReplacing } from "../../explain/by-replacing";
import type { ModelKind } from "../model-kind";
import { vote, type NeighbourModel } from "./neighbours";
import { neighbourStages } from "./neighbour-stages";
import { rowOf } from "../row-of";
import type { FeatureRow } from "../task";

function voteOf(model: NeighbourModel, row: FeatureRow): readonly number[] {
  const found = vote(model, row);
  return model.classes === 2 && model.binary ? [found[1]!] : found;
}

const columnsOf = ({ numbers, categories }: NeighbourModel): readonly string[] =>
  [...numbers, ...categories].map(({ column }) => column);

/** The vote of the nearest kept rows. */
export const nearestNeighbours: ModelKind<NeighbourModel> = {
  reads: ({ numbers, categories }) => ({
    numbers: numbers.map(({ column }) => column),
    categories: categories.map(({ column }) => column),
  }),
  compile: (model, places) => (values) => voteOf(model, rowOf(values, places)),
  program: neighbourStages,
  explain: ({ model, row, output, background }) => ({
    ...byReplacing(columnsOf(model), row, background, (at) => voteOf(model, at)[output]!),
    scale: "the prediction",
    exact: false,
  }),
};
