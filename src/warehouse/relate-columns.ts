import { cast, column, isNotNull } from "@/core/expression/ast";
import { formatPart } from "@/core/format/numbers";
import type { CatalogColumn, CatalogTable } from "@/core/plan/catalog";
import {
  correlationQuestion,
  pairQuestion,
  targetValuesQuestion,
  type CutColumn,
  type TargetValues,
} from "@/core/questions/pairs/pair";
import { hasMean, isNumeric, partsQuestion, type Parts } from "@/core/questions/pairs/parts";
import {
  MISSING,
  partClassesQuestion,
  partMomentsQuestion,
  type PartClass,
  type PartMoments,
} from "@/core/questions/pairs/target";
import { filter, project, table as tableRows, type Relation } from "@/core/relation/relation";
import { isNumber } from "@/core/value-type";
import type { Warehouse } from "./port/warehouse";

/** Values of a target whose rows are listed, the most frequent of all. */
const MOST_VALUES = 200;
const OPTIONS = { milliseconds: 60_000 };

/** Two columns against each other: how many rows fall into each pair of bins or categories. */
export interface PairView {
  readonly x: readonly string[];
  readonly y: readonly string[];
  /** By row of y, then x. */
  readonly counts: readonly (readonly number[])[];
  /** Pearson's correlation, for two numbers. */
  readonly correlation: number | null;
  readonly rows: number;
}

const rowsOf = (table: CatalogTable): Relation =>
  tableRows(
    table,
    table.columns.map(({ name }) => name),
  );

/** A column with the parts that it is cut into. */
async function cutColumn(warehouse: Warehouse, rows: Relation, column: CatalogColumn): Promise<CutColumn> {
  return { column, parts: await warehouse.ask(partsQuestion(rows, column), OPTIONS) };
}

/** Two columns of a table against each other. */
export async function pairOf(
  warehouse: Warehouse,
  table: CatalogTable,
  x: CatalogColumn,
  y: CatalogColumn,
): Promise<PairView> {
  const source = rowsOf(table);
  const [cutX, cutY] = await Promise.all([cutColumn(warehouse, source, x), cutColumn(warehouse, source, y)]);
  const rows = await warehouse.ask(pairQuestion(source, cutX, cutY), OPTIONS);
  const correlation =
    isNumeric(x) && isNumeric(y) ? await warehouse.ask(correlationQuestion(source, x, y), OPTIONS) : null;
  const [xs, ys] = [cutX.parts, cutY.parts];
  const counts = ys.keys.map(() => xs.keys.map(() => 0));
  for (const row of rows) {
    const [at, up] = [xs.keys.indexOf(String(row.x)), ys.keys.indexOf(String(row.y))];
    if (counts[up]?.[at] !== undefined) counts[up]![at] = row.rows;
  }
  return {
    x: xs.words,
    y: ys.words,
    counts,
    correlation,
    rows: rows.reduce((sum, row) => sum + row.rows, 0),
  };
}

/** How much a column says about a target, alone. */
export interface AgainstTarget {
  readonly column: string;
  /** From 0 (nothing) to 1 (everything): see {@link againstTarget}. */
  readonly strength: number;
  /** Parts of the column with their rows, and the mean of the target (numbers, yes/no) or its most frequent class. */
  readonly parts: readonly {
    readonly part: string;
    readonly rows: number;
    readonly mean: number | null;
    readonly mode: string | null;
  }[];
}

export interface TargetView {
  /** The most frequent classes and their rows; empty for a number. */
  readonly balance: readonly { readonly value: string; readonly rows: number }[];
  /** How many values the target has, and how many rows have one. */
  readonly values: number;
  readonly rows: number;
  readonly columns: readonly AgainstTarget[];
}

/**
 * Every column against a target. For numbers and yes/no the strength is the correlation ratio (Pearson 1911): the share
 * of the target's variance between the parts of the column. For classes it is Goodman and Kruskal's tau (1954):
 * the share of wrong guesses that knowing the part spares. Missing values are a part of their own.
 */
