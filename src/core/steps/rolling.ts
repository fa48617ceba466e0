import { z } from "zod";
import { column, isNotNull, type Expression } from "../expression/ast";
import { columnsOf, mapExpression, walk } from "../expression/visit";
import { FUNCTIONS } from "../expression/functions";
import { problem } from "../problem";
import { withColumns } from "../relation/relation";
import { checkPast, pastFrame, pastSettings, pastWords } from "./past";
import { checkNewName, existing } from "./shared";
import { changed, defineStep, expressionText, listNames, stepCommon, type StepKind } from "./step";

const settings = z.strictObject({
  do: z.literal("rolling"),
  ...stepCommon,
  ...pastSettings.shape,
  by: z
    .array(z.string().min(1))
    .default([])
    .describe("Columns that identify the entity; each has its own history."),
  measures: z
    .record(z.string().min(1), expressionText)
    .describe(
      "New column: SQL aggregate over rows strictly before the row's time, such as avg(rain_mm). Missing without such rows; count is 0.",
    ),
});
type Settings = z.infer<typeof settings>;

/** Aggregates that PostgreSQL cannot compute over a moving window. */
const cannotRoll = (expression: Expression): string | undefined => {
  let found: string | undefined;
  walk(expression, (node) => {
    const rule = node.kind === "call" ? FUNCTIONS[node.name] : undefined;
    if (node.kind === "call" && (rule?.ordered || rule?.ordersItself || node.distinct))
      found = `${node.name}(${node.distinct ? "DISTINCT ...)" : ")"}`;
  });
  return found;
};

/** Each aggregate of a measure, seen over the rows before. */
function rolled(current: Settings, measure: Expression): Expression {
  const over = (call: Expression): Expression => ({
    kind: "window",
    call,
    by: current.by.map((name) => column(name)),
    order: [{ expression: column(current.order) }],
    frame: pastFrame(current),
  });
  const whole = mapExpression(measure, (node) =>
    node.kind === "call" && FUNCTIONS[node.name]?.aggregate ? over(node) : node,
  );
  // Rows without a moment come last in the order, but nothing is before them.
  return { kind: "case", branches: [{ when: isNotNull(column(current.order)), then: whole }] };
}

export const rollingStep: StepKind = defineStep({
  kind: "rolling",
  title: "Rolling aggregates",
  help: {
    about: "Aggregates over rows of the same entity strictly before the row's time.",
    words: ["window", "moving", "average", "trailing", "history", "moving average", "rolling measures"],
    missing: "Aggregates ignore missing values. A row without a time gets missing.",
    example: "order: day\nby: [site_id]\nlast: 28 days\nmeasures: {usual_parcels: avg(parcels)}",
  },
  regroups: true,
  settings,
  sentence: (current) => `${listNames(Object.keys(current.measures))} over ${pastWords(current)}`,
  check: (current, context) => {
    const order = checkPast(context, current, []);
    const by = existing(context, current.by, ["by"]);
    const reads = new Set([current.order, ...current.by]);
    const written = Object.entries(current.measures).flatMap(([name, text]) => {
      const path = ["measures", name];
      checkNewName(context, name, path);
      const found = context.expression(text, path, { aggregates: "required" });
      if (!found) return [];
      const bad = cannotRoll(found.expression);
      if (bad)
        context.report(
          problem(
            "cannot_roll",
            `${bad} cannot be computed over a rolling window.`,
            "Use count, sum, avg, min, max, stddev_samp, share, bool_and or bool_or.",
          ),
          path,
        );
      const read = columnsOf(found.expression);
      for (const text of read) reads.add(text);
      return [
        context.written(name, { ...found.checked, nullable: true }, [
          ...read.flatMap((text) => context.input.get(text) ?? []),
          ...order,
          ...by,
        ]),
      ];
    });
    return {
      output: changed(context.input, written),
      reads: [...reads],
      writes: written.map((column) => column.name),
      drops: [],
    };
  },
  apply: (current, input, _learned, context) =>
    withColumns(
      input,
      Object.entries(current.measures).map(([name, text]) => ({
        name,
        expression: rolled(current, context.expression(text)),
      })),
    ),
});
