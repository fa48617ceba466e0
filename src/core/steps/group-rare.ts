import { z } from "zod";
import { column, countRows, text } from "../expression/ast";
import { problem } from "../problem";
import { outputColumns, withColumns } from "../relation/relation";
import { categoryQuestion, GROUP, withinLimit } from "./category-answers";
import { asText, columnNames, ofFamily, typedNull } from "./shared";
import { changed, defineStep, listNames, stepCommon, type StepKind } from "./step";

const settings = z.strictObject({
  do: z.literal("group_rare"),
  ...stepCommon,
  columns: columnNames.describe("Text columns. Missing values stay missing."),
  least_rows: z.int().min(1).optional().describe("Categories with fewer training rows than this are rare."),
  least_share: z
    .number()
    .gt(0)
    .lt(1)
    .optional()
    .describe("Categories with a smaller share of the training rows than this are rare."),
  most: z.int().min(1).max(10_000).optional().describe("Maximum number of categories, by frequency."),
  label: z.string().min(1).default("rare").describe("Label for rare and unseen categories."),
});

const learnedSchema = z.object({ levels: z.record(z.string(), z.array(z.string())) });

export const groupRareStep: StepKind = defineStep({
  kind: "group_rare",
  title: "Group rare categories",
  help: {
    about: "Groups rare categories under one label.",
    words: ["infrequent", "other", "cardinality", "collapse", "lump"],
    missing: "Missing stays missing. Unseen categories become the label.",
    example: "columns: [carrier_name]\nleast_share: 0.01\nlabel: other carrier",
  },
  settings,
  sentence: (current) => `rare ${listNames(current.columns)} become "${current.label}"`,
  check: (current, context) => {
    if (current.least_rows === undefined && current.least_share === undefined && current.most === undefined)
      context.report(
        problem("missing_setting", "No rule for rare categories.", "Give least_rows, least_share or most."),
        [],
      );
    const written = ofFamily(context, current.columns, ["columns"], "text", "grouped").map((found) =>
      context.written(found.name, { type: "text", nullable: found.nullable }, [found]),
    );
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
    decode: (current, answers) => ({
      levels: Object.fromEntries(
        current.columns.map((name, index) => {
          const found = withinLimit(answers[index] ?? [], name, current.name ?? "group_rare").map((row) => ({
            level: String(row[GROUP]),
            rows: Number(row["rows"]),
          }));
          const total = found.reduce((sum, part) => sum + part.rows, 0);
          const frequent = found.filter(
            (part) =>
              part.rows >= (current.least_rows ?? 0) && part.rows >= (current.least_share ?? 0) * total,
          );
          frequent.sort((left, right) => right.rows - left.rows || (left.level < right.level ? -1 : 1));
          return [name, frequent.slice(0, current.most).map((found) => found.level)];
        }),
      ),
    }),
  },
  apply: (current, input, learned) => {
    const present = outputColumns(input);
    return withColumns(
      input,
      current.columns
        .filter((name) => present.includes(name))
        .map((name) => {
          const entries = (learned?.levels[name] ?? []).map((level): readonly [string, string] => [
            level,
            level,
          ]);
          return {
            name,
            expression: {
              kind: "lookup" as const,
              operand: asText(column(name)),
              entries,
              missing: typedNull("text"),
              otherwise: text(current.label),
              type: "text" as const,
            },
          };
        }),
    );
  },
});
