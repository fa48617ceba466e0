import type { Expression } from "../expression/ast";

export interface NamedExpression {
  readonly name: string;
  readonly expression: Expression;
}

export interface TableReference {
  readonly schema: string;
  readonly table: string;
}

/**
 * A query as data: what rows, not how they are fetched. Immutable; a node may be shared by several parents.
 * Column references inside expressions name columns of the node's input.
 */
export type Relation =
  | { readonly kind: "table"; readonly source: TableReference; readonly columns: readonly string[] }
  | { readonly kind: "project"; readonly input: Relation; readonly items: readonly NamedExpression[] }
  | { readonly kind: "filter"; readonly input: Relation; readonly condition: Expression }
  | {
      readonly kind: "join";
      readonly how: "inner" | "left";
      readonly left: Relation;
      readonly right: Relation;
      readonly on: readonly { readonly left: string; readonly right: string }[];
      /** Columns taken over from the right side, with their new names; all columns of the left side stay. */
      readonly take: readonly { readonly from: string; readonly name: string }[];
    }
  | { readonly kind: "aggregate"; readonly input: Relation; readonly by: readonly string[]; readonly measures: readonly NamedExpression[] }
  /** Computes its columns once, whatever reads them: keeps the planner from repeating a long expression. */
  | { readonly kind: "fence"; readonly input: Relation }
  /** Gives the rows so far a name that readers of the SQL will recognise: the step that made them. */
  | { readonly kind: "label"; readonly input: Relation; readonly name: string };

/** Names of the columns a relation yields, in order. */
export function outputColumns(relation: Relation): readonly string[] {
  switch (relation.kind) {
    case "table": return relation.columns;
    case "project": return relation.items.map((item) => item.name);
    case "filter": case "label": case "fence": return outputColumns(relation.input);
    case "join": return [...outputColumns(relation.left), ...relation.take.map((each) => each.name)];
    case "aggregate": return [...relation.by, ...relation.measures.map((measure) => measure.name)];
  }
}

export const table = (source: TableReference, columns: readonly string[]): Relation => ({ kind: "table", source, columns });
export const filter = (input: Relation, condition: Expression): Relation => ({ kind: "filter", input, condition });
export const project = (input: Relation, items: readonly NamedExpression[]): Relation => ({ kind: "project", input, items });
export const label = (input: Relation, name: string): Relation => ({ kind: "label", input, name });
export const fence = (input: Relation): Relation => ({ kind: "fence", input });
export const aggregateRows = (input: Relation, by: readonly string[], measures: readonly NamedExpression[]): Relation => ({ kind: "aggregate", input, by, measures });

/** A projection that keeps the named columns as they are. */
export const keepColumns = (input: Relation, names: readonly string[]): Relation =>
  project(input, names.map((name) => ({ name, expression: { kind: "column", name } })));

/** A projection that keeps every column, replacing or adding the given ones. New columns come last. */
export function withColumns(input: Relation, changes: readonly NamedExpression[]): Relation {
  const replaced = new Map(changes.map((change) => [change.name, change]));
  const existing = outputColumns(input);
  const kept = existing.map((name): NamedExpression => replaced.get(name) ?? { name, expression: { kind: "column", name } });
  return project(input, [...kept, ...changes.filter((change) => !existing.includes(change.name))]);
}
