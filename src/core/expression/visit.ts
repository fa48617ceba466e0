import type { Expression } from "./ast";

/** The expressions directly inside one expression. */
export function children(node: Expression): readonly Expression[] {
  switch (node.kind) {
    case "literal": case "column": case "runTime":
      return [];
    case "call":
      return [...node.args, ...(node.filter ? [node.filter] : []), ...(node.withinGroup ? [node.withinGroup] : [])];
    case "extract": case "negate": case "not": case "cast": case "is": case "lookup":
      return [node.operand];
    case "binary":
      return [node.left, node.right];
    case "case":
      return [
        ...(node.subject ? [node.subject] : []),
        ...node.branches.flatMap((branch) => [branch.when, branch.then]),
        ...(node.otherwise ? [node.otherwise] : []),
      ];
    case "in":
      return [node.operand, ...node.values];
    case "between":
      return [node.operand, node.low, node.high];
    case "like":
      return [node.operand, node.pattern];
  }
}

/** Rebuilds an expression with `change` applied to every node, children first. */
export function mapExpression(node: Expression, change: (node: Expression) => Expression): Expression {
  const inner = (each: Expression): Expression => mapExpression(each, change);
  switch (node.kind) {
    case "literal": case "column": case "runTime":
      return change(node);
    case "call":
      return change({
        ...node,
        args: node.args.map(inner),
        ...(node.filter ? { filter: inner(node.filter) } : {}),
        ...(node.withinGroup ? { withinGroup: inner(node.withinGroup) } : {}),
      });
    case "extract": case "negate": case "not": case "cast": case "is": case "lookup":
      return change({ ...node, operand: inner(node.operand) });
    case "binary":
      return change({ ...node, left: inner(node.left), right: inner(node.right) });
    case "case":
      return change({
        ...node,
        branches: node.branches.map((branch) => ({ when: inner(branch.when), then: inner(branch.then) })),
        ...(node.subject ? { subject: inner(node.subject) } : {}),
        ...(node.otherwise ? { otherwise: inner(node.otherwise) } : {}),
      });
    case "in":
      return change({ ...node, operand: inner(node.operand), values: node.values.map(inner) });
    case "between":
      return change({ ...node, operand: inner(node.operand), low: inner(node.low), high: inner(node.high) });
    case "like":
      return change({ ...node, operand: inner(node.operand), pattern: inner(node.pattern) });
  }
}

/** Calls `visit` on every node, parents first. */
export function walk(node: Expression, visit: (node: Expression) => void): void {
  visit(node);
  for (const child of children(node)) walk(child, visit);
}

/** Names of the columns an expression reads, each once, in order of appearance. */
export function columnsOf(node: Expression): readonly string[] {
  const names = new Set<string>();
  walk(node, (each) => {
    if (each.kind === "column") names.add(each.name);
  });
  return [...names];
}

/** How often each column is read; folding uses it to avoid computing something twice. */
export function countColumnUses(nodes: Iterable<Expression>): ReadonlyMap<string, number> {
  const uses = new Map<string, number>();
  for (const node of nodes) {
    walk(node, (each) => {
      if (each.kind === "column") uses.set(each.name, (uses.get(each.name) ?? 0) + 1);
    });
  }
  return uses;
}

/** Replaces column references by the expressions that define them. */
export function substitute(node: Expression, definitions: ReadonlyMap<string, Expression>): Expression {
  return mapExpression(node, (each) => (each.kind === "column" ? (definitions.get(each.name) ?? each) : each));
}
