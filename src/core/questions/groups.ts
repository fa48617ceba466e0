import { z } from "zod";
import type { Expression } from "../expression/ast";
import { aggregateRows, type Relation } from "../relation/relation";
import { hidden } from "../names/hidden";
import { doubleValue } from "./question";

/**
 * One group of an answer: the values of its keys, and those of its aggregates in the order in which they were
 * asked.
 */
export interface Group {
  readonly keys: readonly (number | null)[];
  readonly values: readonly (number | null)[];
}

const nameOf = (place: number): string => hidden(`value_${place}`);

/**
 * Aggregates that are double precision, by columns that hold numbers.
 * @param by names of the columns; when empty, all rows are one group
 */
export function groupedNumbers(
  input: Relation,
  by: readonly string[],
  aggregates: readonly Expression[],
): { readonly relation: Relation; readonly read: (rows: readonly unknown[]) => readonly Group[] } {
  const names = aggregates.map((_, place) => nameOf(place));
  const row = z.looseObject(
    Object.fromEntries([...by, ...names].map((name) => [name, doubleValue.nullable()])),
  );
  return {
    relation: aggregateRows(
      input,
      by,
      aggregates.map((expression, place) => ({ name: nameOf(place), expression })),
    ),
    read: (rows) =>
      z
        .array(row)
        .parse(rows)
        .map((values) => ({
          keys: by.map((name) => values[name] as number | null),
          values: names.map((name) => values[name] as number | null),
        })),
  };
}

/** Aggregates over all rows that are double precision, in the order in which they were asked. */
export function numbersOf(
  input: Relation,
  aggregates: readonly Expression[],
): { readonly relation: Relation; readonly read: (rows: readonly unknown[]) => Group["values"] } {
  const { relation, read } = groupedNumbers(input, [], aggregates);
  return { relation, read: (rows) => read(rows)[0]?.values ?? [] };
}
