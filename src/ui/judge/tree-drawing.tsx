import type { RefObject } from "react";
import { ClassPatternDefs } from "../charts/class-patterns";
import type { Task } from "@/core/learn/task";
import type { Tree } from "@/core/learn/trees/tree";
import type { PlacedNode } from "./tree-layout";
import { TreeNodeButton } from "./tree-node";

interface Props {
  readonly drawing: RefObject<SVGSVGElement | null>;
  readonly tree: Tree;
  readonly task: Task;
  readonly placed: readonly PlacedNode[];
  /** Positions from the root to the chosen node. */
  readonly path: readonly number[];
  readonly onChoose: (position: number) => void;
}

/** Of a node with the gap beside and below it, in pixels. */
const [WIDTH, HEIGHT] = [132, 84];
/** Narrowest drawing, in pixels. */
const NARROWEST = 600;

/** Nodes and the lines between them: the thicker a line, the more rows went that way. */
export function TreeDrawing({ drawing, tree, task, placed, path, onChoose }: Props) {
  const width = Math.max(...placed.map((one) => one.x)) + 0.5;
  const height = Math.max(...placed.map((one) => one.depth)) + 1;
  return (
    <svg ref={drawing} width={Math.max(NARROWEST, width * WIDTH)} height={height * HEIGHT + 10}>
      <ClassPatternDefs />
      {placed.map((one) => (
        <Branches key={one.position} tree={tree} from={one} placed={placed} path={path} />
      ))}
      {placed.map((one) => (
        <g
          key={one.position}
          transform={`translate(${one.x * WIDTH - WIDTH / 2 + 3} ${one.depth * HEIGHT + 2})`}
        >
          <TreeNodeButton
            node={tree.nodes[one.position]!}
            task={task}
            chosen={one.position === path.at(-1)}
            onChoose={() => onChoose(one.position)}
            width={WIDTH - 6}
            height={HEIGHT - 22}
          />
        </g>
      ))}
    </svg>
  );
}

interface BranchesProps {
  readonly tree: Tree;
  readonly from: PlacedNode;
  readonly placed: readonly PlacedNode[];
  readonly path: readonly number[];
}

function Branches({ tree, from, placed, path }: BranchesProps) {
  const node = tree.nodes[from.position]!;
  if (node.kind === "leaf") return null;
  const total = tree.nodes[0]!.rows;
  return placed
    .filter(({ position }) => position === node.left || position === node.right)
    .map((to) => (
      <line
        key={to.position}
        x1={from.x * WIDTH}
        y1={from.depth * HEIGHT + 56}
        x2={to.x * WIDTH}
        y2={to.depth * HEIGHT + 6}
        stroke={path.includes(to.position) ? "var(--madder)" : "var(--rule)"}
        strokeWidth={1 + 7 * (tree.nodes[to.position]!.rows / total)}
        opacity="0.8"
      />
    ));
}