export async function againstTarget(
  warehouse: Warehouse,
  table: CatalogTable,
  target: CatalogColumn,
): Promise<TargetView> {
  const rows = rowsOf(table);
  const texts = filter(
    project(rows, [{ name: "value", expression: cast(column(target.name), "text") }]),
    isNotNull(column("value")),
  );
  const values = isNumber(target.type)
    ? NO_VALUES
    : await warehouse.ask(targetValuesQuestion(texts, "value", MOST_VALUES), OPTIONS);
  const columns: AgainstTarget[] = [];
  for (const tableColumn of table.columns) {
    if (tableColumn.name === target.name || UNRELATED.includes(tableColumn.type)) continue;
    const cut = await cutColumn(warehouse, rows, tableColumn);
    columns.push(
      hasMean(target)
        ? numberAgainst(cut, await warehouse.ask(partMomentsQuestion(rows, cut, target), OPTIONS))
        : classesAgainst(cut, await warehouse.ask(partClassesQuestion(rows, cut, target), OPTIONS)),
    );
  }
  return {
    ...values,
    columns: columns.sort((left, right) => right.strength - left.strength),
  };
}

const UNRELATED: readonly CatalogColumn["type"][] = ["json", "other", "sparse", "interval"];
const NO_VALUES: TargetValues = { balance: [], values: 0, rows: 0 };

function numberAgainst({ column, parts }: CutColumn, groups: readonly PartMoments[]): AgainstTarget {
  const n = groups.reduce((sum, group) => sum + group.rows, 0);
  const mean = groups.reduce((sum, group) => sum + (group.rows / n) * group.mean, 0);
  const between = groups.reduce((sum, group) => sum + group.rows * (group.mean - mean) ** 2, 0);
  const whole = between + groups.reduce((sum, group) => sum + group.rows * group.variance, 0);
  return {
    column: column.name,
    strength: whole > 0 ? Math.min(1, between / whole) : 0,
    parts: inOrder(groups).map(({ part, rows, mean }) => ({
      part: wordOf(part, parts),
      rows,
      mean,
      mode: null,
    })),
  };
}

function classesAgainst({ column, parts }: CutColumn, rows: readonly PartClass[]): AgainstTarget {
  const total = rows.reduce((sum, row) => sum + row.rows, 0);
  const byClass = new Map<string, number>();
  const byPart = new Map<string, { rows: number; squares: number; mode: string; most: number }>();
  for (const { part, value, rows: count } of rows) {
    byClass.set(value, (byClass.get(value) ?? 0) + count);
    const known = byPart.get(part) ?? { rows: 0, squares: 0, mode: value, most: 0 };
    byPart.set(part, {
      rows: known.rows + count,
      squares: known.squares + count ** 2,
      ...(count > known.most ? { mode: value, most: count } : { mode: known.mode, most: known.most }),
    });
  }
  const alone = [...byClass.values()].reduce((sum, count) => sum + (count / total) ** 2, 0);
  const knowing = [...byPart.values()].reduce((sum, part) => sum + part.squares / part.rows / total, 0);
  return {
    column: column.name,
    strength: alone < 1 && total > 0 ? (knowing - alone) / (1 - alone) : 0,
    parts: inOrder([...byPart].map(([part, found]) => ({ part, ...found }))).map((found) => ({
      part: wordOf(found.part, parts),
      rows: found.rows,
      mean: null,
      mode: `${found.mode}, ${formatPart(found.most, found.rows)}`,
    })),
  };
}

const wordOf = (part: string, { keys, words }: Parts): string => words[keys.indexOf(part)] ?? part;
const inOrder = <T extends { readonly part: string }>(rows: readonly T[]): readonly T[] =>
  [...rows].sort(
    (left, right) =>
      Number(left.part === MISSING) - Number(right.part === MISSING) ||
      Number(left.part) - Number(right.part) ||
      (left.part < right.part ? -1 : 1),
  );
