import { z } from "zod";
import { binary, cast, column, double, text, type Expression } from "../../expression/ast";
import type { FeatureRow } from "../task";

const nodeCommon = {
  /** Training rows that came here; for a forest, rows of the tree's sample. */
  rows: z.number(),
  /** Their weight, as the learner counts it. */
  weight: z.number(),
  /** What is predicted for them: one number, or one per class. */
  value: z.array(z.number()),
};

const leaf = z.object({ ...nodeCommon, kind: z.literal("leaf") });
const numberSplit = z.object({
  ...nodeCommon,
  kind: z.literal("number"),
  column: z.string(),
  /** Values below this go left; null: every value there is goes left, and a missing one right. */
  below: z.number().nullable(),
  missing: z.enum(["left", "right"]),
  left: z.number(),
  right: z.number(),
  gain: z.number(),
});
const categorySplit = z.object({
  ...nodeCommon,
  kind: z.literal("category"),
  column: z.string(),
  /** These go left; null is a missing value, where training rows had some. */
  levels: z.array(z.string().nullable()),
  /** Those that go right. Any other category has never been seen. */
  others: z.array(z.string().nullable()),
  unseen: z.enum(["left", "right"]),
  left: z.number(),
  right: z.number(),
  gain: z.number(),
});

/** A tree as a list of nodes; the first is the root, and children come after their parents. */
export const treeSchema = z.object({
  nodes: z.array(z.discriminatedUnion("kind", [leaf, numberSplit, categorySplit])),
});
export type Tree = z.infer<typeof treeSchema>;
export type TreeNode = Tree["nodes"][number];
export type SplitNode = Exclude<TreeNode, { kind: "leaf" }>;

/** Whether a row goes left at a split. A value that is not a number counts as larger than every number, as in PostgreSQL. */
export function goesLeft(node: SplitNode, row: FeatureRow): boolean {
  const value = row[node.column];
  if (node.kind === "number") {
    if (value === null || value === undefined) return node.missing === "left";
    return node.below === null || Number(value) < node.below;
  }
  const level = value === undefined ? null : (value as string | null);
  if (node.levels.includes(level)) return true;
  if (node.others.includes(level)) return false;
  return node.unseen === "left";
}

/** A test of a row, and whether those for whom it is true go left; all others, NULL included, go the other way. */
interface NodeTest {
  readonly when: Expression;
  readonly goesLeft: boolean;
}

/** The test of a node as SQL. It is turned so that a missing number falls to the right side by itself: a test for that would cost as much again. */
function nodeTest(node: SplitNode, number: (name: string) => Expression): NodeTest {
  if (node.kind === "number") {
    if (node.below === null)
      return {
        when: { kind: "is", operand: number(node.column), test: "null", negated: true },
        goesLeft: true,
      };
    const goesLeft = node.missing === "right";
    return { when: binary(number(node.column), goesLeft ? "<" : ">=", double(node.below)), goesLeft };
  }
  const value = cast(column(node.column), "text");
  // The shorter list is written down, unless unseen categories must be told apart from it.
  const [listed, answer] = node.unseen === "left" ? [node.others, false] : [node.levels, true];
  const texts = listed.filter((level) => level !== null);
  const missingListed = listed.includes(null);
  const missingKnown = missingListed || node.levels.includes(null) || node.others.includes(null);
  const missingGoesLeft = missingKnown ? missingListed === answer : node.unseen === "left";
  const inList: Expression =
    texts.length === 0
      ? { kind: "literal", type: "boolean", value: !answer }
      : { kind: "in", operand: value, values: texts.map(text), negated: !answer };
  const when: Expression = {
    kind: "case",
    branches: [
      {
        when: { kind: "is", operand: value, test: "null", negated: false },
        then: { kind: "literal", type: "boolean", value: missingGoesLeft },
      },
    ],
    otherwise: inList,
  };
  return { when, goesLeft: true };
}

/** One number of the tree's prediction as SQL over the prepared rows: nested CASE expressions. */
export function treeExpression(
  tree: Tree,
  output: number,
  number: (name: string) => Expression,
  scale = 1,
): Expression {
  const visit = (position: number): Expression => {
    const node = tree.nodes[position]!;
    if (node.kind === "leaf") return double(node.value[output]! * scale);
    const { when, goesLeft } = nodeTest(node, number);
    return {
      kind: "case",
      branches: [{ when, then: visit(goesLeft ? node.left : node.right) }],
      otherwise: visit(goesLeft ? node.right : node.left),
    };
  };
  return visit(0);
}
