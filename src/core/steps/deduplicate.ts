import { hidden } from "../names/hidden";
import { z } from "zod";
import { binary, call, column, integer, type Expression, type Order } from "../expression/ast";
import { filter, keepColumns, outputColumns, withColumns } from "../relation/relation";
import { columnNames, existing, orderColumns, orderOf, orderSetting } from "./shared";
import { defineStep, listNames, stepCommon, tieBreak, type StepKind } from "./step";

const RANK = hidden("rank");

/** Keeps one row of those that agree in some columns. Rows that tie in the order too are told apart by all their values, so the choice is the same every time. */
export const deduplicateStep: StepKind = defineStep({
  kind: "deduplicate",
  title: "Remove duplicates",
  help: {
    about: "Keeps one row of each group with equal columns.",
    words: ["distinct", "unique", "duplicate", "dedupe"],
    missing: "Missing equals missing. A row without an order value is kept only if no other row has one.",
    example: "by: [town, observed_at]\norder: [{column: rain_mm, descending: true}]",
  },
  regroups: true,
  settings: z.strictObject({
    do: z.literal("deduplicate"),
    ...stepCommon,
    by: columnNames
      .optional()
      .describe(
        "Rows equal in these columns are duplicates; missing equals missing. All columns if omitted.",
      ),
    order: orderSetting
      .default([])
      .describe(
        "Columns that order duplicates, each a name or {column, descending}. A row with a missing value is kept only if no other row has one.",
      ),
    keep: z
      .enum(["first", "last"])
      .default("first")
      .describe("Whether to keep the first or the last row in that order."),
  }),
  sentence: (settings) =>
    `one row for each ${settings.by ? listNames(settings.by) : "distinct row"}${settings.order.length > 0 ? `, the ${settings.keep} by ${listNames(orderColumns(settings.order))}` : ""}`,
  check: (settings, context) => {
    const by = existing(context, settings.by ?? [], ["by"]);
    const order = existing(context, orderColumns(settings.order), ["order"]);
    return {
      output: context.input,
      reads: [...new Set([...by, ...order].map((column) => column.name))],
      writes: [],
      drops: [],
    };
  },
  apply: (settings, input, _learned, context) => {
    const all = outputColumns(input);
    const by = settings.by ?? all;
    const wanted = orderOf(settings.order).map((order): Order =>
      settings.keep === "last" ? { ...order, descending: order.descending !== true } : order,
    );
    const named = orderColumns(settings.order);
    const rank: Expression = {
      kind: "window",
      call: call("row_number"),
      by: by.map((name) => column(name)),
      order: [...wanted, ...tieBreak(all, context.input, [...by, ...named])],
    };
    return keepColumns(
      filter(withColumns(input, [{ name: RANK, expression: rank }]), binary(column(RANK), "=", integer(1))),
      all,
    );
  },
});
