import type { FeatureRow } from "../learn/task";
import type { Tree } from "../learn/trees/tree";
import { treeReasons, type Reasons } from "./shapley";

/**
 * Exact Shapley values of a sum of trees.
 * @param start what the sum begins with
 * @param factor what each tree is multiplied by
 */
export function treeSumReasons(
  trees: readonly { readonly tree: Tree; readonly output: number }[],
  row: FeatureRow,
  { start, factor }: { readonly start: number; readonly factor: number },
): Reasons {
  const sums = new Map<string, number>();
  let base = start;
  for (const { tree, output } of trees)
    base +=
      factor *
      treeReasons(tree, output, row, (column, value) =>
        sums.set(column, (sums.get(column) ?? 0) + factor * value),
      );
  return { base, parts: [...sums].map(([column, value]) => ({ column, value })) };
}
