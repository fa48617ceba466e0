import { areComparable, isInteger, isNumber, type ValueType } from "../../value-type";
import type { ColumnOutline, TableOutline } from "./outline";

/** A column of the rows that a table is joined to. */
export interface ColumnHere {
  readonly name: string;
  readonly type: ValueType;
}

/** Two columns that must agree: of the rows here, and of the table. */
export interface JoinedColumns {
  readonly here: string;
  readonly there: string;
}

/**
 * What comes of a table's rows for one row here: its one row, a column for each value of a column, or
 * figures over its rows.
 */
export const JOIN_SHAPES = ["row", "spread", "summary"] as const;
export type JoinShape = (typeof JOIN_SHAPES)[number];

/** A column with more values than this is not spread into columns unasked. */
const MOST_SPREAD = 40;

/**
 * Columns that name the same thing on both sides: those of the key here first, else all of equal names
 * whose values repeat on neither side.
 */
export function proposeJoinedColumns(
  here: readonly ColumnHere[],
  key: readonly string[],
  { columns, close }: TableOutline,
): readonly JoinedColumns[] {
  const shared = here.flatMap(({ name, type }) => {
    const same = columns.find((column) => column.name === name && areComparable(column.type, type));
    return same ? [{ name, same }] : [];
  });
  const pair = (name: string): JoinedColumns => ({ here: name, there: name });
  const ofKey = shared.filter(({ name }) => key.includes(name));
  if (ofKey.length > 0) return ofKey.map(({ name }) => pair(name));
  const naming = shared.find(({ same }) => same.distinct === close && same.missing === 0);
  const likely = naming ?? shared.find(({ same }) => !isNumber(same.type)) ?? shared[0];
  return likely ? [pair(likely.name)] : [];
}

/** Whether the table has one row at most for values of some of its columns, as far as that is known. */
function nameOneRow({ keys, columns, close, whole, rows }: TableOutline, names: readonly string[]): boolean {
  if (keys.some((key) => key.every((name) => names.includes(name)))) return true;
  const known = whole && close === rows;
  return known && columns.some(({ name, distinct }) => names.includes(name) && distinct === close);
}

/** Columns whose values could become columns: few different ones. The likeliest first. */
export function spreadColumns(
  { columns, close }: TableOutline,
  matched: readonly string[],
): readonly ColumnOutline[] {
  const few = columns.filter(
    ({ name, distinct }) =>
      !matched.includes(name) && distinct > 1 && distinct <= MOST_SPREAD && distinct < close,
  );
  return [
    ...few.filter(({ type }) => type === "text"),
    ...few.filter(({ type }) => type !== "text" && !isNumber(type)),
    ...few.filter(({ type }) => isNumber(type)),
  ];
}

/** Columns that figures can be made of: numbers, but not those that only number the rows. */
export const measuredColumns = (
  { columns, close, keys }: TableOutline,
  matched: readonly string[],
): readonly ColumnOutline[] =>
  columns.filter(
    ({ name, type, distinct }) =>
      isNumber(type) &&
      !matched.includes(name) &&
      !(isInteger(type) && distinct === close && close > 1) &&
      !keys.some((key) => key.length === 1 && key[0] === name),
  );

/**
 * What a table suggests to make of its rows: one row each where the joined columns name one, else columns
 * by the values of a text, else figures.
 */
export function proposeJoinShape(outline: TableOutline, matched: readonly string[]): JoinShape {
  if (matched.length === 0 || nameOneRow(outline, matched)) return "row";
  const [spread] = spreadColumns(outline, matched);
  return spread?.type === "text" && measuredColumns(outline, matched).length > 0 ? "spread" : "summary";
}
