import { z } from "zod";
import { columnsOf } from "../expression/visit";
import { problem } from "../problem";
import { withColumns } from "../relation/relation";
import { isUsableIdentifier } from "../names/identifier";
import {
  changed,
  defineStep,
  expressionText,
  listNames,
  stepCommon,
  type ColumnState,
  type StepKind,
} from "./step";

export const deriveStep: StepKind = defineStep({
  kind: "derive",
  title: "Derive columns",
  help: {
    about: "Computes new columns with SQL expressions.",
    words: [
      "formula",
      "compute",
      "calculate",
      "expression",
      "case",
      "coalesce",
      "ratio",
      "new column",
      "feature",
    ],
    missing: "As in SQL: most expressions over a missing value are missing; use coalesce() to change that.",
    example: "columns:\n  weight_kg: weight_g / 1000.0\n  is_heavy: coalesce(weight_g > 5000, false)",
  },
  settings: z.strictObject({
    do: z.literal("derive"),
    ...stepCommon,
    columns: z
      .record(z.string().min(1), expressionText)
      .describe(
        "New column: SQL expression over the columns before this step. An existing name is replaced.",
      ),
  }),
  sentence: (settings) => `derive ${listNames(Object.keys(settings.columns))}`,
  check: (settings, context) => {
    const reads = new Set<string>();
    const written: ColumnState[] = [];
    for (const [name, text] of Object.entries(settings.columns)) {
      const path = ["columns", name];
      if (!isUsableIdentifier(name))
        context.report(
          problem(
            "bad_name",
            `"${name.slice(0, 40)}" is not a valid column name: at most 63 bytes.`,
            "Choose a shorter name.",
          ),
          path,
        );
      const found = context.expression(text, path);
      if (!found) continue;
      const read = columnsOf(found.expression);
      for (const text of read) reads.add(text);
      written.push(
        context.written(
          name,
          found.checked,
          read.flatMap((text) => context.input.get(text) ?? []),
        ),
      );
    }
    return {
      output: changed(context.input, written),
      reads: [...reads],
      writes: written.map((column) => column.name),
      drops: [],
    };
  },
  apply: (settings, input, _learned, context) =>
    withColumns(
      input,
      Object.entries(settings.columns).map(([name, text]) => ({
        name,
        expression: context.expression(text),
      })),
    ),
});
