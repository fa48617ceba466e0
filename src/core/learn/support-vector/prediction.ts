import { linearReasons } from "../../explain/shapley";
import { binary, double } from "../../expression/ast";
import { linearExpression } from "../linear/linear-part";
import type { SupportVectorModel } from "./support-vector";
import { columnsOfSum, compileSum } from "../linear/weighted-sum";
import { probabilityOf } from "../links";
import type { ModelKind } from "../model-kind";
import { probabilityExpression, singleProgram } from "../scoring-program";

/** The margin of a weighted sum, turned into a probability by the calibration. */
export const supportVector: ModelKind<SupportVectorModel> = {
  reads: columnsOfSum,
  compile: (model, places) => {
    const sum = compileSum(model, places);
    const { slope, offset } = model.calibration;
    return (values) => [probabilityOf(slope * sum(values) + offset)];
  },
  program: (model, number) => {
    const { slope, offset } = model.calibration;
    const margin = linearExpression(model, number);
    return singleProgram(
      binary(binary(double(slope), "*", margin), "+", double(offset)),
      probabilityExpression,
    );
  },
  explain: ({ model, row, background }) => {
    const { slope, offset } = model.calibration;
    const { base, parts } = linearReasons(model, row, background.means);
    return {
      base: slope * base + offset,
      parts: parts.map((part) => ({ ...part, value: slope * part.value })),
      scale: "log odds",
      exact: true,
    };
  },
};
