"use client";
import { useRef, useState, type KeyboardEvent } from "react";
import type { Task } from "@/core/learn/task";
import type { Tree } from "@/core/learn/trees/tree";
import { ChartTools } from "../charts/chart-tools";
import { ClassLegend } from "../charts/class-patterns";
import { shareNames } from "./node-shares";
import { TreeDrawing } from "./tree-drawing";
import { layOutTree, neighbourOf, parentOf, pathTo } from "./tree-layout";
import { TreeNodeFacts } from "./tree-node";

/** Levels that are drawn at once below the root of the drawing. */
const SHOWN_DEPTH = 4;

/** A decision tree, drawn. A node is walked to by a press or with the arrow keys; it tells its rule, its rows and its shares. */
export function TreeView({ tree, task }: { readonly tree: Tree; readonly task: Task }) {
  const drawing = useRef<SVGSVGElement>(null);
  const [root, setRoot] = useState(0);
  const [chosen, setChosen] = useState(0);
  const placed = layOutTree(tree, root, SHOWN_DEPTH);
  const path = pathTo(tree, chosen);
  const classes = shareNames(task);
  const onKeyDown = (event: KeyboardEvent): void => {
    if (!event.key.startsWith("Arrow")) return;
    event.preventDefault();
    const to = neighbourOf(tree, chosen, event.key);
    if (to < 0) return;
    setChosen(to);
    if (!placed.some(({ position }) => position === to)) setRoot(Math.max(0, parentOf(tree, to)));
  };
  return (
    <section aria-label="The tree">
      <div className="flex items-baseline justify-between">
        <h2>The tree</h2>
        <ChartTools title="The tree" drawing={drawing} />
      </div>
      <p className="text-caption text-faded">
        Click a node, or use the arrow keys: left and right for children, up for the parent. Rows that meet
        the rule go left.
      </p>
      {classes.length > 0 && <ClassLegend classes={classes} />}
      <div
        className="mt-2 overflow-x-auto border-y border-weft py-2"
        tabIndex={0}
        role="group"
        aria-label="Tree; use the arrow keys to move"
        data-testid="tree"
        onKeyDown={onKeyDown}
      >
        <TreeDrawing
          drawing={drawing}
          tree={tree}
          task={task}
          placed={placed}
          path={path}
          onChoose={setChosen}
        />
      </div>
      <TreeNodeFacts tree={tree} task={task} path={path} />
    </section>
  );
}
