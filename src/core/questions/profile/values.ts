import { z } from "zod";
import { asDouble, call, cast, column, countRows, double, integer, isNotNull } from "../../expression/ast";
import { aggregateRows, filter, project, type Relation } from "../../relation/relation";
import { groupedNumbers, numbersOf } from "../groups";
import { doubleValue, type Question } from "../question";
import { isFinite, numberOf, type ProfiledColumn } from "./column";

/** A value as text, and how many rows have it. */
export interface ValueCount {
  readonly value: string;
  readonly rows: number;
}

const LONGEST_VALUE = 200;
const valueRows = z.array(z.object({ value: z.string(), rows: doubleValue }));

/**
 * The beginning of every value of a column that is there, as text, with its rows: the most frequent first, then by
 * value.
 */
export function valueCountsQuestion(
  rows: Relation,
  name: string,
  most: number,
): Question<readonly ValueCount[]> {
  const texts = project(filter(rows, isNotNull(column(name))), [
    { name: "value", expression: call("left", cast(column(name), "text"), integer(LONGEST_VALUE)) },
  ]);
  return {
    relation: {
      kind: "limit",
      input: aggregateRows(texts, ["value"], [{ name: "rows", expression: asDouble(countRows) }]),
      order: [{ expression: column("rows"), descending: true }, { expression: column("value") }],
      rows: most,
    },
    purpose: `most frequent values of ${name}`,
    read: (found) => valueRows.parse(found),
  };
}

/** The smallest and the largest finite value of a column, as numbers; undefined when there is none. */
export function rangeQuestion(
  rows: Relation,
  profiled: ProfiledColumn,
): Question<readonly [low: number, high: number] | undefined> {
  const value = numberOf(profiled);
  const { relation, read } = numbersOf(filter(rows, isFinite(profiled)), [
    call("min", value),
    call("max", value),
  ]);
  return {
    relation,
    purpose: `range of ${profiled.name}`,
    read: (found) => {
      const [low, high] = read(found);
      return low === null || low === undefined || high === null || high === undefined
        ? undefined
        : [low, high];
    },
  };
}

const BAR = "bar";

/**
 * Rows in bars of the same width between two numbers; index 0 is the first bar. The largest value belongs to the
 * last.
 */
export function barsQuestion(
  rows: Relation,
  profiled: ProfiledColumn,
  [low, high]: readonly [number, number],
  bars: number,
): Question<readonly number[]> {
  const place = call("width_bucket", numberOf(profiled), double(low), double(high), integer(bars));
  const placed = project(filter(rows, isFinite(profiled)), [
    { name: BAR, expression: call("least", integer(bars), place) },
  ]);
  const { relation, read } = groupedNumbers(placed, [BAR], [asDouble(countRows)]);
  return {
    relation,
    purpose: `histogram of ${profiled.name}`,
    read: (found) => {
      const counts = new Map(read(found).map(({ keys, values }) => [keys[0], values[0]]));
      return Array.from({ length: bars }, (_, index) => counts.get(index + 1) ?? 0);
    },
  };
}
