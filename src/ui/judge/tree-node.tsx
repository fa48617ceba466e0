import { formatNumber, formatPart, formatShare } from "@/core/format/numbers";
import type { Task } from "@/core/learn/task";
import type { SplitNode, Tree, TreeNode } from "@/core/learn/trees/tree";
import { ShareBar } from "../charts/class-patterns";
import { sharesOf } from "./node-shares";
import { predictionOf, ruleOf, rulesOfPath } from "./tree-layout";

interface ButtonProps {
  readonly node: TreeNode;
  readonly task: Task;
  readonly chosen: boolean;
  readonly onChoose: () => void;
}

function lookOf(node: TreeNode, chosen: boolean): string {
  if (chosen) return "border-madder bg-paper";
  return node.kind === "leaf" ? "border-weft bg-weft" : "border-rule bg-linen";
}

/** A node of the drawing: its rule or its prediction, its rows, its shares. */
export function TreeNodeButton({ node, task, chosen, onChoose }: ButtonProps) {
  const text = node.kind === "leaf" ? predictionOf(node, task) : ruleOf(node);
  return (
    <button
      type="button"
      tabIndex={-1}
      onClick={onChoose}
      aria-pressed={chosen}
      title={text}
      className={`h-full w-full overflow-hidden rounded-sm border px-1 text-center text-[11px] leading-tight ${lookOf(node, chosen)}`}
    >
      <span className="line-clamp-2 break-words font-medium">{text}</span>
      <span className="block text-faded">{formatNumber(node.rows)} rows</span>
      {task.kind !== "number" && (
        <ShareBar shares={sharesOf(task, node.value)} label={predictionOf(node, task)} />
      )}
    </button>
  );
}

interface FactsProps {
  readonly tree: Tree;
  readonly task: Task;
  /** Positions from the root to the node. */
  readonly path: readonly number[];
}

/** A node in words: how rows come to it, how many, what it predicts and by what it splits. */
export function TreeNodeFacts({ tree, task, path }: FactsProps) {
  const node = tree.nodes[path.at(-1)!]!;
  return (
    <dl className="mt-2 grid max-w-4xl grid-cols-[max-content_1fr] gap-x-4 text-sm" data-testid="tree-node">
      <dt className="text-faded">Path</dt>
      <dd>{rulesOfPath(tree, path)}</dd>
      <dt className="text-faded">Rows</dt>
      <dd className="figure">
        {formatNumber(node.rows)}{" "}
        <span className="font-sans text-faded">({formatPart(node.rows, tree.nodes[0]!.rows)})</span>
      </dd>
      <dt className="text-faded">Predicts</dt>
      <dd>
        {task.kind === "classes"
          ? task.classes.map((name, code) => `${name} ${formatShare(node.value[code]!)}`).join(", ")
          : predictionOf(node, task)}
      </dd>
      {node.kind !== "leaf" && <SplitFacts node={node} />}
    </dl>
  );
}

function SplitFacts({ node }: { readonly node: SplitNode }) {
  const exceptions =
    node.kind === "number" ? `missing values go ${node.missing}` : `unseen categories go ${node.unseen}`;
  return (
    <>
      <dt className="text-faded">Rule</dt>
      <dd>
        {ruleOf(node)}; {exceptions}; gain <span className="figure">{formatNumber(node.gain)}</span>
      </dd>
    </>
  );
}
