import { z } from "zod";
import {
  asDouble,
  binary,
  call,
  cast,
  column,
  countRows,
  double,
  integer,
  isNotNull,
  NULL,
  text,
  type Expression,
} from "../../expression/ast";
import { formatNumber } from "../../format/numbers";
import { aggregateRows, filter, project, type Relation } from "../../relation/relation";
import { isMoment, isNumber } from "../../value-type";
import { isMeasured, type ProfiledColumn } from "../profile/column";
import { doubleValue, onlyRow, type Question } from "../question";

const BINS = 12;
const MOST_CATEGORIES = 12;
/** Longest text by which categories are told apart, in characters. */
const LONGEST = 60;

export const OTHERS = "(others)";

/** A column as a number, for bins and correlations: moments in seconds, yes and no as 1 and 0. */
export function numericValue({ name, type }: ProfiledColumn): Expression {
  const value = column(name);
  if (isMoment(type)) return asDouble({ kind: "extract", field: "epoch", operand: value });
  return asDouble(type === "boolean" ? cast(value, "integer") : value);
}

/** Squares of larger numbers are beyond what a double can hold. */
const LARGEST = 1e150;
const LIMITED: readonly ProfiledColumn["type"][] = ["real", "double precision", "numeric"];

/** Whether a column has a value that can be placed. */
export function isUsable({ name, type }: ProfiledColumn): Expression {
  const value = column(name);
  if (isMoment(type)) return call("isfinite", value);
  if (!LIMITED.includes(type)) return isNotNull(value);
  const bound = (number: number): Expression =>
    type === "numeric" ? cast(text(String(number)), "numeric") : double(number);
  return {
    kind: "between",
    operand: value,
    low: bound(-LARGEST),
    high: bound(LARGEST),
    negated: false,
  };
}

/** A column cut into a few parts: the part of a row as text, and the parts in order, with their words. */
export interface Parts {
  readonly part: Expression;
  readonly keys: readonly string[];
  readonly words: readonly string[];
}

/** A number, or moment, cut at quantiles. */
function binsOf(columnOfRows: ProfiledColumn, edges: readonly number[]): Parts {
  const inner = edges.slice(1, -1);
  const word = (value: number): string =>
    isMoment(columnOfRows.type) ? new Date(value * 1000).toISOString().slice(0, 10) : formatNumber(value);
  const words =
    edges.length < 2
      ? edges.map(word)
      : edges.slice(0, -1).map((value, index) => `${word(value)} … ${word(edges[index + 1] ?? value)}`);
  return {
    part: cast({ kind: "bin", operand: numericValue(columnOfRows), cuts: inner }, "text"),
    keys: words.map((_, index) => String(index)),
    words,
  };
}

const shortText = (name: string): Expression => call("left", cast(column(name), "text"), integer(LONGEST));

/** A column by its most frequent values and the rest. */
function categoriesOf({ name }: ProfiledColumn, frequent: readonly string[]): Parts {
  const shown = frequent.slice(0, MOST_CATEGORIES);
  const keys = [...[...shown].sort(), ...(frequent.length > shown.length ? [OTHERS] : [])];
  const isShown: Expression = {
    kind: "in",
    operand: shortText(name),
    values: shown.map(text),
    negated: false,
  };
  const part: Expression =
    shown.length === 0
      ? cast(NULL, "text")
      : {
          kind: "case",
          branches: [
            { when: isShown, then: shortText(name) },
            { when: isNotNull(column(name)), then: text(OTHERS) },
          ],
        };
  return { part, keys, words: keys };
}

const edgesRow = z.object({ edges: z.array(doubleValue).nullable() });
const valueRows = z.array(z.looseObject({ value: z.string() }));

/** How a column is cut: numbers and moments at quantiles, everything else by its most frequent values and the rest. */
export function partsQuestion(rows: Relation, columnOfRows: ProfiledColumn): Question<Parts> {
  const { name, type } = columnOfRows;
  if (isMeasured(type)) {
    const shares = Array.from({ length: BINS + 1 }, (_, index) => double(index / BINS));
    const usable = filter(rows, isUsable(columnOfRows));
    const edges = call("interpolated_quantiles", ...shares, numericValue(columnOfRows));
    return {
      relation: aggregateRows(usable, [], [{ name: "edges", expression: edges }]),
      purpose: `quantiles of ${name}`,
      read: (found) => binsOf(columnOfRows, [...new Set(onlyRow(found, edgesRow).edges ?? [])]),
    };
  }
  const values = project(filter(rows, isNotNull(column(name))), [
    { name: "value", expression: shortText(name) },
  ]);
  return {
    relation: {
      kind: "limit",
      input: aggregateRows(values, ["value"], [{ name: "rows", expression: countRows }]),
      order: [{ expression: column("rows"), descending: true }, { expression: column("value") }],
      rows: MOST_CATEGORIES + 1,
    },
    purpose: `most frequent values of ${name}`,
    read: (found) =>
      categoriesOf(
        columnOfRows,
        valueRows.parse(found).map(({ value }) => value),
      ),
  };
}

/** Whether two columns have a correlation: numbers, moments, and yes and no. */
export const isNumeric = ({ type }: ProfiledColumn): boolean => isMeasured(type) || type === "boolean";

/** Whether a target has a mean: a number, or yes and no. */
export const hasMean = ({ type }: ProfiledColumn): boolean => isNumber(type) || type === "boolean";

/** Whether both of two conditions hold. */
export const both = (left: Expression, right: Expression): Expression => binary(left, "and", right);
