import { z } from "zod";
import {
  asDouble,
  binary,
  call,
  cast,
  column,
  countRows,
  countWhere,
  integer,
  isNull,
  type Expression,
} from "../expression/ast";
import { mergedBins, type AloneAnswer, type AloneFeature } from "../guard/alone";
import { TARGET_COLUMN } from "../plan/frame-columns";
import { aggregateRows, project, type NamedExpression, type Relation } from "../relation/relation";
import { hidden } from "../names/hidden";
import { longRows, PLACE, VALUE } from "./long-rows";
import { measureAll } from "./measures";
import { doubleValue, type Question } from "./question";

/** Bins that a number is cut into when it is looked at alone. */
const BINS = 20;

/** Values that one statement sorts: enough for many features in one pass, few enough to sort mostly in memory. */
const MOST_VALUES = 2_000_000;

/** How many features are looked at in one pass over so many rows. */
export const featuresInOnePass = (rows: number): number =>
  Math.min(200, Math.max(1, Math.floor(MOST_VALUES / Math.max(1, rows))));

/** The group that a value of a feature is in. */
const PART = hidden("part");

const target = column(TARGET_COLUMN);

/** The group of a value: 0 if it is missing, the code of a category, or the quantile bin of a number, from 1. */
function partOf(features: readonly AloneFeature[]): Expression {
  const [place, value] = [column(PLACE), column(VALUE)];
  const codes = features.flatMap(({ kind }, index) => (kind === "category" ? [integer(index)] : []));
  const bin: Expression = {
    kind: "window",
    call: call("ntile", integer(BINS)),
    by: [place, isNull(value)],
    order: [{ expression: value }],
  };
  const isCategory: Expression = { kind: "in", operand: place, values: codes, negated: false };
  return {
    kind: "case",
    branches: [
      ...(codes.length > 0 ? [{ when: isCategory, then: cast(value, "integer") }] : []),
      { when: isNull(value), then: integer(0) },
    ],
    otherwise: bin,
  };
}

const groupRow = z.looseObject({
  place: z.number(),
  part: z.number().nullable(),
  rows: doubleValue,
  sum: doubleValue.nullable(),
  squares: doubleValue.nullable(),
  values: doubleValue,
});

const classColumn = (code: number): string => `class_${code}`;

/**
 * Groups of several features in one pass over the rows: quantile bins of numbers, codes of categories.
 * Bins with few rows are merged.
 * @param rows training rows with the target
 * @param classes how many classes the target has
 * @returns for each feature its groups, and how many different values it has
 */
export function aloneQuestion(
  rows: Relation,
  features: readonly AloneFeature[],
  classes: number,
): Question<readonly AloneAnswer[]> {
  const names = features.map(({ name }) => name);
  const long = longRows(rows, names, [TARGET_COLUMN]);
  const parts = project(long, [
    ...[PLACE, VALUE, TARGET_COLUMN].map((name) => ({ name, expression: column(name) })),
    { name: PART, expression: partOf(features) },
  ]);
  const codes = Array.from({ length: classes > 2 ? classes : 0 }, (_, code) => code);
  const groups = aggregateRows(
    parts,
    [PLACE, PART],
    [
      { name: "rows", expression: asDouble(countRows) },
      { name: "sum", expression: asDouble(call("sum", target)) },
      { name: "squares", expression: asDouble(call("sum", binary(target, "*", target))) },
      { name: "values", expression: asDouble({ ...call("count", column(VALUE)), distinct: true }) },
      ...codes.map((code): NamedExpression => ({
        name: classColumn(code),
        expression: asDouble(countWhere(binary(target, "=", integer(code)))),
      })),
    ],
  );
  const measured = ["rows", "sum", "squares", "values", ...codes.map(classColumn)];
  return {
    relation: project(groups, [
      { name: "place", expression: column(PLACE) },
      { name: "part", expression: column(PART) },
      ...measured.map((name) => ({ name, expression: column(name) })),
    ]),
    purpose: `${features.length} ${features.length === 1 ? "feature" : "features"} alone against the target`,
    read: (found) => {
      const read = z.array(groupRow).parse(found);
      return features.map(({ kind }, place) => {
        const own = read
          .filter((group) => group.place === place)
          .toSorted((left, right) => (left.part ?? 0) - (right.part ?? 0));
        const all = own.map((group) => ({
          missing: group.part === 0,
          rows: group.rows,
          sum: group.sum ?? 0,
          squares: group.squares ?? 0,
          classes: codes.map((code) => doubleValue.parse(group[classColumn(code)])),
        }));
        const values = own.reduce((sum, group) => sum + group.values, 0);
        if (kind === "category") return { groups: all, values };
        const bins = all.filter(({ missing }) => !missing);
        return { groups: [...all.filter(({ missing }) => missing), ...mergedBins(bins)], values };
      });
    },
  };
}

/**
 * The strongest correlation of each of many number columns with the target, or with any of its classes, in one
 * pass; 0 for a column that does not vary. A cheap way to choose the columns worth a closer look.
 */
export function screenQuestion(
  rows: Relation,
  names: readonly string[],
  classes: number,
): Question<readonly number[]> {
  const answers =
    classes > 2
      ? Array.from({ length: classes }, (_, code) => cast(binary(target, "=", integer(code)), "integer"))
      : [target];
  const { relation, read } = measureAll(
    rows,
    names.flatMap((name) =>
      answers.map((answer) => ({
        correlation: {
          expression: call("corr", column(name), asDouble(answer)),
          schema: doubleValue.nullable(),
        },
      })),
    ),
  );
  return {
    relation,
    purpose: "correlation of features with the target",
    read: ([row]) => {
      // Infinite values have no correlation.
      const found = read(row).map(({ correlation }) => Math.abs(correlation ?? 0) || 0);
      return names.map((_, place) =>
        Math.max(...found.slice(place * answers.length, (place + 1) * answers.length)),
      );
    },
  };
}

/** Rows with the target and the named features, for {@link aloneQuestion}. */
export const aloneColumns = (features: readonly AloneFeature[]): readonly string[] => [
  TARGET_COLUMN,
  ...features.map(({ name }) => name),
];
