import type { FeatureRow } from "../learn/task";
import type { Background } from "./explained-row";
import type { Reasons } from "./shapley";

/** Puts the row's values in one after the other, forwards and backwards, and takes the mean of what each changes. */
export function byReplacing(
  columns: readonly string[],
  row: FeatureRow,
  { means, usual }: Background,
  value: (row: FeatureRow) => number,
): Reasons {
  const start: Record<string, number | string | null> = {};
  for (const name of columns) start[name] = means[name] ?? usual[name] ?? null;
  const base = value(start);
  const sums = new Map(columns.map((name) => [name, 0]));
  for (const order of [columns, [...columns].reverse()]) {
    const current = { ...start };
    let before = base;
    for (const name of order) {
      current[name] = row[name] ?? null;
      const after = value(current);
      sums.set(name, sums.get(name)! + (after - before) / 2);
      before = after;
    }
  }
  return { base, parts: [...sums].map(([column, value]) => ({ column, value: value })) };
}
