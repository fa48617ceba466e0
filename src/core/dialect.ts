import type { Relation } from "./relation/relation";

/** What printing needs from outside: the logical time of the run, as an ISO 8601 text with offset. */
export interface PrintContext {
  readonly runTime: string;
}

/** What a kind of warehouse can hold. */
export interface DialectLimits {
  /** Columns of a table, with room for those that Ravlen adds. */
  readonly tableColumns: number;
  /** Bytes of the features of a row. */
  readonly rowBytes: number;
}

/** How a kind of warehouse is asked: its language, and its limits. Handed in as a value; the core knows none. */
export interface Dialect {
  /** What the kind of warehouse is called, for messages. */
  readonly name: string;
  /** A relation as one statement, for readers too. */
  readonly printRelation: (relation: Relation, context: PrintContext) => string;
  readonly limits: DialectLimits;
}
