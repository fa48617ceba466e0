import { quoteDouble, quoteIdentifier, quoteText } from "../sql/quote";
import type { ColumnSpread } from "./drift";

/** Tenths. */
const SHARES = [0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9];
/** Most frequent levels of a category that are told apart. */
const MOST_LEVELS = 12;

const number = (name: string): string => `${quoteIdentifier(name)}::double precision`;

/** The tenths of number columns, as arrays e0, e1 and so on. @param rows a SELECT */
export const edgesSql = (rows: string, numbers: readonly string[]): string =>
  `SELECT ${numbers.map((name, index) => `percentile_disc(ARRAY[${SHARES.join(",")}]) WITHIN GROUP (ORDER BY ${number(name)}) AS e${index}`).join(", ")} FROM (${rows}) AS rows_at`;

/** The most frequent levels of a category. */
export const frequentLevelsSql = (rows: string, name: string): string =>
  `SELECT ${quoteIdentifier(name)}::text AS level FROM (${rows}) AS rows_at WHERE ${quoteIdentifier(name)} IS NOT NULL GROUP BY 1 ORDER BY count(*) DESC, 1 LIMIT ${MOST_LEVELS}`;

/** Rows in each part of each column: c0_0, c0_1 ... and missing ones m0, m1 ... as one row. */
export function spreadSql(
  rows: string,
  columns: readonly Pick<ColumnSpread, "column" | "kind" | "edges" | "levels">[],
): string {
  const measures = columns.flatMap(({ column, kind, edges, levels }, index) => {
    const name = quoteIdentifier(column);
    const count = (condition: string, as: string): string =>
      `count(*) FILTER (WHERE ${condition})::double precision AS ${as}`;
    const parts =
      kind === "number"
        ? Array.from({ length: edges.length + 1 }, (_, part) => {
            const bounds = [
              ...(part === 0 ? [] : [`${number(column)} >= ${quoteDouble(edges[part - 1]!)}`]),
              ...(part === edges.length ? [] : [`${number(column)} < ${quoteDouble(edges[part]!)}`]),
            ];
            return count(
              bounds.length === 0 ? `${name} IS NOT NULL` : bounds.join(" AND "),
              `c${index}_${part}`,
            );
          })
        : [
            ...levels.map((level, part) => count(`${name}::text = ${quoteText(level)}`, `c${index}_${part}`)),
            count(
              levels.length === 0
                ? `${name} IS NOT NULL`
                : `${name}::text NOT IN (${levels.map(quoteText).join(", ")})`,
              `c${index}_${levels.length}`,
            ),
          ];
    return [...parts, count(`${name} IS NULL`, `m${index}`)];
  });
  return `SELECT ${measures.join(", ")} FROM (${rows}) AS rows_at`;
}

/** Reads the answer to {@link spreadSql}. */
export function readSpread(
  row: Readonly<Record<string, unknown>>,
  columns: readonly Pick<ColumnSpread, "column" | "kind" | "edges" | "levels">[],
): ColumnSpread[] {
  return columns.map(({ column, kind, edges, levels }, index) => ({
    column,
    kind,
    edges: [...edges],
    levels: [...levels],
    missing: Number(row[`m${index}`] ?? 0),
    counts: Array.from({ length: kind === "number" ? edges.length + 1 : levels.length + 1 }, (_, part) =>
      Number(row[`c${index}_${part}`] ?? 0),
    ),
  }));
}
