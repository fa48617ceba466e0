import { z } from "zod";
import { columnsOf } from "../expression/visit";
import { problem } from "../problem";
import { filter } from "../relation/relation";
import { defineStep, expressionText, stepCommon, type StepKind } from "./step";

export const filterStep: StepKind = defineStep({
  kind: "filter",
  title: "Filter rows",
  help: {
    about: "Keeps the rows for which a condition is true.",
    words: ["where", "select", "subset", "condition", "exclude", "null"],
    missing: "Rows for which the condition is unknown, because a value is missing, are dropped.",
    example: "where: weight_g > 0 and delivered_at is not null",
  },
  settings: z.strictObject({
    do: z.literal("filter"),
    ...stepCommon,
    where: expressionText.describe(
      "A SQL condition. Rows for which it is true are kept; false and unknown are dropped.",
    ),
  }),
  sentence: (settings) => `rows where ${settings.where}`,
  check: (settings, context) => {
    const condition = context.expression(settings.where, ["where"]);
    if (condition && condition.checked.type !== "boolean") {
      context.report(
        problem(
          "not_a_condition",
          `This gives ${condition.checked.type}, but a filter needs a condition.`,
          "Compare it with a value, for example weight_g > 0.",
        ),
        ["where"],
      );
    }
    return {
      output: context.input,
      reads: condition ? columnsOf(condition.expression) : [],
      writes: [],
      drops: [],
    };
  },
  apply: (settings, input, _learned, context) => filter(input, context.expression(settings.where)),
});
