import { formatNumber, formatPart } from "@/core/format/numbers";
import type { CatalogColumn, CatalogTable } from "@/core/plan/catalog";
import { quoteDouble, quoteIdentifier, quoteTable, quoteText } from "@/core/sql/quote";
import { isMoment, isNumber } from "@/core/value-type";
import type { Warehouse } from "./warehouse";

const BINS = 12;
const MOST_CATEGORIES = 12;
/** Values of a target whose rows are told, the most frequent of all. */
const MOST_VALUES = 200;
const MILLISECONDS = 60_000;

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

const measured = (column: CatalogColumn): boolean => isNumber(column.type) || isMoment(column.type);

/** A column as a number, for bins and correlations: moments in seconds, yes/no as 1 and 0. */
function numeric(column: CatalogColumn): string {
  const name = quoteIdentifier(column.name);
  if (isMoment(column.type)) return `extract(epoch FROM ${name})::double precision`;
  return column.type === "boolean" ? `${name}::integer::double precision` : `${name}::double precision`;
}

/** Squares of larger numbers are beyond what a double can hold. */
const LARGEST = "1e150";

/** Rows in which a column has a value that can be placed. */
const usable = (column: CatalogColumn): string => {
  const name = quoteIdentifier(column.name);
  if (isMoment(column.type)) return `isfinite(${name})`;
  return column.type === "real" || column.type === "double precision" || column.type === "numeric"
    ? `${name} BETWEEN -${LARGEST} AND ${LARGEST}`
    : `${name} IS NOT NULL`;
};

/** A column cut into a few parts: an expression for the part of a row, and the parts in order with their words. */
interface Parts {
  readonly label: string;
  readonly keys: readonly string[];
  readonly words: readonly string[];
}

const OTHERS = "(others)";

/** Numbers and moments are cut at quantiles; everything else by its most frequent values and the rest. */
async function partsOf(warehouse: Warehouse, table: CatalogTable, column: CatalogColumn): Promise<Parts> {
  const from = quoteTable(table);
  const name = quoteIdentifier(column.name);
  if (measured(column)) {
    const shares = Array.from({ length: BINS + 1 }, (_, index) => index / BINS).join(", ");
    const [row] = await warehouse.read(
      `SELECT percentile_cont(ARRAY[${shares}]::double precision[]) WITHIN GROUP (ORDER BY ${numeric(column)}) AS edges FROM ${from} WHERE ${usable(column)}`,
      [],
      MILLISECONDS,
    );
    const edges = [...new Set((row?.["edges"] as number[] | null) ?? [])];
    const inner = edges.slice(1, -1);
    const word = (value: number): string =>
      isMoment(column.type) ? new Date(value * 1000).toISOString().slice(0, 10) : formatNumber(value);
    const words =
      edges.length < 2
        ? edges.map(word)
        : edges.slice(0, -1).map((value, index) => `${word(value)} … ${word(edges[index + 1] ?? value)}`);
    return {
      label:
        inner.length === 0
          ? "'0'"
          : `width_bucket(${numeric(column)}, ARRAY[${inner.map(quoteDouble).join(", ")}])::text`,
      keys: words.map((_, index) => String(index)),
      words,
    };
  }
  const top = (
    await warehouse.read(
      `SELECT left(${name}::text, 60) AS value FROM ${from} WHERE ${name} IS NOT NULL GROUP BY 1 ORDER BY count(*) DESC, 1 LIMIT ${MOST_CATEGORIES + 1}`,
      [],
      MILLISECONDS,
    )
  ).map((row) => String(row["value"]));
  const shown = top.slice(0, MOST_CATEGORIES);
  const keys = [...[...shown].sort(), ...(top.length > shown.length ? [OTHERS] : [])];
  return {
    label:
      shown.length === 0
        ? "NULL::text"
        : `CASE WHEN left(${name}::text, 60) IN (${shown.map(quoteText).join(", ")}) THEN left(${name}::text, 60) WHEN ${name} IS NOT NULL THEN '${OTHERS}' END`,
    keys,
    words: keys,
  };
}

