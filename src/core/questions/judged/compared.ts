import { z } from "zod";
import {
  allOf,
  asDouble,
  binary,
  call,
  cast,
  column,
  double,
  isNotNull,
  sumOf,
  type Expression,
} from "../../expression/ast";
import { TARGET_COLUMN, WEIGHT_COLUMN } from "../../plan/frame-columns";
import { filter, project, table, type NamedExpression, type Relation } from "../../relation/relation";
import { hidden } from "../../names/hidden";
import { doubleValue, type Question } from "../question";
import {
  distinctNumber,
  GROUP_COLUMN,
  weightOrNone,
  type JudgedTable,
  type ScoreColumns,
} from "./judged-rows";

/** How far apart two predictions of a row are. */
const DISTANCE = hidden("distance");
const keyName = (place: number): string => hidden(`key_${place}`);
const numbered = (side: string, outputs: readonly string[]): readonly string[] =>
  outputs.map((_, index) => hidden(`${side}_${index}`));

/** Two tables of judged rows that have the same key. */
export interface ComparedTables {
  readonly first: JudgedTable;
  readonly second: JudgedTable;
  readonly key: readonly string[];
  /** Group and weight, as the first has them. */
  readonly columns: ScoreColumns;
}

/** Names of the columns of numbers of {@link comparedRows}. */
export interface ComparedNames {
  readonly first: readonly string[];
  readonly second: readonly string[];
  readonly target: string;
  readonly group: string | undefined;
  readonly weight: string | undefined;
}

/** Names of the numbers that are compared. */
export const comparedNames = ({ first, second, columns }: ComparedTables): ComparedNames => ({
  first: numbered("first", first.outputs),
  second: numbered("second", second.outputs),
  target: TARGET_COLUMN,
  group: columns.group === undefined ? undefined : GROUP_COLUMN,
  weight: columns.weight === undefined ? undefined : WEIGHT_COLUMN,
});

/** Rows that both tables hold with the same target, and of which both have predictions. */
export function comparedRows(tables: ComparedTables): Relation {
  const { first, second, key, columns } = tables;
  const { group, weight } = columns;
  const names = comparedNames(tables);
  const further = [group, weight].filter((name) => name !== undefined);
  const joined: Relation = {
    kind: "join",
    how: "inner",
    left: table(first.place, [...new Set([...key, TARGET_COLUMN, ...first.outputs, ...further])]),
    right: table(second.place, [...new Set([...key, TARGET_COLUMN, ...second.outputs])]),
    on: [...key, TARGET_COLUMN].map((name) => ({ left: name, right: name })),
    take: second.outputs.map((output, index) => ({ from: output, name: names.second[index]! })),
  };
  const scored = filter(
    joined,
    allOf([isNotNull(column(first.outputs[0]!)), isNotNull(column(names.second[0]!))]),
  );
  const distances = first.outputs.map((output, index) =>
    call("abs", binary(column(output), "-", column(names.second[index]!))),
  );
  const asIs = (name: string): NamedExpression => ({ name, expression: column(name) });
  return project(scored, [
    ...key.map((name, place) => ({ name: keyName(place), expression: cast(column(name), "text") })),
    asIs(TARGET_COLUMN),
    ...(group === undefined ? [] : [{ name: GROUP_COLUMN, expression: distinctNumber(group) }]),
    ...(weight === undefined ? [] : [{ name: WEIGHT_COLUMN, expression: weightOrNone(weight) }]),
    { name: DISTANCE, expression: sumOf(distances) },
    ...first.outputs.map((output, index) => ({
      name: names.first[index]!,
      expression: orZero(column(output)),
    })),
    ...names.second.map((name) => ({ name, expression: orZero(column(name)) })),
  ]);
}

const orZero = (value: Expression): Expression => call("coalesce", asDouble(value), double(0));

/** A row that two versions predict differently. */
export interface Disagreement {
  readonly key: readonly string[];
  readonly answer: number;
  readonly first: readonly number[];
  readonly second: readonly number[];
}

/**
 * The rows whose two predictions differ most.
 * @param most how many at the most
 */
export function disagreementsQuestion(
  tables: ComparedTables,
  most: number,
): Question<readonly Disagreement[]> {
  const names = comparedNames(tables);
  const keys = tables.key.map((_, place) => keyName(place));
  const wanted = [...keys, TARGET_COLUMN, ...names.first, ...names.second];
  const row = z.looseObject({
    ...Object.fromEntries(keys.map((name) => [name, z.string()])),
    ...Object.fromEntries(
      [TARGET_COLUMN, ...names.first, ...names.second].map((name) => [name, doubleValue]),
    ),
  });
  return {
    relation: project(
      {
        kind: "limit",
        input: comparedRows(tables),
        order: [
          { expression: column(DISTANCE), descending: true },
          ...keys.map((name) => ({ expression: column(name) })),
        ],
        rows: most,
      },
      wanted.map((name) => ({ name, expression: column(name) })),
    ),
    purpose: "rows that two versions predict most differently",
    read: (rows) =>
      z
        .array(row)
        .parse(rows)
        .map((values) => ({
          key: keys.map((name) => values[name] as string),
          answer: values[TARGET_COLUMN] as number,
          first: names.first.map((name) => values[name] as number),
          second: names.second.map((name) => values[name] as number),
        })),
  };
}
