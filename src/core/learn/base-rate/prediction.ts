import { double } from "../../expression/ast";
import type { ModelKind } from "../model-kind";
import type { BaseRateModel } from "./base-rate";

/** The same prediction for every row. */
export const baseRate: ModelKind<BaseRateModel> = {
  reads: () => ({ numbers: [], categories: [] }),
  compile:
    ({ outputs }) =>
    () =>
      outputs,
  program: ({ outputs }) => ({ stages: [], outputs: outputs.map(double) }),
  explain: ({ model, output }) => ({
    base: model.outputs[output]!,
    parts: [],
    scale: "the prediction",
    exact: true,
  }),
};
