"use client";
import { formatNumber, formatPart, formatShare } from "@/core/format/numbers";
import { useState } from "react";
import type { Task } from "@/core/learn/task";
import { className } from "@/core/learn/task";
import type { SplitNode, Tree, TreeNode } from "@/core/learn/trees/tree";
import { ClassLegend, ClassPatterns, ShareBar } from "../charts/class-patterns";
import { shareNames, sharesOf } from "./node-shares";

interface Placed {
  readonly position: number;
  readonly depth: number;
  /** Centre, in leaves from the left. */
  readonly x: number;
}

const [WIDTH, HEIGHT] = [124, 84];

/** Places of the nodes down to a depth: parents in the middle above their children. */
function layOut(tree: Tree, root: number, depth: number): readonly Placed[] {
  const placed: Placed[] = [];
  let next = 0;
  const visit = (position: number, at: number): number => {
    const node = tree.nodes[position]!;
    const x =
      node.kind === "leaf" || at >= depth
        ? (next += 1) - 0.5
        : (visit(node.left, at + 1) + visit(node.right, at + 1)) / 2;
    placed.push({ position, depth: at, x });
    return x;
  };
  visit(root, 0);
  return placed;
}

const rule = (node: SplitNode): string =>
  node.kind === "number"
    ? node.below === null
      ? `${node.column} is present`
      : `${node.column} < ${formatNumber(node.below)}`
    : `${node.column} in ${node.levels.map((each) => each ?? "(missing)").join(", ")}`;

function says(node: TreeNode, task: Task): string {
  if (task.kind === "number") return formatNumber(node.value[0]);
  if (task.kind === "binary") return `${formatShare(node.value[0]!)} positive`;
  const best = node.value.reduce((most, each, index) => (each > node.value[most]! ? index : most), 0);
  return `${className(task, best)} ${formatShare(node.value[best]!)}`;
}

/** A decision tree, drawn. A node is walked to by a press or with the arrow keys; it tells its rule, its rows and its shares. */
export function TreeView({ tree, task }: { readonly tree: Tree; readonly task: Task }) {
  const [root, setRoot] = useState(0);
  const [chosen, setChosen] = useState(0);
  const placed = layOut(tree, root, 4);
  const place = new Map(placed.map((each) => [each.position, each]));
  const node = tree.nodes[chosen]!;
  const parentOf = (position: number): number =>
    tree.nodes.findIndex(
      (each) => each.kind !== "leaf" && (each.left === position || each.right === position),
    );
  const path: number[] = [];
  for (let at = chosen; at >= 0; at = parentOf(at)) path.unshift(at);
  const go = (key: string): void => {
    const parent = parentOf(chosen);
    const to =
      key === "ArrowUp"
        ? parent
        : node.kind === "leaf"
          ? -1
          : key === "ArrowLeft" || key === "ArrowDown"
            ? node.left
            : key === "ArrowRight"
              ? node.right
              : -1;
    if (to < 0) return;
    setChosen(to);
    if (!place.has(to)) setRoot(parentOf(to) < 0 ? 0 : parentOf(to));
  };
  const width = Math.max(...placed.map((each) => each.x)) + 0.5;
  const height = Math.max(...placed.map((each) => each.depth)) + 1;
  const total = tree.nodes[0]!.rows;
  const classes = shareNames(task);
  return (
    <section aria-label="The tree">
      <h2>The tree</h2>
      <p className="text-sm text-faded">
        Click a node, or use the arrow keys: left and right for children, up for the parent. Rows that meet
        the rule go left.
      </p>
      {classes.length > 0 && (
        <>
          <ClassPatterns />
          <ClassLegend classes={classes} />
        </>
      )}
      <div
        className="mt-2 overflow-x-auto border-y border-weft py-2"
        tabIndex={0}
        role="group"
        aria-label="Tree; use the arrow keys to move"
        data-testid="tree"
        onKeyDown={(event) => {
          if (event.key.startsWith("Arrow")) {
            event.preventDefault();
            go(event.key);
          }
        }}
      >
        <svg width={Math.max(600, width * WIDTH)} height={height * HEIGHT + 10}>
          {placed.map((each) => {
            const own = tree.nodes[each.position]!;
            if (own.kind === "leaf") return null;
            return [own.left, own.right].map((child) => {
              const to = place.get(child);
              return (
                to && (
                  <line
                    key={child}
                    x1={each.x * WIDTH}
                    y1={each.depth * HEIGHT + 56}
                    x2={to.x * WIDTH}
                    y2={to.depth * HEIGHT + 6}
                    stroke={
                      path.includes(child) && path.includes(each.position) ? "var(--madder)" : "var(--rule)"
                    }
                    strokeWidth={1 + 7 * (tree.nodes[child]!.rows / total)}
                    opacity="0.8"
                  />
                )
              );
            });
          })}
          {placed.map((each) => {
            const own = tree.nodes[each.position]!;
            return (
              <foreignObject
                key={each.position}
                x={each.x * WIDTH - WIDTH / 2 + 3}
                y={each.depth * HEIGHT + 2}
                width={WIDTH - 6}
                height={HEIGHT - 22}
              >
                <button
                  type="button"
                  tabIndex={-1}
                  onClick={() => setChosen(each.position)}
                  aria-pressed={each.position === chosen}
                  title={own.kind === "leaf" ? says(own, task) : rule(own)}
                  className={`h-full w-full overflow-hidden rounded-sm border px-1 text-center text-[11px] leading-tight ${each.position === chosen ? "border-madder bg-paper" : own.kind === "leaf" ? "border-weft bg-weft" : "border-rule bg-linen"}`}
                >
                  <span className="line-clamp-2 break-words font-medium">
                    {own.kind === "leaf" ? says(own, task) : rule(own)}
                  </span>
                  <span className="block text-faded">{formatNumber(own.rows)} rows</span>
                  {classes.length > 0 && (
                    <ShareBar shares={sharesOf(task, own.value)} label={says(own, task)} />
                  )}
                </button>
              </foreignObject>
            );
          })}
        </svg>
      </div>
      <dl className="mt-2 grid max-w-4xl grid-cols-[max-content_1fr] gap-x-4 text-sm" data-testid="tree-node">
        <dt className="text-faded">Path</dt>
        <dd>
          {path.length === 1
            ? "the root: all rows"
            : path
                .slice(0, -1)
                .map((at, index) => {
                  const split = tree.nodes[at] as SplitNode;
                  return `${split.left === path[index + 1] ? "" : "not "}(${rule(split)})`;
                })
                .join(", then ")}
        </dd>
        <dt className="text-faded">Rows</dt>
        <dd className="figure">
          {formatNumber(node.rows)}{" "}
          <span className="font-sans text-faded">({formatPart(node.rows, total)})</span>
        </dd>
        <dt className="text-faded">Predicts</dt>
        <dd>
          {task.kind === "classes"
            ? task.classes.map((name, code) => `${name} ${formatShare(node.value[code]!)}`).join(", ")
            : says(node, task)}
        </dd>
        {node.kind !== "leaf" && (
          <>
            <dt className="text-faded">Rule</dt>
            <dd>
              {rule(node)};{" "}
              {node.kind === "number"
                ? `missing values go ${node.missing}`
                : `unseen categories go ${node.unseen}`}
              ; gain <span className="figure">{formatNumber(node.gain)}</span>
            </dd>
          </>
        )}
      </dl>
    </section>
  );
}
