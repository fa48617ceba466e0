import type { Expression, Order } from "../expression/ast";

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
  /** Rows that the surrounding statement gives under a name of its own. */
  | { readonly kind: "given"; readonly name: string; readonly columns: readonly string[] }
  /** Rows that are constants of the statement: values of each row in the order of the columns. */
  | {
      readonly kind: "constants";
      readonly name: string;
      readonly columns: readonly string[];
      readonly rows: readonly (readonly Expression[])[];
    }
  /** About a share of the rows of a stored table, the same every time; of blocks of rows, where that is cheaper. */
  | { readonly kind: "sample"; readonly input: Relation; readonly share: number }
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
      /** A further condition of a match. Columns of the right side are named by expression/sides. */
      readonly condition?: Expression;
    }
  /** The rows of several relations that have the same columns, one after the other; duplicates stay. */
  | { readonly kind: "union"; readonly inputs: readonly Relation[] }
  /** The first rows in an order, or those after some of the first. */
  | {
      readonly kind: "limit";
      readonly input: Relation;
      readonly order: readonly Order[];
      readonly rows: number;
      readonly offset?: number;
    }
  /** One row per row and listed column: its name, or its place from 0, and its value, as the last columns. */
  | {
      readonly kind: "unpivot";
      readonly named?: "by place";
      readonly input: Relation;
      readonly keep: readonly string[];
      readonly columns: readonly NamedExpression[];
      readonly nameColumn: string;
      readonly valueColumn: string;
    }
  | {
      readonly kind: "aggregate";
      readonly input: Relation;
      readonly by: readonly string[];
      readonly measures: readonly NamedExpression[];
    }
  /** One row per word, or run of words, of a text: the columns kept, and the word as the last one. */
  | {
      readonly kind: "words";
      readonly input: Relation;
      readonly keep: readonly string[];
      readonly text: Expression;
      readonly longest: number;
      readonly wordColumn: string;
    }
  /** Computes its columns once, whatever reads them: keeps the planner from repeating a long expression. */
  | { readonly kind: "fence"; readonly input: Relation }
  /** Rows that several parents read: computed once, and named for readers of the SQL. */
  | { readonly kind: "common"; readonly input: Relation; readonly name: string }
  /** Gives the rows so far a name that readers of the SQL will recognise: the step that made them. */
  | { readonly kind: "label"; readonly input: Relation; readonly name: string };

/** Names of the columns a relation yields, in order. */
export function outputColumns(relation: Relation): readonly string[] {
  switch (relation.kind) {
    case "table":
    case "given":
    case "constants":
      return relation.columns;
    case "project":
      return relation.items.map((item) => item.name);
    case "filter":
    case "label":
    case "common":
    case "fence":
    case "sample":
    case "limit":
      return outputColumns(relation.input);
    case "union":
      return outputColumns(relation.inputs[0]!);
    case "words":
      return [...relation.keep, relation.wordColumn];
    case "unpivot":
      return [...relation.keep, relation.nameColumn, relation.valueColumn];
    case "join":
      return [...outputColumns(relation.left), ...relation.take.map((pair) => pair.name)];
    case "aggregate":
      return [...relation.by, ...relation.measures.map((measure) => measure.name)];
  }
}

export const table = (source: TableReference, columns: readonly string[]): Relation => ({
  kind: "table",
  source,
  columns,
});
export const filter = (input: Relation, condition: Expression): Relation => ({
  kind: "filter",
  input,
  condition,
});
export const project = (input: Relation, items: readonly NamedExpression[]): Relation => ({
  kind: "project",
  input,
  items,
});
export const label = (input: Relation, name: string): Relation => ({ kind: "label", input, name });
export const common = (input: Relation, name: string): Relation => ({ kind: "common", input, name });
export const fence = (input: Relation): Relation => ({ kind: "fence", input });
export const aggregateRows = (
  input: Relation,
  by: readonly string[],
  measures: readonly NamedExpression[],
): Relation => ({ kind: "aggregate", input, by, measures });

/** A projection that keeps the named columns as they are. */
export const keepColumns = (input: Relation, names: readonly string[]): Relation =>
  project(
    input,
    names.map((name) => ({ name, expression: { kind: "column", name } })),
  );

/** A projection that keeps every column, replacing or adding the given ones. New columns come last. */
export function withColumns(input: Relation, changes: readonly NamedExpression[]): Relation {
  const replaced = new Map(changes.map((change) => [change.name, change]));
  const existing = outputColumns(input);
  const kept = existing.map(
    (name): NamedExpression => replaced.get(name) ?? { name, expression: { kind: "column", name } },
  );
  return project(input, [...kept, ...changes.filter((change) => !existing.includes(change.name))]);
}

/** The relations directly beneath one. */
export function inputsOf(relation: Relation): readonly Relation[] {
  switch (relation.kind) {
    case "table":
    case "given":
    case "constants":
      return [];
    case "join":
      return [relation.left, relation.right];
    case "union":
      return relation.inputs;
    case "project":
    case "filter":
    case "aggregate":
    case "label":
    case "common":
    case "fence":
    case "sample":
    case "limit":
    case "unpivot":
    case "words":
      return [relation.input];
  }
}

/** The same relation over other inputs, in the order of {@link inputsOf}. */
export function withInputs(relation: Relation, change: (input: Relation) => Relation): Relation {
  switch (relation.kind) {
    case "table":
    case "given":
    case "constants":
      return relation;
    case "join":
      return { ...relation, left: change(relation.left), right: change(relation.right) };
    case "union":
      return { ...relation, inputs: relation.inputs.map(change) };
    case "project":
    case "filter":
    case "aggregate":
    case "label":
    case "common":
    case "fence":
    case "sample":
    case "limit":
    case "unpivot":
    case "words":
      return { ...relation, input: change(relation.input) };
  }
}
