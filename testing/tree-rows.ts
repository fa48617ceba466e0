import type { ColumnData } from "@/core/learn/memory/column-data";
import type { FeatureRow, Task } from "@/core/learn/task";
import { goesLeft, type Tree } from "@/core/learn/trees/tree";
import { mix } from "@/core/numeric/random";

/** Rows made up from a seed: two numbers, one of them with gaps, a category of five levels, and a target. */
export function made(
  rows: number,
  seed: number,
  task: Task,
): { readonly data: ColumnData; readonly rows: readonly FeatureRow[] } {
  const u = (row: number, salt: number): number => mix(row, seed * 31 + salt) / 4294967296;
  const numbers = [0, 1].map((index) => ({
    column: `x${index}`,
    values: Float64Array.from({ length: rows }, (_, row) =>
      index === 1 && u(row, 9) < 0.15 ? Number.NaN : Math.floor(u(row, index) * 12),
    ),
  }));
  const levels = ["a", "b", "c", "d", null];
  const codes = Int32Array.from({ length: rows }, (_, row) => 1 + Math.floor(u(row, 3) * 5));
  const signal = (row: number): number =>
    numbers[0]!.values[row]! / 6 +
    (codes[row]! % 2) +
    (Number.isNaN(numbers[1]!.values[row]!) ? 1 : numbers[1]!.values[row]! / 10) +
    u(row, 5);
  const target = Float64Array.from({ length: rows }, (_, row) => {
    if (task.kind === "number") return signal(row) * 10;
    if (task.kind === "binary") return Number(signal(row) > 2.2);
    return Math.min(2, Math.floor(signal(row) / 1.4));
  });
  const data: ColumnData = {
    rows,
    numbers,
    categories: [{ column: "k", levels, codes }],
    target,
    weight: undefined,
    draw: Float64Array.from({ length: rows }, (_, row) => mix(row, seed + 77) / 4294967296),
    fold: new Int16Array(rows),
    moment: undefined,
  };
  const plain = Array.from({ length: rows }, (_, row): FeatureRow => ({
    x0: numbers[0]!.values[row]!,
    x1: Number.isNaN(numbers[1]!.values[row]!) ? null : numbers[1]!.values[row]!,
    k: levels[codes[row]! - 1]!,
  }));
  return { data, rows: plain };
}

export const CATEGORIES = [{ column: "k", levels: ["a", "b", "c", "d", null] }];

/** Rows of each node of a tree. */
export function rowsAt(tree: Tree, rows: readonly FeatureRow[]): readonly (readonly number[])[] {
  const found: number[][] = tree.nodes.map(() => []);
  rows.forEach((row, index) => {
    let at = 0;
    for (;;) {
      found[at]!.push(index);
      const node = tree.nodes[at]!;
      if (node.kind === "leaf") break;
      at = goesLeft(node, row) ? node.left : node.right;
    }
  });
  return found;
}
