import { z } from "zod";
import type { WindowFrame } from "../expression/ast";
import { problem } from "../problem";
import { isMoment, isNumber } from "../value-type";
import type { CheckContext, ColumnState } from "./step";

/** How far back a step looks: strictly before the row's own moment. */
export const pastSettings = z.strictObject({
  order: z.string().min(1).describe("The column that orders rows in time."),
  last: z
    .string()
    .regex(/^\d{1,6} (minute|hour|day|week|month|year)s?$/, "a number and a unit, such as 7 days")
    .optional()
    .describe("Length of the window before the row, such as 7 days."),
  moments: z.int().min(1).max(100_000).optional().describe("Number of distinct times before the row."),
});
export type Past = z.infer<typeof pastSettings>;

export function pastFrame(past: Past): WindowFrame {
  if (past.moments !== undefined) return { kind: "earlier times", moments: past.moments };
  return past.last === undefined ? { kind: "all before" } : { kind: "span before", interval: past.last };
}

/** What lies behind a row, in words. */
export function pastWords({ moments, last }: Past): string {
  if (moments !== undefined) return `the ${moments} times before`;
  return last === undefined ? "all earlier times" : `the ${last} before`;
}

/** The order column, when it exists and can be ordered in time; what is wrong is reported. */
export function checkPast(
  context: CheckContext,
  past: Past,
  path: readonly (string | number)[],
): readonly ColumnState[] {
  const found = context.column(past.order, [...path, "order"]);
  if (past.last !== undefined && past.moments !== undefined)
    context.report(
      problem("bad_setting", "Both a time range and a number of times are given.", "Give one of the two."),
      [...path, "moments"],
    );
  if (!found) return [];
  const good = isMoment(found.type) || (past.last === undefined && isNumber(found.type));
  if (!good)
    context.report(
      problem(
        "type_clash",
        `"${found.name}" is ${found.type}; ${past.last === undefined ? "the order must be a date, a time or a number" : `"${past.last}" needs a date or time column`}.`,
        "Name another column, or convert it.",
      ),
      [...path, "order"],
    );
  return [found];
}
