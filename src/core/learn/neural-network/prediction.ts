import { byReplacing } from "../../explain/by-replacing";
import { SCALE_OF_LINK } from "../../explain/explained-row";
import { binary, double } from "../../expression/ast";
import { linked } from "../links";
import type { ModelKind, Places, Predict } from "../model-kind";
import { networkStages, networkSums, type NetworkModel } from "./network";
import { rowOf } from "../row-of";
import { linkedProgram } from "../scoring-program";
import type { FeatureRow } from "../task";

/** The sums of the last layer in units of the target, before the link. */
const predictorsOf = (model: NetworkModel, row: FeatureRow): readonly number[] =>
  networkSums(model, row).map((sum) => sum * model.target.spread + model.target.centre);

const compilePredictor =
  (model: NetworkModel, places: Places): Predict =>
  (values) =>
    predictorsOf(model, rowOf(values, places));

const columnsOf = ({ numbers, categories }: NetworkModel): readonly string[] =>
  [...numbers, ...categories].map(({ column }) => column);

/** The sums of the last layer, turned into predictions by the link. */
export const neuralNetwork: ModelKind<NetworkModel> = {
  reads: ({ numbers, categories }) => ({
    numbers: numbers.map(({ column }) => column),
    categories: categories.map(({ column }) => column),
  }),
  compile: (model, places) => {
    const predictors = compilePredictor(model, places);
    return (values) => linked(model.link, predictors(values));
  },
  program: (model, number) => {
    const { stages, sums } = networkStages(model, number);
    const scaled = sums.map((sum) =>
      binary(binary(sum, "*", double(model.target.spread)), "+", double(model.target.centre)),
    );
    return linkedProgram(model.link, stages, scaled);
  },
  explain: ({ model, row, output, background }) => ({
    ...byReplacing(columnsOf(model), row, background, (at) => predictorsOf(model, at)[output]!),
    scale: SCALE_OF_LINK[model.link],
    exact: false,
  }),
  compilePredictor,
};
