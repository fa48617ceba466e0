import type { Places, Values } from "../model-kind";
import type { Tree, TreeNode } from "./tree";

/** A tree in arrays. A leaf has column -1. */
export interface FlatTree {
  readonly column: Int32Array;
  readonly below: Float64Array;
  readonly levels: readonly (ReadonlyMap<string | null, boolean> | undefined)[];
  /** Whether a missing number, or a category never seen, goes left. */
  readonly otherwise: Uint8Array;
  readonly left: Int32Array;
  readonly right: Int32Array;
  readonly value: readonly (readonly number[])[];
}

/** Where a missing number, or a category never seen, goes. */
function sideOfOthers(node: TreeNode): "left" | "right" | undefined {
  if (node.kind === "leaf") return undefined;
  return node.kind === "number" ? node.missing : node.unseen;
}

export function flatten({ nodes }: Tree, places: Places): FlatTree {
  return {
    column: Int32Array.from(nodes, (node) => (node.kind === "leaf" ? -1 : places.get(node.column)!)),
    below: Float64Array.from(nodes, (node) => (node.kind === "number" ? (node.below ?? Number.NaN) : 0)),
    levels: nodes.map((node) =>
      node.kind === "category"
        ? new Map([
            ...node.levels.map((level) => [level, true] as const),
            ...node.others.map((level) => [level, false] as const),
          ])
        : undefined,
    ),
    otherwise: Uint8Array.from(nodes, (node) => Number(sideOfOthers(node) === "left")),
    left: Int32Array.from(nodes, (node) => (node.kind === "leaf" ? 0 : node.left)),
    right: Int32Array.from(nodes, (node) => (node.kind === "leaf" ? 0 : node.right)),
    value: nodes.map((node) => node.value),
  };
}

/** The value of the leaf that a row falls into. */
export function leafValue(tree: FlatTree, values: Readonly<Values>): readonly number[] {
  let at = 0;
  for (let column = tree.column[0]!; column >= 0; column = tree.column[at]!) {
    const value = values[column];
    const levels = tree.levels[at];
    let goes: boolean;
    if (levels) goes = levels.get((value ?? null) as string | null) ?? tree.otherwise[at] === 1;
    else if (value === null || value === undefined) goes = tree.otherwise[at] === 1;
    else {
      const below = tree.below[at]!;
      goes = Number.isNaN(below) || Number(value) < below;
    }
    at = goes ? tree.left[at]! : tree.right[at]!;
  }
  return tree.value[at]!;
}
