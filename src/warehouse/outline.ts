import type { CatalogTable } from "@/core/plan/catalog";
import { keyCandidates } from "@/core/pipeline/proposal/propose-key";
import type { TableOutline } from "@/core/pipeline/proposal/outline";
import { call } from "@/core/expression/ast";
import {
  keyQuestion,
  outlineQuestion,
  pairsQuestion,
  type KeyState,
  type NumberedRows,
} from "@/core/questions/outline/outline";
import { pruneUnread } from "@/core/relation/prune";
import { table as rowsOf, withColumns, type Relation } from "@/core/relation/relation";
import { freeName, hidden } from "@/core/names/hidden";
import type { ValueType } from "@/core/value-type";
import type { Warehouse } from "./port/warehouse";

/** Tables of up to so many rows are looked at whole, of larger ones a random part of about that size. */
const MOST_ROWS = 200_000;
/** Different values are counted in so many of them. */
const CLOSE_ROWS = 10_000;
/** Columns of one statement; each takes two places of a row of aggregates. */
const COLUMNS_AT_ONCE = 200;
/** Columns among which pairs are tried as keys. */
const PAIRED = 8;
const OPTIONS = { milliseconds: 20_000 };
/** Types whose values can be a part of a key. */
const PAIRABLE: ReadonlySet<ValueType> = new Set<ValueType>([
  "smallint",
  "integer",
  "bigint",
  "text",
  "uuid",
  "date",
  "timestamp",
  "timestamptz",
]);

/**
 * Looks at a table quickly, whatever its size: gaps and different values of every column, and what could be its
 * key.
 */
export async function outlineTable(warehouse: Warehouse, table: CatalogTable): Promise<TableOutline> {
  const estimate = (await warehouse.estimate(rowsOf(table, []))) ?? 0;
  const sampled = estimate > MOST_ROWS && (await warehouse.catalog.isStored(table));
  const names = table.columns.map(({ name }) => name);
  const number = freeName(hidden("number"), names);
  const stored = rowsOf(table, names);
  const some: Relation = sampled ? { kind: "sample", input: stored, share: MOST_ROWS / estimate } : stored;
  const first: Relation = { kind: "limit", input: some, order: [], rows: 2 * MOST_ROWS };
  const rowNumber = { kind: "window", call: call("row_number"), by: [], order: [] } as const;
  const looked: NumberedRows = {
    number,
    close: CLOSE_ROWS,
    rows: withColumns(first, [{ name: number, expression: rowNumber }]),
  };
  const blocks = [];
  for (let start = 0; start < Math.max(1, table.columns.length); start += COLUMNS_AT_ONCE) {
    const question = outlineQuestion(looked, table.columns.slice(start, start + COLUMNS_AT_ONCE));
    blocks.push(await warehouse.ask({ ...question, relation: pruneUnread(question.relation) }, OPTIONS));
  }
  const { rows, close } = blocks[0]!;
  const columns = blocks.flatMap((block) => block.columns);
  const present = new Set(columns.filter(({ missing }) => missing === 0).map(({ name }) => name));
  const keys = (await warehouse.catalog.keys(table))
    .filter(({ kind }) => kind !== "foreign key")
    .map((key) => key.columns)
    .filter((names) => names.every((name) => present.has(name)));
  const outline = { rows, whole: !sampled && rows < 2 * MOST_ROWS, close, columns, keys };
  if (keys.length > 0 || close < 2 || keyCandidates(outline).length > 0) return outline;
  const pair = await namingPair(warehouse, looked, outline);
  return pair ? { ...outline, pair } : outline;
}

/** Two columns whose values name one row together, among those with the most different values. */
async function namingPair(
  warehouse: Warehouse,
  looked: NumberedRows,
  { columns, close }: TableOutline,
): Promise<readonly [string, string] | undefined> {
  const able = columns
    .filter(({ type, missing }) => PAIRABLE.has(type) && missing === 0)
    .toSorted((left, right) => right.distinct - left.distinct)
    .slice(0, PAIRED);
  const pairs = able.flatMap((left, index) =>
    able
      .slice(index + 1)
      // Fewer combinations than rows cannot name each of them.
      .filter((right) => left.distinct * right.distinct >= close)
      .map((right): readonly [string, string] => [left.name, right.name]),
  );
  if (pairs.length === 0) return undefined;
  const question = pairsQuestion(looked, pairs);
  const counts = await warehouse.ask({ ...question, relation: pruneUnread(question.relation) }, OPTIONS);
  return pairs.find((_, index) => counts[index] === close);
}

/** Whether columns name every row of a table once. */
export const stateOfKey = (
  warehouse: Warehouse,
  table: CatalogTable,
  columns: readonly string[],
): Promise<KeyState> => warehouse.ask(keyQuestion(rowsOf(table, columns), columns), OPTIONS);
