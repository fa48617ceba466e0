import { hidden } from "../names/hidden";
import { z } from "zod";
import { binary, call, cast, column, text, type Expression, type Order } from "../expression/ast";
import { otherSide } from "../expression/sides";
import { outputColumns, withColumns, type Relation } from "../relation/relation";
import { problem } from "../problem";
import { isMoment } from "../value-type";
import { columnThere, joinedPairs, joinSettings, joinShape, takenColumns } from "./join-columns";
import { defineStep, stepCommon, tieBreak, type StepKind } from "./step";

const settings = z.strictObject({
  do: z.literal("join_latest"),
  ...stepCommon,
  with: joinSettings.with,
  on: joinSettings.on,
  moment: z.string().min(1).describe("The column here with the time of prediction."),
  known: z.string().min(1).describe("The column there with the time a row became known."),
  same_moment: z
    .enum(["allow", "exclude"])
    .default("allow")
    .describe("Whether a row known at exactly that time counts (allow), or only earlier rows."),
  within: z
    .string()
    .regex(/^\d{1,6} (minute|hour|day|week|month|year)s?$/, "a number and a unit, such as 7 days")
    .optional()
    .describe("Maximum age of a row."),
  unmatched: z
    .enum(["keep", "drop"])
    .default("keep")
    .describe("What happens to rows here with no known row."),
  take: joinSettings.take,
  prefix: joinSettings.prefix,
});

/** Until when a row of the other strand is the latest: when the next one of the same key becomes known. */
const UNTIL = hidden("until");

/**
 * The latest row of another strand known at a moment, no later. Each row there is the latest from when it became known
 * until the next one of its key does; so the join is on the key and on that stretch of time, and never multiplies rows.
 * Of several that became known together, the last by all their values counts.
 */
export const joinLatestStep: StepKind = defineStep({
  kind: "join_latest",
  title: "As-of join",
  help: {
    about:
      "Joins the latest row of another strand that was known at the time of prediction, and never a later one.",
    words: ["as of", "as-of", "point in time", "lookup", "merge", "temporal", "what was known"],
    missing: "A row without a time of prediction or without a known row gets missing columns, or is dropped.",
    example:
      "with: readings\non: [site_id]\nmoment: delivered_at\nknown: taken_at\nwithin: 30 days\ntake: [force_n]",
  },
  settings,
  strands: (current) => [current.with],
  sentence: (current) => `the latest ${current.with} known at ${current.moment}`,
  check: (current, context) => {
    const right = context.strand(current.with, ["with"]);
    const shape = joinShape(current, right, context);
    const moment = context.column(current.moment, ["moment"]);
    const known = columnThere(current, right, context, current.known, ["known"]);
    for (const [state, path] of [
      [moment, "moment"],
      [known, "known"],
    ] as const) {
      if (state && !isMoment(state.type))
        context.report(
          problem(
            "type_clash",
            `"${state.name}" is ${state.type}, not a date or time.`,
            "Name a date or time column.",
          ),
          [path],
        );
    }
    return { ...shape, reads: [...new Set([current.moment, ...shape.reads])] };
  },
  apply: (current, left, _learned, context): Relation => {
    const right = context.strand(current.with);
    const names = outputColumns(right);
    const keys = joinedPairs(current.on).map((pair) => pair.right);
    const order: readonly Order[] = [
      { expression: column(current.known) },
      ...tieBreak(names, new Map(), [...keys, current.known]),
    ];
    const until: Expression = {
      kind: "window",
      call: call("lead", column(current.known)),
      by: keys.map((name) => column(name)),
      order,
    };
    const known = {
      kind: "filter" as const,
      input: right,
      condition: {
        kind: "is" as const,
        operand: column(current.known),
        test: "null" as const,
        negated: true,
      },
    };
    const stretched = withColumns(known, [{ name: UNTIL, expression: until }]);
    const [moment, from, to] = [
      column(current.moment),
      column(otherSide(current.known)),
      column(otherSide(UNTIL)),
    ];
    const exclude = current.same_moment === "exclude";
    const begun = binary(from, exclude ? "<" : "<=", moment);
    const notOver = binary(
      { kind: "is", operand: to, test: "null", negated: false },
      "or",
      binary(moment, exclude ? "<=" : "<", to),
    );
    const fresh =
      current.within === undefined
        ? []
        : [binary(from, ">=", binary(moment, "-", cast(text(current.within), "interval")))];
    const condition = [notOver, ...fresh].reduce<Expression>((all, node) => binary(all, "and", node), begun);
    return {
      kind: "join",
      how: current.unmatched === "keep" ? "left" : "inner",
      left,
      right: stretched,
      on: joinedPairs(current.on),
      take: takenColumns(current, names),
      condition,
    };
  },
});
