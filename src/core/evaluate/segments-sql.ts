import { hidden } from "../sql/hidden";
import { quoteDouble, quoteIdentifier, quoteText } from "../sql/quote";
import type { ValueType } from "../value-type";
import { isNumber } from "../value-type";
import { TARGET_COLUMN } from "../plan/frame-columns";

/** Segments shown unless all are asked for, and then; and parts that a number of many values is cut into. */
export const FEW_SEGMENTS = 14;
export const MOST_SEGMENTS = 500;
const PARTS = 5;

const isTime = (type: ValueType): boolean =>
  type === "date" || type === "timestamp" || type === "timestamptz";

/** Whether segments of a column are parts of a number's range. */
export const isCut = (type: ValueType, distinct: number): boolean =>
  isNumber(type) && distinct > FEW_SEGMENTS;

/** Where a number is cut: values at the fifths, so that equal values stay together. Gives one array, "edges". */
export const segmentEdgesSql = (source: string, column: string): string =>
  `SELECT percentile_disc(ARRAY[${Array.from({ length: PARTS - 1 }, (_, index) => (index + 1) / PARTS).join(",")}]) WITHIN GROUP (ORDER BY ${quoteIdentifier(column)}::double precision) AS edges FROM ${source}`;

export interface SegmentColumn {
  readonly column: string;
  readonly type: ValueType;
  /** Where a number is cut, ascending; undefined when every value, or month, is a segment. */
  readonly edges: readonly number[] | undefined;
}

/** Names beside the user's columns. */
const [PART, ANSWER, GROUP, TIMES] = ["segment", "answer", "group", "times"].map(hidden);

/** Segment of a row by one column: its value, its month, or a part of a number's range. */
function segmentSql({ column, type, edges }: SegmentColumn): {
  readonly part: string;
  readonly label: string;
} {
  const name = quoteIdentifier(column);
  const missing = quoteText("(missing)");
  if (isTime(type))
    return { part: `to_char(${name}, 'YYYY-MM')`, label: `coalesce(min(${PART}::text), ${missing})` };
  if (edges)
    return {
      part: `width_bucket(${name}::double precision, ARRAY[${[...new Set(edges)].map(quoteDouble).join(", ")}]::double precision[])`,
      label: `CASE WHEN min(${PART}) IS NULL THEN ${missing} WHEN min(${name}) = max(${name}) THEN min(${name})::text ELSE concat(min(${name}), ${quoteText(" to ")}, max(${name})) END`,
    };
  return { part: name, label: `coalesce(min(${PART}::text), ${missing})` };
}

/**
 * Predictions and answers of judged rows by segment, as arrays: (label, rows, answers, groups, weights, o0, o1, ...), with
 * "segments" as the number of all. The largest, or for times the newest, are given; in the order of numbers and times.
 * @param source quoted table of judged rows
 */
export function segmentsSql(
  source: string,
  by: SegmentColumn,
  judged: {
    readonly outputs: readonly string[];
    readonly group: string | undefined;
    readonly weight: string | undefined;
  },
  most: number,
): string {
  const { part, label } = segmentSql(by);
  const name = quoteIdentifier(by.column);
  const target = quoteIdentifier(TARGET_COLUMN);
  const group =
    judged.group === undefined
      ? "NULL::integer"
      : `(dense_rank() OVER (ORDER BY ${quoteIdentifier(judged.group)}))::integer`;
  const weight =
    judged.weight === undefined
      ? "NULL::double precision"
      : `coalesce(${quoteIdentifier(judged.weight)}::double precision, 0)`;
  const outputs = judged.outputs.map(
    (output, index) => `${quoteIdentifier(output)} AS ${hidden(`o${index}`)}`,
  );
  const rows = `SELECT ${name}, ${target} AS ${ANSWER}, ${group} AS ${GROUP}, ${weight} AS ${TIMES}, ${outputs.join(", ")}, ${part} AS ${PART} FROM ${source} WHERE ${target} IS NOT NULL AND ${quoteIdentifier(judged.outputs[0]!)} IS NOT NULL`;
  const arrays = judged.outputs.map((_, index) => `array_agg(${hidden(`o${index}`)}) AS o${index}`);
  const ordered = isNumber(by.type) || isTime(by.type);
  const grouped = `SELECT ${label} AS label, ${ordered ? `min(${name})` : "NULL"} AS place, count(*)::integer AS rows, count(*) OVER ()::integer AS segments, array_agg(${ANSWER}) AS answers, array_agg(${GROUP}) AS groups, array_agg(${TIMES}) AS weights, ${arrays.join(", ")} FROM (${rows}) AS parts GROUP BY ${PART}`;
  const newest = isTime(by.type) ? "place DESC NULLS LAST" : "rows DESC, label";
  return `SELECT * FROM (SELECT * FROM (${grouped}) AS segments ORDER BY ${newest} LIMIT ${Math.trunc(most)}) AS chosen ORDER BY ${ordered ? "place NULLS LAST" : "rows DESC, label"}`;
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
  return `SELECT ${ordered ? `avg(${place})::double precision` : "NULL::double precision"} AS place, ${ordered ? `min(${name})::text` : `min(${name}::text)`} AS label, count(*)::integer AS rows, percentile_cont(ARRAY[0.25, 0.5, 0.75]) WITHIN GROUP (ORDER BY ${residual}) AS quartiles, avg(${residual})::double precision AS mean, avg(${target})::double precision AS actual, avg(${quoteIdentifier(prediction)})::double precision AS predicted
FROM (SELECT ${[...new Set([name, target, quoteIdentifier(prediction)])].join(", ")}, ${part} AS ${PART} FROM ${source} WHERE ${target} IS NOT NULL AND ${name} IS NOT NULL) AS parts GROUP BY ${PART} ORDER BY ${ordered ? "1" : "count(*) DESC"} LIMIT ${BINS}`;
}
