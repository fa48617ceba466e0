import { formatNumber } from "../format/numbers";
import { z } from "zod";
import { outputColumns } from "../relation/relation";
import { existing, orderColumns, orderOf, orderSetting } from "./shared";
import { defineStep, listNames, stepCommon, tieBreak, type StepKind } from "./step";

export const limitStep: StepKind = defineStep({
  kind: "limit",
  title: "Sort and limit",
  help: {
    about: "Keeps the first rows in a given order.",
    words: ["order by", "top", "first", "head"],
    missing: "Missing values come last.",
    example: "order: [{column: delivered_at, descending: true}]\nrows: 10000",
  },
  regroups: true,
  settings: z.strictObject({
    do: z.literal("limit"),
    ...stepCommon,
    order: orderSetting
      .min(1)
      .describe(
        "Columns to sort by, each a name or {column, descending}. Missing values come last. Ties are broken by the other columns.",
      ),
    rows: z.int().min(1).max(1_000_000_000).describe("Number of rows to keep."),
  }),
  sentence: (settings) =>
    `first ${formatNumber(settings.rows)} rows by ${listNames(orderColumns(settings.order))}`,
  check: (settings, context) => ({
    output: context.input,
    reads: existing(context, orderColumns(settings.order), ["order"]).map((column) => column.name),
    writes: [],
    drops: [],
  }),
  apply: (settings, input, _learned, context) => ({
    kind: "limit",
    input,
    order: [
      ...orderOf(settings.order),
      ...tieBreak(outputColumns(input), context.input, orderColumns(settings.order)),
    ],
    rows: settings.rows,
  }),
});
