import type { Type, Value } from "./values";

/** Where an expression is computed: a row among all rows of its relation; in an aggregation, the rows of a group. */
export interface Place {
  readonly row: readonly Value[];
  /** All rows of the relation. */
  readonly rows: readonly (readonly Value[])[];
  /** The rows of the group. */
  readonly group?: readonly (readonly Value[])[];
}

/** An expression with its type, ready to be computed. */
export interface Compiled {
  readonly type: Type;
  /** Whether it is a bare text, which takes the type of what it is compared with. */
  readonly bare?: boolean;
  readonly at: (place: Place) => Value;
}

/** A column of a relation. */
export interface Column {
  readonly name: string;
  readonly type: Type;
}