/** Two columns of a table against each other. */
export async function pairOf(
  warehouse: Warehouse,
  table: CatalogTable,
  x: CatalogColumn,
  y: CatalogColumn,
): Promise<PairView> {
  const from = quoteTable(table);
  const [xs, ys] = await Promise.all([partsOf(warehouse, table, x), partsOf(warehouse, table, y)]);
  const rows = await warehouse.read(
    `SELECT ${xs.label} AS x, ${ys.label} AS y, count(*) AS rows FROM ${from} WHERE ${usable(x)} AND ${usable(y)} GROUP BY 1, 2`,
    [],
    MILLISECONDS,
  );
  const both = (measured(x) || x.type === "boolean") && (measured(y) || y.type === "boolean");
  const [pearson] = both
    ? await warehouse.read(
        `SELECT corr(${numeric(x)}, ${numeric(y)}) AS r FROM ${from} WHERE ${usable(x)} AND ${usable(y)}`,
        [],
        MILLISECONDS,
      )
    : [];
  const counts = ys.keys.map(() => xs.keys.map(() => 0));
  for (const row of rows) {
    const [at, up] = [xs.keys.indexOf(String(row["x"])), ys.keys.indexOf(String(row["y"]))];
    if (counts[up]?.[at] !== undefined) counts[up]![at] = Number(row["rows"]);
  }
  return {
    x: xs.words,
    y: ys.words,
    counts,
    correlation: pearson?.["r"] === null || pearson?.["r"] === undefined ? null : Number(pearson["r"]),
    rows: rows.reduce((sum, row) => sum + Number(row["rows"]), 0),
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
 * of the target's variance between the parts of the column. For classes it is Goodman and Kruskal's tau (1954): the share
 * of wrong guesses that knowing the part spares. Missing values are a part of their own.
 */
export async function againstTarget(
  warehouse: Warehouse,
  table: CatalogTable,
  target: CatalogColumn,
): Promise<TargetView> {
  const from = quoteTable(table);
  const number = isNumber(target.type) || target.type === "boolean";
  const counted = isNumber(target.type)
    ? []
    : await warehouse.read(
        `SELECT ${quoteIdentifier(target.name)}::text AS value, count(*) AS rows, count(*) OVER () AS values, sum(count(*)) OVER () AS total FROM ${from} WHERE ${quoteIdentifier(target.name)} IS NOT NULL GROUP BY 1 ORDER BY 2 DESC, 1 LIMIT ${MOST_VALUES}`,
        [],
        MILLISECONDS,
      );
  const balance = counted.map((row) => ({ value: String(row["value"]), rows: Number(row["rows"]) }));
  const columns: AgainstTarget[] = [];
  for (const column of table.columns) {
    if (column.name === target.name || ["json", "other", "sparse", "interval"].includes(column.type))
      continue;
    columns.push(
      number
        ? await numberAgainst(warehouse, table, column, target)
        : await classesAgainst(warehouse, table, column, target),
    );
  }
  return {
    balance,
    values: Number(counted[0]?.["values"] ?? 0),
    rows: Number(counted[0]?.["total"] ?? 0),
    columns: columns.sort((left, right) => right.strength - left.strength),
  };
}

const MISSING = "(missing)";

async function numberAgainst(
  warehouse: Warehouse,
  table: CatalogTable,
  column: CatalogColumn,
  target: CatalogColumn,
): Promise<AgainstTarget> {
  const from = quoteTable(table);
  const cut = await partsOf(warehouse, table, column);
  const rows = await warehouse.read(
    `WITH placed AS (SELECT coalesce(CASE WHEN ${usable(column)} THEN ${cut.label} END, '${MISSING}') AS part, ${numeric(target)} AS y FROM ${from} WHERE ${usable(target)})
     SELECT part, count(*) AS rows, avg(y) AS mean, var_pop(y) AS spread FROM placed GROUP BY 1`,
    [],
    MILLISECONDS,
  );
  const groups = rows.map((row) => ({
    n: Number(row["rows"]),
    mean: Number(row["mean"]),
    spread: Number(row["spread"]),
  }));
  const n = groups.reduce((sum, group) => sum + group.n, 0);
  const mean = groups.reduce((sum, group) => sum + (group.n / n) * group.mean, 0);
  const between = groups.reduce((sum, group) => sum + group.n * (group.mean - mean) ** 2, 0);
  const whole = between + groups.reduce((sum, group) => sum + group.n * group.spread, 0);
  return {
    column: column.name,
    strength: whole > 0 ? Math.min(1, between / whole) : 0,
    parts: inOrder(rows).map((row) => ({
      part: wordOf(String(row["part"]), cut),
      rows: Number(row["rows"]),
      mean: Number(row["mean"]),
      mode: null,
    })),
  };
}

async function classesAgainst(
  warehouse: Warehouse,
  table: CatalogTable,
  column: CatalogColumn,
  target: CatalogColumn,
): Promise<AgainstTarget> {
  const from = quoteTable(table);
  const cut = await partsOf(warehouse, table, column);
  const rows = await warehouse.read(
    `WITH placed AS (SELECT coalesce(CASE WHEN ${usable(column)} THEN ${cut.label} END, '${MISSING}') AS part, ${quoteIdentifier(target.name)}::text AS y FROM ${from} WHERE ${quoteIdentifier(target.name)} IS NOT NULL)
     SELECT part, y, count(*) AS rows FROM placed GROUP BY 1, 2 ORDER BY 1, 2`,
    [],
    MILLISECONDS,
  );
  const total = rows.reduce((sum, row) => sum + Number(row["rows"]), 0);
  const byClass = new Map<string, number>();
  const byPart = new Map<string, { rows: number; squares: number; mode: string; most: number }>();
  for (const row of rows) {
    const [part, value, count] = [String(row["part"]), String(row["y"]), Number(row["rows"])];
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
    parts: inOrder([...byPart].map(([part, value]) => ({ part, ...value }))).map((item) => ({
      part: wordOf(String(item["part"]), cut),
      rows: Number(item["rows"]),
      mean: null,
      mode: `${String(item["mode"])}, ${formatPart(Number(item["most"]), Number(item["rows"]))}`,
    })),
  };
}

const wordOf = (part: string, { keys, words }: Parts): string => words[keys.indexOf(part)] ?? part;
const inOrder = <T extends Readonly<Record<string, unknown>>>(rows: readonly T[]): readonly T[] =>
  [...rows].sort(
    (left, right) =>
      Number(left["part"] === MISSING) - Number(right["part"] === MISSING) ||
      Number(left["part"]) - Number(right["part"]) ||
      (String(left["part"]) < String(right["part"]) ? -1 : 1),
  );
