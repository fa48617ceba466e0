import { linearReasons } from "../../explain/shapley";
import { linearExpression } from "../linear/linear-part";
import type { LinearModel } from "./regression";
import { columnsOfSum, compileSum } from "../linear/weighted-sum";
import type { ModelKind } from "../model-kind";
import { singleProgram } from "../scoring-program";

/** A weighted sum of the features. */
export const linearRegression: ModelKind<LinearModel> = {
  reads: columnsOfSum,
  compile: (model, places) => {
    const sum = compileSum(model, places);
    return (values) => [sum(values)];
  },
  program: (model, number) => singleProgram(linearExpression(model, number)),
  explain: ({ model, row, background }) => ({
    ...linearReasons(model, row, background.means),
    scale: "the prediction",
    exact: true,
  }),
};
