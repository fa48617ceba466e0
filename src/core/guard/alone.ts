import type { Task } from "../learn/task";

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

const addGroups = (left: AloneGroup, right: AloneGroup): AloneGroup => ({
  rows: left.rows + right.rows,
  sum: left.sum + right.sum,
  squares: left.squares + right.squares,
  classes: right.classes.map((rows, index) => rows + (left.classes[index] ?? 0)),
});

/** Neighbouring bins put together until each has enough rows. @param bins in the order of their values */
export function mergedBins(bins: readonly AloneGroup[]): readonly AloneGroup[] {
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
