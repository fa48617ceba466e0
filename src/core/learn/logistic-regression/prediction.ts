import { linearReasons, type Reasons } from "../../explain/shapley";
import { double } from "../../expression/ast";
import { linearExpression } from "../linear/linear-part";
import type { LogisticModel } from "./logistic";
import type { MultinomialModel } from "./multinomial";
import { columnsOfSum, compileSum } from "../linear/weighted-sum";
import { probabilityOf, shareOut } from "../links";
import type { ModelKind } from "../model-kind";
import { probabilityExpression, singleProgram, softmaxProgram } from "../scoring-program";

/** The logistic function of a weighted sum. */
export const logisticRegression: ModelKind<LogisticModel> = {
  reads: columnsOfSum,
  compile: (model, places) => {
    const sum = compileSum(model, places);
    return (values) => [probabilityOf(sum(values))];
  },
  program: (model, number) => singleProgram(linearExpression(model, number), probabilityExpression),
  explain: ({ model, row, background }) => ({
    ...linearReasons(model, row, background.means),
    scale: "log odds",
    exact: true,
  }),
};

/**
 * Reasons of one class out of those of all but the first, whose predictor is zero: what each column says for the class
 * beyond what it says for the classes in the mean. So every class has reasons, whichever comes first.
 */
function centredReasons(others: readonly Reasons[], output: number): Reasons {
  const classes = others.length + 1;
  const own = output === 0 ? undefined : others[output - 1];
  const centre = (value: (reasons: Reasons) => number): number =>
    (own ? value(own) : 0) - others.reduce((sum, reasons) => sum + value(reasons), 0) / classes;
  return {
    base: centre((reasons) => reasons.base),
    parts: (others[0]?.parts ?? []).map(({ column }, place) => ({
      column,
      value: centre((reasons) => reasons.parts[place]!.value),
    })),
  };
}

/** A weighted sum for every class but the first, whose sum is 0. */
export const multinomialRegression: ModelKind<MultinomialModel> = {
  reads: ({ predictors }) => {
    const parts = predictors.map(columnsOfSum);
    return {
      numbers: parts.flatMap(({ numbers }) => numbers),
      categories: parts.flatMap(({ categories }) => categories),
    };
  },
  compile: ({ predictors }, places) => {
    const sums = predictors.map((part) => compileSum(part, places));
    return (values) => shareOut([0, ...sums.map((sum) => sum(values))]);
  },
  program: ({ predictors }, number) =>
    softmaxProgram([], [double(0), ...predictors.map((part) => linearExpression(part, number))]),
  explain: ({ model, row, output, background }) => {
    const others = model.predictors.map((predictor) => linearReasons(predictor, row, background.means));
    return { ...centredReasons(others, output), scale: "log of the class's share", exact: true };
  },
};
