import { quoteIdentifier, quoteText } from "../sql/quote";
import type { ValueType } from "../value-type";
import { isNumber } from "../value-type";
import { TARGET_COLUMN } from "../plan/frame-columns";

/** Segments shown at the most, and parts that a number is cut into. */
const [MOST_SEGMENTS, PARTS] = [14, 5];

const isTime = (type: ValueType): boolean =>
  type === "date" || type === "timestamp" || type === "timestamptz";

/** Segment of a row by one column: its value, its month, or for numbers of many values one of a few parts of equal size. */
function segmentSql(
  column: string,
  type: ValueType,
  distinct: number,
): { readonly part: string; readonly label: string } {
  const name = quoteIdentifier(column);
  if (isTime(type)) return { part: `to_char(${name}, 'YYYY-MM')`, label: "min(part::text)" };
  if (isNumber(type) && distinct > MOST_SEGMENTS)
    return {
      part: `ntile(${PARTS}) OVER (ORDER BY ${name})`,
      label: `concat(min(${name}), ${quoteText(" to ")}, max(${name}))`,
    };
  return { part: name, label: `coalesce(min(part::text), ${quoteText("(missing)")})` };
}

/**
 * Predictions and answers of judged rows by segment, as arrays: (label, rows, answers, o0, o1, ...), largest segment first, or in
 * the order of the values for numbers and times.
 * @param source quoted table of judged rows
 * @param distinct how many different values the column has
 */
export function segmentsSql(
  source: string,
  column: string,
  type: ValueType,
  distinct: number,
  outputs: readonly string[],
): string {
  const { part, label } = segmentSql(column, type, distinct);
  const target = quoteIdentifier(TARGET_COLUMN);
  const arrays = outputs.map((name, index) => `array_agg(${quoteIdentifier(name)}) AS o${index}`);
  const ordered =
    isNumber(type) || isTime(type) ? `min(${quoteIdentifier(column)}) NULLS LAST` : "count(*) DESC, 1";
  return `SELECT ${label} AS label, count(*)::integer AS rows, array_agg(${target}) AS answers, ${arrays.join(", ")} FROM (SELECT *, ${part} AS part FROM ${source} WHERE ${target} IS NOT NULL) AS parts GROUP BY part ORDER BY ${ordered} LIMIT ${MOST_SEGMENTS}`;
}

/** Bins along a column in which residuals are summed up. */
const BINS = 24;

/** Residuals of a number target along a column: per bin its place, rows, quartiles of answer minus prediction, and the means of both. */
export function residualsSql(source: string, column: string, type: ValueType, prediction: string): string {
  const name = quoteIdentifier(column);
  const target = quoteIdentifier(TARGET_COLUMN);
  const ordered = isNumber(type) || isTime(type);
  const place = isTime(type) ? `extract(epoch FROM ${name})` : name;
  const part = ordered ? `ntile(${BINS}) OVER (ORDER BY ${name})` : name;
  const residual = `${target} - ${quoteIdentifier(prediction)}`;
  return `SELECT ${ordered ? `avg(${place})::double precision` : "NULL::double precision"} AS place, min(${name})::text AS label, count(*)::integer AS rows, percentile_cont(ARRAY[0.25, 0.5, 0.75]) WITHIN GROUP (ORDER BY ${residual}) AS quartiles, avg(${residual})::double precision AS mean, avg(${target})::double precision AS actual, avg(${quoteIdentifier(prediction)})::double precision AS predicted
FROM (SELECT *, ${part} AS part FROM ${source} WHERE ${target} IS NOT NULL AND ${name} IS NOT NULL) AS parts GROUP BY part ORDER BY ${ordered ? "1" : "count(*) DESC"} LIMIT ${BINS}`;
}
