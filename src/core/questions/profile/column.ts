import { z } from "zod";
import {
  asDouble,
  binary,
  call,
  cast,
  column,
  countRows,
  double,
  isNotNull,
  type Expression,
} from "../../expression/ast";
import type { CatalogColumn } from "../../plan/catalog";
import { aggregateRows, type NamedExpression, type Relation } from "../../relation/relation";
import { isMoment, isNumber, type ValueType } from "../../value-type";
import { doubleValue, onlyRow, type Question } from "../question";

/** A column whose values are described. */
export type ProfiledColumn = Pick<CatalogColumn, "name" | "type">;

/** How many values a column has, and of values in an order how far they reach, as texts. */
export interface ColumnOverview {
  readonly rows: number;
  readonly present: number;
  readonly distinct: number;
  readonly smallest: string | null;
  readonly largest: string | null;
  readonly quartiles: readonly [string, string, string] | null;
  /** Of numbers, NaN left out. */
  readonly mean: number | null;
}

/** Whether values have a distance: numbers and moments. */
export const isMeasured = (type: ValueType): boolean => isNumber(type) || isMoment(type);

const ORDERED: readonly ValueType[] = ["text", "interval", "time"];
const DISTINGUISHED: readonly ValueType[] = ["boolean", "uuid"];
const isOrdered = (type: ValueType): boolean => isMeasured(type) || ORDERED.includes(type);

/** Whether a number may be NaN or infinite. */
const isFloating = (type: ValueType): boolean => type === "real" || type === "double precision";

const overviewRow = z.object({
  rows: doubleValue,
  present: doubleValue,
  distinct_values: doubleValue,
  smallest: z.string().nullish(),
  largest: z.string().nullish(),
  low: z.string().nullish(),
  middle: z.string().nullish(),
  high: z.string().nullish(),
  mean: doubleValue.nullish(),
});

/** Counts, range, quartiles and mean of a column, as far as its type has them. */
export function overviewQuestion(rows: Relation, { name, type }: ProfiledColumn): Question<ColumnOverview> {
  const value = column(name);
  const compared = isOrdered(type) || DISTINGUISHED.includes(type) ? value : cast(value, "text");
  const asText = (expression: Expression): Expression => cast(expression, "text");
  const quartile = (share: number): Expression =>
    asText({ ...call("percentile_disc", double(share)), withinGroup: value });
  const number = isFloating(type) ? call("nullif", value, cast(double(Number.NaN), type)) : value;
  const measures: readonly NamedExpression[] = [
    { name: "rows", expression: asDouble(countRows) },
    { name: "present", expression: asDouble(call("count", value)) },
    { name: "distinct_values", expression: asDouble({ ...call("count", compared), distinct: true }) },
    ...(isOrdered(type)
      ? [
          { name: "smallest", expression: asText(call("min", value)) },
          { name: "largest", expression: asText(call("max", value)) },
        ]
      : []),
    ...(isMeasured(type)
      ? [
          { name: "low", expression: quartile(0.25) },
          { name: "middle", expression: quartile(0.5) },
          { name: "high", expression: quartile(0.75) },
        ]
      : []),
    ...(isNumber(type) ? [{ name: "mean", expression: asDouble(call("avg", number)) }] : []),
  ];
  return {
    relation: aggregateRows(rows, [], measures),
    purpose: `values of ${name}`,
    read: (found) => {
      const row = onlyRow(found, overviewRow);
      const { low, middle, high } = row;
      return {
        rows: row.rows,
        present: row.present,
        distinct: row.distinct_values,
        smallest: row.smallest ?? null,
        largest: row.largest ?? null,
        quartiles: low && middle && high ? [low, middle, high] : null,
        mean: row.mean ?? null,
      };
    },
  };
}

/** The value of a column as a number: of moments the seconds since 1970. */
export const numberOf = ({ name, type }: ProfiledColumn): Expression =>
  asDouble(isMoment(type) ? { kind: "extract", field: "epoch", operand: column(name) } : column(name));

/** Whether the value of a column is there and finite. */
export function isFinite({ name, type }: ProfiledColumn): Expression {
  const value = column(name);
  if (isMoment(type)) return binary(isNotNull(value), "and", call("isfinite", value));
  if (!isFloating(type)) return isNotNull(value);
  const values = [Number.NaN, Infinity, -Infinity].map((constant) => cast(double(constant), type));
  return binary(isNotNull(value), "and", { kind: "in", operand: value, values, negated: true });
}
