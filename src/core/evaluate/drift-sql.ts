import { quoteDouble, quoteIdentifier, quoteText } from "../sql/quote";
import {
  GRID_SHARES,
  numberParts,
  partCount,
  type ColumnSpread,
  type NumberPart,
  type SpreadShape,
} from "./spread";

/** Most frequent levels of a category that are told apart. */
export const MOST_LEVELS = 12;
/** Further levels that are listed, so that what training never saw can be told from them. */
export const MOST_OTHER_LEVELS = 400;

const number = (name: string): string => `${quoteIdentifier(name)}::double precision`;

/** For number columns, values at {@link GRID_SHARES} as arrays e0, e1 and so on, and the numbers of different values d0, d1 ... @param rows a SELECT */
export const gridSql = (rows: string, numbers: readonly string[]): string =>
  `SELECT ${numbers
    .flatMap((name, index) => [
      `percentile_disc(ARRAY[${GRID_SHARES.join(",")}]) WITHIN GROUP (ORDER BY ${number(name)}) AS e${index}`,
      `count(DISTINCT ${number(name)})::integer AS d${index}`,
    ])
    .join(", ")} FROM (${rows}) AS rows_at`;

/** All different values of number columns that have few, as arrays v0, v1 and so on. */
export const distinctSql = (rows: string, numbers: readonly string[]): string =>
  `SELECT ${numbers.map((name, index) => `array_agg(DISTINCT ${number(name)}) AS v${index}`).join(", ")} FROM (${rows}) AS rows_at`;

/** The levels of a category, the most frequent first; one more than can be listed where they are too many. */
export const frequentLevelsSql = (rows: string, name: string): string =>
  `SELECT ${quoteIdentifier(name)}::text AS level FROM (${rows}) AS rows_at WHERE ${quoteIdentifier(name)} IS NOT NULL GROUP BY 1 ORDER BY count(*) DESC, 1 LIMIT ${MOST_LEVELS + MOST_OTHER_LEVELS + 1}`;

function within(column: string, { from, to }: NumberPart): string {
  const bounds = [
    ...(from ? [`${number(column)} ${from.above ? ">" : ">="} ${quoteDouble(from.at)}`] : []),
    ...(to ? [`${number(column)} ${to.above ? "<=" : "<"} ${quoteDouble(to.at)}`] : []),
  ];
  return bounds.length === 0 ? `${quoteIdentifier(column)} IS NOT NULL` : bounds.join(" AND ");
}

function categoryParts({ column, levels, others }: SpreadShape): readonly string[] {
  const name = `${quoteIdentifier(column)}::text`;
  const not = (among: readonly string[]): string =>
    among.length === 0
      ? `${quoteIdentifier(column)} IS NOT NULL`
      : `${name} NOT IN (${among.map(quoteText).join(", ")})`;
  return [
    ...levels.map((level) => `${name} = ${quoteText(level)}`),
    ...(others === undefined
      ? []
      : [others.length === 0 ? "false" : `${name} IN (${others.map(quoteText).join(", ")})`]),
    not([...levels, ...(others ?? [])]),
  ];
}

/** Rows in each part of each column: c0_0, c0_1 ... and missing ones m0, m1 ... as one row. */
export function spreadSql(rows: string, shapes: readonly SpreadShape[]): string {
  const measures = shapes.flatMap((shape, index) => {
    const count = (condition: string, as: string): string =>
      `count(*) FILTER (WHERE ${condition})::double precision AS ${as}`;
    const parts =
      shape.kind === "number"
        ? numberParts(shape).map((part) => within(shape.column, part))
        : categoryParts(shape);
    return [
      ...parts.map((condition, part) => count(condition, `c${index}_${part}`)),
      count(`${quoteIdentifier(shape.column)} IS NULL`, `m${index}`),
    ];
  });
  return `SELECT ${measures.join(", ")} FROM (${rows}) AS rows_at`;
}

/** Reads the answer to {@link spreadSql}. */
export const readSpread = (
  row: Readonly<Record<string, unknown>>,
  shapes: readonly SpreadShape[],
): ColumnSpread[] =>
  shapes.map((shape, index) => ({
    ...shape,
    missing: Number(row[`m${index}`] ?? 0),
    counts: Array.from({ length: partCount(shape) }, (_, part) => Number(row[`c${index}_${part}`] ?? 0)),
  }));

/** Expressions that one SELECT may have, with room to spare (PostgreSQL stops at 1,664). */
const MOST_MEASURES = 1200;

/** Shapes in groups that one statement can count. */
export function inStatements(shapes: readonly SpreadShape[]): readonly (readonly SpreadShape[])[] {
  const groups: SpreadShape[][] = [];
  let room = 0;
  for (const shape of shapes) {
    const needed = partCount(shape) + 1;
    if (needed > room) {
      groups.push([]);
      room = MOST_MEASURES;
    }
    groups.at(-1)!.push(shape);
    room -= needed;
  }
  return groups;
}
