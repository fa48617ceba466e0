import { z } from "zod";
import {
  asDouble,
  binary,
  call,
  column,
  countRows,
  countWhere,
  double,
  isNotNull,
  text,
} from "../../expression/ast";
import type { ColumnRemarks } from "../../evaluate/table-profile";
import { aggregateRows, filter, project, type Relation } from "../../relation/relation";
import { numbersOf } from "../groups";
import { doubleValue, type Question } from "../question";

/** Lengths of texts in characters, and how many hold nothing but space. */
export function lengthsQuestion(
  rows: Relation,
  name: string,
): Question<NonNullable<ColumnRemarks["lengths"]>> {
  const length = call("length", column(name));
  const isEmpty = binary(call("btrim", column(name)), "=", text(""));
  const { relation, read } = numbersOf(rows, [
    asDouble(call("min", length)),
    asDouble({ ...call("percentile_disc", double(0.5)), withinGroup: length }),
    asDouble(call("max", length)),
    asDouble(countWhere(isEmpty)),
  ]);
  return {
    relation,
    purpose: `lengths of ${name}`,
    read: (found) => {
      const [shortest, median, longest, empty] = read(found);
      return {
        shortest: shortest ?? 0,
        median: median ?? 0,
        longest: longest ?? 0,
        empty: empty ?? 0,
      };
    },
  };
}

/** How many values lie below one number or above another. */
export function outliersQuestion(
  rows: Relation,
  name: string,
  [below, above]: readonly [number, number],
): Question<number> {
  const value = column(name);
  const isOutside = binary(binary(value, "<", double(below)), "or", binary(value, ">", double(above)));
  const { relation, read } = numbersOf(filter(rows, isOutside), [asDouble(countRows)]);
  return { relation, purpose: `outliers of ${name}`, read: (found) => read(found)[0] ?? 0 };
}

/** Rows by month of a column of moments, in order. */
export function monthsQuestion(
  rows: Relation,
  name: string,
  most: number,
): Question<readonly { readonly month: string; readonly rows: number }[]> {
  const finite = filter(rows, binary(isNotNull(column(name)), "and", call("isfinite", column(name))));
  const months = project(finite, [{ name: "month", expression: call("month_text", column(name)) }]);
  return {
    relation: {
      kind: "limit",
      input: aggregateRows(months, ["month"], [{ name: "rows", expression: asDouble(countRows) }]),
      order: [{ expression: column("month") }],
      rows: most,
    },
    purpose: `months of ${name}`,
    read: (found) => z.array(z.object({ month: z.string(), rows: doubleValue })).parse(found),
  };
}
