import { hidden } from "../sql/hidden";
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

/** A feature as the guard looks at it: a number is cut into bins, a category has its levels. */
export interface AloneFeature {
  readonly name: string;
  readonly kind: "number" | "category";
}

/** Values that one statement sorts: enough for many features in one pass, few enough to sort mostly in memory. */
const MOST_VALUES = 2_000_000;

/** How many features are looked at in one pass over so many rows. */
export const featuresInOnePass = (rows: number): number =>
  Math.min(200, Math.max(1, Math.floor(MOST_VALUES / Math.max(1, rows))));

/** What a row has beside the user's columns while it is taken apart: a feature's place and value. */
const [PLACE, VALUE, LOOKED] = ["place", "value", "looked"].map(hidden) as [string, string, string];

/**
 * Groups of several features in one pass over the rows, as SQL: quantile bins of numbers, codes of categories. Each row of the
 * answer is one group: the place of its feature, rows, sum and squares of the target, how many different values, and c0, c1 and so
 * on with the rows of each class where there are several.
 */
export function aloneSql(
  table: string,
  where: string,
  features: readonly AloneFeature[],
  classes: number,
): string {
  const values = features.map(({ name }, place) => `(${place}, ${quoteIdentifier(name)}::double precision)`);
  const longRows = `SELECT ${PLACE}, ${VALUE}, ${quoteIdentifier(TARGET_COLUMN)} AS y FROM ${table} CROSS JOIN LATERAL (VALUES ${values.join(", ")}) AS ${LOOKED}(${PLACE}, ${VALUE})${where === "" ? "" : ` WHERE ${where}`}`;
  const categories = features.flatMap(({ kind }, place) => (kind === "category" ? [place] : []));
  const code =
    categories.length > 0 ? `WHEN ${PLACE} IN (${categories.join(", ")}) THEN ${VALUE}::integer ` : "";
  const part = `CASE ${code}WHEN ${VALUE} IS NULL THEN 0 ELSE ntile(${BINS}) OVER (PARTITION BY ${PLACE}, ${VALUE} IS NULL ORDER BY ${VALUE}) END`;
  const byClass =
    classes > 2
      ? Array.from(
          { length: classes },
          (_, index) => `, count(*) FILTER (WHERE y = ${index})::double precision AS c${index}`,
        ).join("")
      : "";
  return `SELECT place, part, count(*)::double precision AS rows, sum(y) AS sum, sum(y * y) AS squares, count(DISTINCT x)::double precision AS values${byClass} FROM (SELECT ${PLACE} AS place, ${VALUE} AS x, y, ${part} AS part FROM (${longRows}) AS long) AS parts GROUP BY 1, 2`;
}

/** Training rows drawn at random, with the target and the named features, as SQL. */
export function drawnRowsSql(
  frame: string,
  where: string,
  features: readonly AloneFeature[],
  share: number,
): string {
  const columns = [TARGET_COLUMN, ...features.map(({ name }) => name)].map(quoteIdentifier);
  return `SELECT ${columns.join(", ")} FROM ${frame} WHERE ${where} AND ${quoteIdentifier(DRAW_COLUMN)} < ${quoteDouble(share)}`;
}

const addGroups = (left: AloneGroup, right: AloneGroup): AloneGroup => ({
  rows: left.rows + right.rows,
  sum: left.sum + right.sum,
  squares: left.squares + right.squares,
  classes: right.classes.map((rows, index) => rows + (left.classes[index] ?? 0)),
});

/** Neighbouring bins put together until each has enough rows. @param bins in the order of their values */
function mergedBins(bins: readonly AloneGroup[]): readonly AloneGroup[] {
  const merged: AloneGroup[] = [];
  for (const bin of bins) {
    const last = merged.at(-1);
    if (last && last.rows < LEAST_ROWS) merged.splice(-1, 1, addGroups(last, bin));
    else merged.push(bin);
  }
  const [before, last] = merged.slice(-2);
  if (before && last && last.rows < LEAST_ROWS) merged.splice(-2, 2, addGroups(before, last));
  return merged;
}

/** What one feature says alone. */
export interface AloneAnswer {
  readonly groups: readonly AloneGroup[];
  /** How many different values it has. */
  readonly values: number;
}

/** Reads the answer to {@link aloneSql}, for each of its features. Bins of a number that have few rows are put together. */
export function readAlone(
  rows: readonly Readonly<Record<string, unknown>>[],
  features: readonly AloneFeature[],
  classes: number,
): readonly AloneAnswer[] {
  return features.map(({ kind }, place) => {
    const parts = rows
      .filter((row) => Number(row["place"]) === place)
      .toSorted((left, right) => Number(left["part"]) - Number(right["part"]));
    const read = parts.map((row) => ({
      missing: Number(row["part"]) === 0,
      rows: Number(row["rows"]),
      sum: Number(row["sum"] ?? 0),
      squares: Number(row["squares"] ?? 0),
      classes: Array.from({ length: classes > 2 ? classes : 0 }, (_, code) => Number(row[`c${code}`] ?? 0)),
    }));
    const values = parts.reduce((sum, row) => sum + Number(row["values"] ?? 0), 0);
    if (kind === "category") return { groups: read, values };
    const bins = read.filter(({ missing }) => !missing);
    return { groups: [...read.filter(({ missing }) => missing), ...mergedBins(bins)], values };
  });
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
  const small = groups.filter((group) => group.rows < LEAST_ROWS);
  return [
    ...groups.filter((group) => group.rows >= LEAST_ROWS),
    ...(small.length > 0 ? [small.reduce(addGroups)] : []),
  ];
}

/**
 * How much of the target one feature tells by itself, from 0 to 1: for yes and no the AUC of its groups' shares, doubled and less 1;
 * for numbers the share of the variance between groups; for classes Goodman and Kruskal's tau.
 */
export function aloneStrength(task: Task["kind"], all: readonly AloneGroup[]): number {
  const groups = pooled(all).filter((group) => group.rows > 0);
  const rows = groups.reduce((sum, group) => sum + group.rows, 0);
  const total = groups.reduce((sum, group) => sum + group.sum, 0);
  if (rows === 0) return 0;
  if (task === "binary") {
    const negatives = rows - total;
    if (total === 0 || negatives === 0) return 0;
    let above = 0;
    let pairs = 0;
    for (const group of [...groups].sort((left, right) => right.sum / right.rows - left.sum / left.rows)) {
      pairs += (group.rows - group.sum) * (above + group.sum / 2);
      above += group.sum;
    }
    return Math.max(0, 2 * (pairs / (total * negatives)) - 1);
  }
  if (task === "number") {
    const spread = groups.reduce((sum, group) => sum + group.squares, 0) - (total * total) / rows;
    const between =
      groups.reduce((sum, group) => sum + (group.sum * group.sum) / group.rows, 0) - (total * total) / rows;
    return spread > 0 ? Math.max(0, between / spread) : 0;
  }
  const classes = groups[0]!.classes.map(
    (_, code) => groups.reduce((sum, group) => sum + group.classes[code]!, 0) / rows,
  );
  const usual = classes.reduce((sum, share) => sum + share * share, 0);
  const within =
    groups.reduce(
      (sum, group) => sum + group.classes.reduce((part, count) => part + (count * count) / group.rows, 0),
      0,
    ) / rows;
  return usual < 1 ? Math.max(0, (within - usual) / (1 - usual)) : 0;
}
