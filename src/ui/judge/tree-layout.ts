import { formatNumber, formatShare } from "@/core/format/numbers";
import { className, type Task } from "@/core/learn/task";
import type { SplitNode, Tree, TreeNode } from "@/core/learn/trees/tree";

export interface PlacedNode {
  readonly position: number;
  readonly depth: number;
  /** Centre, in leaves from the left. */
  readonly x: number;
}

/** Places of the nodes down to a depth: parents in the middle above their children. */
export function layOutTree(tree: Tree, root: number, depth: number): readonly PlacedNode[] {
  const placed: PlacedNode[] = [];
  let leaves = 0;
  const nextLeaf = (): number => {
    leaves += 1;
    return leaves - 0.5;
  };
  const visit = (position: number, at: number): number => {
    const node = tree.nodes[position]!;
    const closed = node.kind === "leaf" || at >= depth;
    const x = closed ? nextLeaf() : (visit(node.left, at + 1) + visit(node.right, at + 1)) / 2;
    placed.push({ position, depth: at, x });
    return x;
  };
  visit(root, 0);
  return placed;
}

/** Position of the parent of a node; -1 for the root. */
export function parentOf(tree: Tree, position: number): number {
  return tree.nodes.findIndex(
    (node) => node.kind !== "leaf" && (node.left === position || node.right === position),
  );
}

/** Positions from the root to a node, both included. */
export function pathTo(tree: Tree, position: number): readonly number[] {
  const path: number[] = [];
  for (let at = position; at >= 0; at = parentOf(tree, at)) path.unshift(at);
  return path;
}

/** Where an arrow key leads from a node: up to its parent, left or down and right to its children; -1 when nowhere. */
export function neighbourOf(tree: Tree, position: number, key: string): number {
  if (key === "ArrowUp") return parentOf(tree, position);
  const node = tree.nodes[position]!;
  if (node.kind === "leaf") return -1;
  return key === "ArrowRight" ? node.right : node.left;
}

/** The rule of a node as text: rows that meet it go left. */
export function ruleOf(node: SplitNode): string {
  if (node.kind !== "number") {
    return `${node.column} in ${node.levels.map((level) => level ?? "(missing)").join(", ")}`;
  }
  return node.below === null ? `${node.column} is present` : `${node.column} < ${formatNumber(node.below)}`;
}

/** Rules from the root to the end of a path, as text. */
export function rulesOfPath(tree: Tree, path: readonly number[]): string {
  if (path.length === 1) return "the root: all rows";
  return path
    .slice(0, -1)
    .map((at, index) => {
      const split = tree.nodes[at] as SplitNode;
      return `${split.left === path[index + 1] ? "" : "not "}(${ruleOf(split)})`;
    })
    .join(", then ");
}

/** What a node predicts, in short: a number, the share of the positive value, or its most frequent class. */
export function predictionOf(node: TreeNode, task: Task): string {
  if (task.kind === "number") return formatNumber(node.value[0]);
  if (task.kind === "binary") return `${formatShare(node.value[0]!)} positive`;
  const best = node.value.reduce((most, share, index) => (share > node.value[most]! ? index : most), 0);
  return `${className(task, best)} ${formatShare(node.value[best]!)}`;
}
