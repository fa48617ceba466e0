import { quoteDouble, quoteIdentifier } from "../sql/quote";
import { DRAW_COLUMN } from "../steps/step";
import { TARGET_COLUMN } from "../plan/frame-columns";
import type { Task } from "../learn/task";

/** Bins that a number is cut into when it is looked at alone. */
const BINS = 20;
/** Levels or values with fewer rows than this are taken together: alone they fit any answer. */
const LEAST_ROWS = 10;

/** Rows by group of one column: how many, the sum and the squares of the target, and, for several classes, the rows of each. */
export interface AloneGroup {
  readonly rows: number;
  readonly sum: number;
  readonly squares: number;
  readonly classes: readonly number[];
}

/** Groups of a feature among training rows, as SQL over a frame: quantile bins for numbers, codes for categories. */
export function aloneSql(
  frame: string,
  where: string,
  name: string,
  kind: "number" | "category",
  share: number,
  classes: number,
): string {
  const column = quoteIdentifier(name);
  const target = quoteIdentifier(TARGET_COLUMN);
  const group =
    kind === "category"
      ? `${column}::integer`
      : `CASE WHEN ${column} IS NULL THEN 0 ELSE ntile(${BINS}) OVER (PARTITION BY ${column} IS NULL ORDER BY ${column}) END`;
  const drawn = share < 1 ? ` AND ${quoteIdentifier(DRAW_COLUMN)} < ${quoteDouble(share)}` : "";
  const inner = `SELECT ${group} AS part, ${target} AS y, ${column} AS x FROM ${frame} WHERE ${where}${drawn}`;
  const byClass =
    classes > 2
      ? `, ${Array.from({ length: classes }, (_, code) => `count(*) FILTER (WHERE y = ${code})::double precision AS c${code}`).join(", ")}`
      : "";
  return `SELECT part, count(*)::double precision AS rows, sum(y) AS sum, sum(y * y) AS squares, count(DISTINCT x)::double precision AS values${byClass} FROM (${inner}) AS parts GROUP BY 1`;
}

/**
 * The correlation of many number columns with the target in one pass, as SQL: c0_0, c0_1 and so on by column and class (by column
 * alone where there are not several classes). Says cheaply which columns are worth a closer look.
 */
export function screenSql(frame: string, where: string, names: readonly string[], classes: number): string {
  const target = quoteIdentifier(TARGET_COLUMN);
  const answers =
    classes > 2 ? Array.from({ length: classes }, (_, code) => `(${target} = ${code})::integer`) : [target];
  const items = names.flatMap((name, index) =>
    answers.map((answer, code) => `corr(${quoteIdentifier(name)}, ${answer}) AS c${index}_${code}`),
  );
  return `SELECT ${items.join(", ")} FROM ${frame} WHERE ${where}`;
}

/** Reads the answer to {@link screenSql}: the strongest correlation of each column, 0 for a column that does not vary. */
export const readScreen = (
  row: Readonly<Record<string, unknown>>,
  columns: number,
  classes: number,
): readonly number[] =>
  Array.from({ length: columns }, (_, index) =>
    Math.max(
      ...Array.from(
        { length: classes > 2 ? classes : 1 },
        (_each, code) =>
          // Infinite values have no correlation.
          Math.abs(Number(row[`c${index}_${code}`] ?? 0)) || 0,
      ),
    ),
  );

/** Small groups put together. */
function pooled(groups: readonly AloneGroup[]): readonly AloneGroup[] {
  const add = (left: AloneGroup, right: AloneGroup): AloneGroup => ({
    rows: left.rows + right.rows,
    sum: left.sum + right.sum,
    squares: left.squares + right.squares,
    classes: right.classes.map((each, index) => each + (left.classes[index] ?? 0)),
  });
  const small = groups.filter((each) => each.rows < LEAST_ROWS);
  return [
    ...groups.filter((each) => each.rows >= LEAST_ROWS),
    ...(small.length > 0 ? [small.reduce(add)] : []),
  ];
}

/**
 * How much of the target one feature tells by itself, from 0 to 1: for yes and no the AUC of its groups' shares, doubled and less 1;
 * for numbers the share of the variance between groups; for classes Goodman and Kruskal's tau.
 */
export function aloneStrength(task: Task["kind"], all: readonly AloneGroup[]): number {
  const groups = pooled(all).filter((each) => each.rows > 0);
  const rows = groups.reduce((sum, each) => sum + each.rows, 0);
  const total = groups.reduce((sum, each) => sum + each.sum, 0);
  if (rows === 0) return 0;
  if (task === "binary") {
    const negatives = rows - total;
    if (total === 0 || negatives === 0) return 0;
    let above = 0;
    let pairs = 0;
    for (const each of [...groups].sort((left, right) => right.sum / right.rows - left.sum / left.rows)) {
      pairs += (each.rows - each.sum) * (above + each.sum / 2);
      above += each.sum;
    }
    return Math.max(0, 2 * (pairs / (total * negatives)) - 1);
  }
  if (task === "number") {
    const spread = groups.reduce((sum, each) => sum + each.squares, 0) - (total * total) / rows;
    const between =
      groups.reduce((sum, each) => sum + (each.sum * each.sum) / each.rows, 0) - (total * total) / rows;
    return spread > 0 ? Math.max(0, between / spread) : 0;
  }
  const classes = groups[0]!.classes.map(
    (_, code) => groups.reduce((sum, each) => sum + each.classes[code]!, 0) / rows,
  );
  const usual = classes.reduce((sum, share) => sum + share * share, 0);
  const within =
    groups.reduce(
      (sum, each) => sum + each.classes.reduce((part, count) => part + (count * count) / each.rows, 0),
      0,
    ) / rows;
  return usual < 1 ? Math.max(0, (within - usual) / (1 - usual)) : 0;
}
