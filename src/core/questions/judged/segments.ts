import { z } from "zod";
import {
  asDouble,
  binary,
  call,
  cast,
  column,
  countRows,
  double,
  isNull,
  NULL,
  text,
  type Expression,
  type Order,
} from "../../expression/ast";
import { TARGET_COLUMN } from "../../plan/frame-columns";
import { aggregateRows, project, table, type NamedExpression, type Relation } from "../../relation/relation";
import { hidden } from "../../names/hidden";
import { isMoment, isNumber, type ValueType } from "../../value-type";
import { numbersOf } from "../groups";
import { doubleValue, onlyRow, type Question } from "../question";
import { distinctNumber, judgedRows, weightOrNone, type JudgedTable, type ScoreColumns } from "./judged-rows";

/** Segments shown unless all are requested, and then; and parts that a number of many values is cut into. */
export const FEW_SEGMENTS = 14;
export const MOST_SEGMENTS = 500;
const PARTS = 5;

/** A column that rows are divided by. */
export interface SegmentColumn {
  readonly name: string;
  readonly type: ValueType;
  /** Where a number is cut, ascending; undefined when every value, or month, is a segment. */
  readonly edges: readonly number[] | undefined;
}

/** Whether segments of a column are parts of a number's range. */
export const isCut = (type: ValueType, distinct: number): boolean =>
  isNumber(type) && distinct > FEW_SEGMENTS;

/** How many different values a column has. */
export function distinctCountQuestion({ place }: JudgedTable, name: string): Question<number> {
  const distinct = asDouble({ ...call("count", column(name)), distinct: true });
  const { relation, read } = numbersOf(table(place, [name]), [distinct]);
  return { relation, purpose: `different values of ${name}`, read: (rows) => read(rows)[0] ?? 0 };
}

/** Where a number is cut: values at the fifths, so that equal values stay together. */
export function segmentEdgesQuestion({ place }: JudgedTable, name: string): Question<readonly number[]> {
  const shares = Array.from({ length: PARTS - 1 }, (_, index) => double((index + 1) / PARTS));
  const edges = call("quantiles", ...shares, asDouble(column(name)));
  return {
    relation: aggregateRows(table(place, [name]), [], [{ name: "edges", expression: edges }]),
    purpose: `fifths of ${name}`,
    read: (rows) => onlyRow(rows, z.object({ edges: z.array(doubleValue).nullable() })).edges ?? [],
  };
}

const SEGMENT = hidden("segment");
const inRow = (name: string): string => hidden(`row_${name}`);
const MISSING = text("(missing)");

/** The segment of a row: its value, its month, or the part of a number's range that it is in. */
function segmentOf({ name, type, edges }: SegmentColumn): Expression {
  if (isMoment(type)) return call("month_text", column(name));
  if (edges) return { kind: "bin", operand: asDouble(column(name)), cuts: [...new Set(edges)] };
  return column(name);
}

/** What a segment is called. */
function labelOf({ name, type, edges }: SegmentColumn): Expression {
  const smallest = call("min", column(name));
  const largest = call("max", column(name));
  if (isMoment(type) || !edges) return call("coalesce", call("min", cast(column(SEGMENT), "text")), MISSING);
  return {
    kind: "case",
    branches: [
      { when: isNull(call("min", column(SEGMENT))), then: MISSING },
      { when: binary(smallest, "=", largest), then: cast(smallest, "text") },
    ],
    otherwise: call("concat", smallest, text(" to "), largest),
  };
}

/** Predictions and targets of the rows of one segment. */
export interface SegmentRows {
  readonly label: string;
  /** How many segments there are, returned or not. */
  readonly segments: number;
  readonly targets: readonly number[];
  readonly outputs: readonly (readonly number[])[];
  readonly groups: readonly number[] | undefined;
  readonly weights: readonly number[] | undefined;
}

const doubles = z.array(doubleValue);
const segmentRow = z.looseObject({ label: z.string(), segments: doubleValue, targets: doubles });

/**
 * Predictions and targets of judged rows by segment: the largest segments, or for times the newest, in the order
 * of numbers and times. Values of different columns are in the same order of rows.
 * @param most how many segments are returned at the most
 */
export function segmentsQuestion(
  judged: JudgedTable,
  by: SegmentColumn,
  { group, weight }: ScoreColumns,
  most: number,
): Question<readonly SegmentRows[]> {
  const outputs = judged.outputs.map((output, index): NamedExpression => ({
    name: `output_${index}`,
    expression: column(output),
  }));
  const values: readonly NamedExpression[] = [
    { name: "targets", expression: column(TARGET_COLUMN) },
    ...(group === undefined ? [] : [{ name: "groups", expression: asDouble(distinctNumber(group)) }]),
    ...(weight === undefined ? [] : [{ name: "weights", expression: weightOrNone(weight) }]),
    ...outputs,
  ];
  const further = [by.name, group, weight].filter((name) => name !== undefined);
  const rows = project(judgedRows(judged, further), [
    { name: by.name, expression: column(by.name) },
    { name: SEGMENT, expression: segmentOf(by) },
    ...values.map(({ name, expression }) => ({ name: inRow(name), expression })),
  ]);
  const isOrdered = isNumber(by.type) || isMoment(by.type);
  const grouped = aggregateRows(
    rows,
    [SEGMENT],
    [
      { name: "label", expression: labelOf(by) },
      { name: "place", expression: isOrdered ? call("min", column(by.name)) : cast(NULL, "text") },
      { name: "rows", expression: asDouble(countRows) },
      ...values.map(({ name }) => ({ name, expression: call("all_values", column(inRow(name))) })),
    ],
  );
  const all = asDouble({ kind: "window", call: countRows, by: [], order: [] });
  const names = ["label", "place", "rows", ...values.map(({ name }) => name)];
  const counted = project(grouped, [
    ...names.map((name) => ({ name, expression: column(name) })),
    { name: "segments", expression: all },
  ]);
  const bySize: readonly Order[] = [
    { expression: column("rows"), descending: true },
    { expression: column("label") },
  ];
  const byPlace: Order = { expression: column("place") };
  const chosen = firstRows(counted, isMoment(by.type) ? [{ ...byPlace, descending: true }] : bySize, most);
  return {
    relation: firstRows(chosen, isOrdered ? [byPlace] : bySize, most),
    purpose: `predictions and targets by ${by.name}`,
    read: (found) =>
      z
        .array(segmentRow)
        .parse(found)
        .map((row) => ({
          label: row.label,
          segments: row.segments,
          targets: row.targets,
          outputs: outputs.map(({ name }) => doubles.parse(row[name])),
          groups: group === undefined ? undefined : doubles.parse(row["groups"]),
          weights: weight === undefined ? undefined : doubles.parse(row["weights"]),
        })),
  };
}

const firstRows = (input: Relation, order: readonly Order[], rows: number): Relation => ({
  kind: "limit",
  input,
  order,
  rows,
});
