import { z } from "zod";
import { columnsOf } from "../expression/visit";
import { problem } from "../problem";
import { aggregateRows } from "../relation/relation";
import { isUsableIdentifier } from "../names/identifier";
import { defineStep, expressionText, listNames, stepCommon, type ColumnState, type StepKind } from "./step";

export const aggregateStep: StepKind = defineStep({
  kind: "aggregate",
  title: "Aggregate",
  help: {
    about: "Aggregates rows by group, with SQL aggregates.",
    words: ["group by", "sum", "count", "average", "summarise", "summarize", "rollup", "one row of many"],
    missing: "Missing keys form a group. Aggregates ignore missing values; count(*) counts rows.",
    example:
      "by: [town, day]\nmeasures:\n  rain_mm: avg(rain_mm)\n  wet: share(rain_mm > 1)\n  last_wind: last_by(wind_ms, observed_at)",
  },
  regroups: true,
  settings: z.strictObject({
    do: z.literal("aggregate"),
    ...stepCommon,
    by: z.array(z.string()).min(1).describe("One row comes out for each combination of these columns."),
    measures: z
      .record(z.string().min(1), expressionText)
      .describe("New column: SQL aggregate, such as avg(rain_mm) or count(*)."),
  }),
  sentence: (settings) =>
    `one row per ${listNames(settings.by)}: ${listNames(Object.keys(settings.measures))}`,
  check: (settings, context) => {
    const keys = settings.by.flatMap((name, index) => context.column(name, ["by", index]) ?? []);
    const output = new Map<string, ColumnState>(keys.map((key) => [key.name, key]));
    const reads = new Set(settings.by);
    const writes: string[] = [];
    for (const [name, text] of Object.entries(settings.measures)) {
      const path = ["measures", name];
      if (!isUsableIdentifier(name))
        context.report(
          problem(
            "bad_name",
            `"${name.slice(0, 40)}" is not a valid column name: at most 63 bytes.`,
            "Choose a shorter name.",
          ),
          path,
        );
      if (output.has(name))
        context.report(
          problem("duplicate_column", `There would be two columns named "${name}".`, "Rename the measure."),
          path,
        );
      const found = context.expression(text, path, { aggregates: "required" });
      if (!found) continue;
      const read = columnsOf(found.expression);
      for (const text of read) reads.add(text);
      output.set(
        name,
        context.written(
          name,
          found.checked,
          read.flatMap((text) => context.input.get(text) ?? []),
        ),
      );
      writes.push(name);
    }
    return {
      output,
      reads: [...reads],
      writes,
      drops: [...context.input.keys()].filter((name) => !output.has(name)),
    };
  },
  apply: (settings, input, _learned, context) =>
    aggregateRows(
      input,
      settings.by,
      Object.entries(settings.measures).map(([name, text]) => ({
        name,
        expression: context.expression(text),
      })),
    ),
});
