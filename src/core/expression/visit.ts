import type { Expression } from "./ast";

/** The expressions directly inside one expression. */
export function children(node: Expression): readonly Expression[] {
  switch (node.kind) {
    case "literal":
    case "column":
    case "runTime":
      return [];
    case "call":
      return [
        ...node.args,
        ...(node.filter ? [node.filter] : []),
        ...(node.withinGroup ? [node.withinGroup] : []),
      ];
    case "extract":
    case "negate":
    case "not":
    case "cast":
    case "is":
    case "terms":
    case "bin":
      return [node.operand];
    case "element":
      return [node.place];
    case "lookup":
      return [node.operand, node.missing, node.otherwise];
    case "nearest":
      return [...node.numbers, ...node.categories].map((number) => number.value);
    case "window":
      return [node.call, ...node.by, ...node.order.map((order) => order.expression)];
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

/** The same node with its direct children changed. */
export function changeChildren(node: Expression, change: (node: Expression) => Expression): Expression {
  switch (node.kind) {
    case "literal":
    case "column":
    case "runTime":
      return node;
    case "call":
      return {
        ...node,
        args: node.args.map(change),
        ...(node.filter ? { filter: change(node.filter) } : {}),
        ...(node.withinGroup ? { withinGroup: change(node.withinGroup) } : {}),
      };
    case "extract":
    case "negate":
    case "not":
    case "cast":
    case "is":
    case "terms":
    case "bin":
      return { ...node, operand: change(node.operand) };
    case "element":
      return { ...node, place: change(node.place) };
    case "nearest":
      return {
        ...node,
        numbers: node.numbers.map((number) => ({ ...number, value: change(number.value) })),
        categories: node.categories.map((category) => ({ ...category, value: change(category.value) })),
      };
    case "lookup":
      return {
        ...node,
        operand: change(node.operand),
        missing: change(node.missing),
        otherwise: change(node.otherwise),
      };
    case "window":
      return {
        ...node,
        call: change(node.call),
        by: node.by.map(change),
        order: node.order.map((order) => ({ ...order, expression: change(order.expression) })),
      };
    case "binary":
      return { ...node, left: change(node.left), right: change(node.right) };
    case "case":
      return {
        ...node,
        branches: node.branches.map((branch) => ({ when: change(branch.when), then: change(branch.then) })),
        ...(node.subject ? { subject: change(node.subject) } : {}),
        ...(node.otherwise ? { otherwise: change(node.otherwise) } : {}),
      };
    case "in":
      return { ...node, operand: change(node.operand), values: node.values.map(change) };
    case "between":
      return { ...node, operand: change(node.operand), low: change(node.low), high: change(node.high) };
    case "like":
      return { ...node, operand: change(node.operand), pattern: change(node.pattern) };
  }
}

/** Rebuilds an expression with `change` applied to every node, children first. */
export const mapExpression = (node: Expression, change: (node: Expression) => Expression): Expression =>
  change(changeChildren(node, (node) => mapExpression(node, change)));

/** Calls `visit` on every node, parents first. */
export function walk(node: Expression, visit: (node: Expression) => void): void {
  visit(node);
  for (const child of children(node)) walk(child, visit);
}

/** Names of the columns an expression reads, each once, in order of appearance. */
export function columnsOf(node: Expression): readonly string[] {
  const names = new Set<string>();
  walk(node, (node) => {
    if (node.kind === "column") names.add(node.name);
  });
  return [...names];
}

/** How often each column is read; folding uses it to avoid computing something twice. */
export function countColumnUses(nodes: Iterable<Expression>): ReadonlyMap<string, number> {
  const uses = new Map<string, number>();
  for (const node of nodes) {
    walk(node, (node) => {
      if (node.kind === "column") uses.set(node.name, (uses.get(node.name) ?? 0) + 1);
    });
  }
  return uses;
}

/** Replaces column references by the expressions that define them. */
export function substitute(node: Expression, definitions: ReadonlyMap<string, Expression>): Expression {
  return mapExpression(node, (node) =>
    node.kind === "column" ? (definitions.get(node.name) ?? node) : node,
  );
}

/** Whether an expression looks at other rows. Such a value must be computed before rows are filtered or grouped. */
export function hasWindow(node: Expression): boolean {
  return node.kind === "window" || children(node).some(hasWindow);
}
