import { z } from "zod";
import { cast, column, countRows, double } from "../expression/ast";
import { problem } from "../problem";
import { outputColumns, withColumns } from "../relation/relation";
import { categoryQuestion, GROUP, withinLimit } from "./category-answers";
import { asText, columnNames, existing, scalar, typedNull } from "./shared";
import { changed, defineStep, listNames, stepCommon, type StepKind } from "./step";

const settings = z.strictObject({
  do: z.literal("ordinal"),
  ...stepCommon,
  columns: columnNames.describe(
    "Category columns; each is replaced by a category number, from 1. Missing values stay missing.",
  ),
  order: z
    .union([z.enum(["alphabet", "frequency"]), z.array(scalar).min(2)])
    .default("alphabet")
    .describe(
      "alphabet or frequency (most frequent first), learned from training rows only; or the categories, in order.",
    ),
  unseen: z
    .union([z.literal("missing"), z.int()])
    .default("missing")
    .describe("For unseen categories: missing, or a number such as 0."),
});

const learnedSchema = z.object({ levels: z.record(z.string(), z.array(z.string())) });

export const ordinalStep: StepKind = defineStep({
  kind: "ordinal",
  title: "Ordinal encode",
  help: {
    about: "Replaces a category by a number.",
    words: ["label encoding", "integer encoding", "codes", "rank", "encoding", "number categories"],
    missing: "Missing stays missing.",
    example: "columns: [size_class]\norder: [S, M, L, XL]\nunseen: 0",
  },
  settings,
  sentence: (current) =>
    `${listNames(current.columns)} as numbers by ${Array.isArray(current.order) ? "a given order" : current.order}`,
  check: (current, context) => {
    const written = existing(context, current.columns, ["columns"]).map((found) => {
      if (found.bundle)
        context.report(
          problem("bundle_read", `"${found.name}" has already been encoded.`, "Remove it here."),
          ["columns"],
        );
      return context.written(
        found.name,
        { type: "integer", nullable: found.nullable || current.unseen === "missing" },
        [found],
      );
    });
    return {
      output: changed(context.input, written),
      reads: current.columns,
      writes: written.map((column) => column.name),
      drops: [],
    };
  },
  learn: {
    when: (current) => !Array.isArray(current.order),
    schema: learnedSchema,
    questions: (current) =>
      current.columns.map((name) => categoryQuestion(name, [{ name: "rows", expression: countRows }])),
    decode: (current, answers) => ({
      levels: Object.fromEntries(
        current.columns.map((name, index) => {
          const found = [...withinLimit(answers[index] ?? [], name, current.name ?? "ordinal")].map(
            (row) => ({ level: String(row[GROUP]), rows: Number(row["rows"]) }),
          );
          // Compared by code point, so that the order does not depend on the collation of a database.
          found.sort((left, right) => {
            if (current.order === "frequency" && left.rows !== right.rows) return right.rows - left.rows;
            if (left.level < right.level) return -1;
            return 1;
          });
          return [name, found.map((part) => part.level)];
        }),
      ),
    }),
  },
  apply: (current, input, learned) => {
    const present = outputColumns(input);
    const otherwise = current.unseen === "missing" ? typedNull("double precision") : double(current.unseen);
    return withColumns(
      input,
      current.columns
        .filter((name) => present.includes(name))
        .map((name) => {
          const levels = Array.isArray(current.order)
            ? current.order.map(String)
            : (learned?.levels[name] ?? []);
          const entries = levels.map((level, index): readonly [string, number] => [level, index + 1]);
          return {
            name,
            expression: cast(
              {
                kind: "lookup",
                operand: asText(column(name)),
                entries,
                missing: typedNull("double precision"),
                otherwise,
                type: "double precision",
              },
              "integer",
            ),
          };
        }),
    );
  },
});
