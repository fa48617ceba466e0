import { z } from "zod";
import { asDouble, binary, call, column, double } from "../expression/ast";
import { outputColumns, withColumns } from "../relation/relation";
import { checkNewName, columnNames, ofFamily } from "./shared";
import { changed, defineStep, listNames, stepCommon, type StepKind } from "./step";

/**
 * The example of docs/adding-a-step.md: a step kind in one module. Numbers that go round (an hour, a weekday, an angle)
 * become a point on a circle, so that 23 and 0 o'clock are neighbours.
 */
export const cycleStep: StepKind = defineStep({
  kind: "cycle",
  title: "Cyclical encoding",
  help: {
    about:
      "Encodes cyclical numbers, such as the hour, as sine and cosine, so that hours 23 and 0 are close.",
    words: ["sine", "cosine", "seasonal", "periodic", "cyclic", "circle"],
    missing: "Missing stays missing.",
    example: "columns: [delivery_hour]\nperiod: 24",
  },
  settings: z.strictObject({
    do: z.literal("cycle"),
    ...stepCommon,
    columns: columnNames.describe(
      "Cyclical number columns, such as the hour. Each becomes NAME_sin and NAME_cos. Missing values stay missing.",
    ),
    period: z.number().gt(0).describe("The period: 24 for hours, 7 for weekdays, 360 for degrees."),
  }),
  sentence: (settings) => `${listNames(settings.columns)} as sine and cosine, period ${settings.period}`,
  check: (settings, context) => {
    const found = ofFamily(context, settings.columns, ["columns"], "number", "encoded cyclically");
    const written = found.flatMap((column) =>
      ["sin", "cos"].map((side) => {
        checkNewName(context, `${column.name}_${side}`, ["columns"]);
        return context.written(
          `${column.name}_${side}`,
          { type: "double precision", nullable: column.nullable },
          [column],
        );
      }),
    );
    const output = new Map(
      [...changed(context.input, written)].filter(([name]) => !settings.columns.includes(name)),
    );
    return {
      output,
      reads: settings.columns,
      writes: written.map((column) => column.name),
      drops: settings.columns,
    };
  },
  apply: (settings, input) => {
    const circled = withColumns(
      input,
      settings.columns.flatMap((name) => {
        const angle = binary(asDouble(column(name)), "*", double((2 * Math.PI) / settings.period));
        return [
          { name: `${name}_sin`, expression: call("sin", angle) },
          { name: `${name}_cos`, expression: call("cos", angle) },
        ];
      }),
    );
    const kept = outputColumns(circled).filter((name) => !settings.columns.includes(name));
    return {
      kind: "project",
      input: circled,
      items: kept.map((name) => ({ name, expression: column(name) })),
    };
  },
});
