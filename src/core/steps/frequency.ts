import { z } from "zod";
import { column, countRows, double } from "../expression/ast";
import { problem } from "../problem";
import { outputColumns, withColumns } from "../relation/relation";
import { categoryQuestion, GROUP, withinLimit } from "./category-answers";
import { asText, checkNewName, columnNames, existing, typedNull } from "./shared";
import { changed, defineStep, listNames, stepCommon, type StepKind } from "./step";

const settings = z.strictObject({
  do: z.literal("frequency"),
  ...stepCommon,
  columns: columnNames.describe(
    "Category columns; each is replaced by the frequency of its category in the training rows. Missing values stay missing; unseen categories become 0.",
  ),
  as: z
    .enum(["share", "count"])
    .default("share")
    .describe("share: of the training rows in which the column is not missing. count: of training rows."),
  keep: z
    .boolean()
    .default(false)
    .describe("true: keeps the category and adds the number as column NAME_frequency."),
});

const learnedSchema = z.object({
  levels: z.record(z.string(), z.array(z.string())),
  rows: z.record(z.string(), z.array(z.number())),
});

export const frequencyStep: StepKind = defineStep({
  kind: "frequency",
  title: "Frequency encode",
  help: {
    about: "Replaces a category by its frequency in the training rows.",
    words: ["count", "count encoding", "share", "frequency of categories"],
    missing: "Missing stays missing and is not counted. Unseen categories become 0.",
    example: "columns: [carrier_name]\nkeep: true",
  },
  settings,
  sentence: (current) => `frequency of ${listNames(current.columns)}`,
  check: (current, context) => {
    const written = existing(context, current.columns, ["columns"]).map((found) => {
      const name = current.keep ? `${found.name}_frequency` : found.name;
      if (current.keep) checkNewName(context, name, ["columns"]);
      if (found.bundle)
        context.report(
          problem("bundle_read", `"${found.name}" has already been encoded.`, "Remove it here."),
          ["columns"],
        );
      return context.written(name, { type: "double precision", nullable: found.nullable }, [found]);
    });
    return {
      output: changed(context.input, written),
      reads: current.columns,
      writes: written.map((column) => column.name),
      drops: [],
    };
  },
  learn: {
    schema: learnedSchema,
    questions: (current) =>
      current.columns.map((name) => categoryQuestion(name, [{ name: "rows", expression: countRows }])),
    decode: (current, answers) => {
      const found = current.columns.map((name, index) =>
        withinLimit(answers[index] ?? [], name, current.name ?? "frequency"),
      );
      return {
        levels: Object.fromEntries(
          current.columns.map((name, index) => [name, found[index]!.map((row) => String(row[GROUP]))]),
        ),
        rows: Object.fromEntries(
          current.columns.map((name, index) => [name, found[index]!.map((row) => Number(row["rows"]))]),
        ),
      };
    },
  },
  apply: (current, input, learned) => {
    const present = outputColumns(input);
    return withColumns(
      input,
      current.columns
        .filter((name) => present.includes(name))
        .map((name) => {
          const rows = learned?.rows[name] ?? [];
          const total = current.as === "share" ? rows.reduce((sum, row) => sum + row, 0) : 1;
          const entries = (learned?.levels[name] ?? []).map((level, index): readonly [string, number] => [
            level,
            rows[index]! / total,
          ]);
          return {
            name: current.keep ? `${name}_frequency` : name,
            expression: {
              kind: "lookup" as const,
              operand: asText(column(name)),
              entries,
              missing: typedNull("double precision"),
              otherwise: double(0),
              type: "double precision" as const,
            },
          };
        }),
    );
  },
});
