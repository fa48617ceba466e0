import { formatNumber, formatPart, formatShare } from "@/core/format/numbers";
import { shortenText } from "@/core/format/shorten-text";
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
  /** Of the node, in pixels. */
  readonly width: number;
  readonly height: number;
}

/** Letters of a line, lines of a rule, pixels of a line and of the bar of shares. */
const [LETTERS, LINES, LINE, BAR] = [17, 2, 14, 8];

/** A text in a few lines, cut where it has no more room. */
function linesOf(text: string): string[] {
  const lines: string[] = [""];
  for (const word of text.split(" ")) {
    const longer = `${lines.at(-1)} ${word}`.trim();
    if (longer.length <= LETTERS || lines.at(-1) === "") lines[lines.length - 1] = longer;
    else lines.push(word);
  }
  const shown = lines.slice(0, LINES).map((line) => shortenText(line, LETTERS));
  return lines.length > LINES ? [...shown.slice(0, -1), shortenText(`${shown.at(-1)} …`, LETTERS)] : shown;
}

function paintOf(node: TreeNode, chosen: boolean): { readonly fill: string; readonly stroke: string } {
  if (chosen) return { fill: "var(--paper)", stroke: "var(--madder)" };
  return node.kind === "leaf"
    ? { fill: "var(--weft)", stroke: "var(--weft)" }
    : { fill: "var(--linen)", stroke: "var(--rule)" };
}

/** A node of the drawing: its rule or its prediction, its rows, its shares. */
export function TreeNodeButton({ node, task, chosen, onChoose, width, height }: ButtonProps) {
  const text = node.kind === "leaf" ? predictionOf(node, task) : ruleOf(node);
  const lines = linesOf(text);
  return (
    <g role="button" tabIndex={-1} aria-pressed={chosen} className="cursor-pointer" onClick={onChoose}>
      <title>{text}</title>
      <rect width={width} height={height} rx="2" {...paintOf(node, chosen)} />
      <g fontSize="12" textAnchor="middle" fill="var(--ink)">
        {lines.map((line, place) => (
          <text key={place} x={width / 2} y={(place + 1) * LINE} fontWeight="500">
            {line}
          </text>
        ))}
        <text x={width / 2} y={(lines.length + 1) * LINE} fill="var(--faded)">
          {formatNumber(node.rows)} rows
        </text>
      </g>
      {task.kind !== "number" && (
        <ShareBar
          shares={sharesOf(task, node.value)}
          place={{ x: 4, y: height - BAR - 3, width: width - 8, height: BAR }}
        />
      )}
    </g>
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
    <dl
      className="mt-2 grid max-w-4xl grid-cols-[max-content_1fr] gap-x-4 text-caption"
      data-testid="tree-node"
    >
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
