import type { Leaving } from "@/core/evaluate/leaving";
import type { Question } from "@/core/questions/question";
import type { Relation, TableReference } from "@/core/relation/relation";
import type { ValueType } from "@/core/value-type";
import type { TableFacts } from "./catalog";
import type { Landing } from "./landing";
import type { Loader } from "./loader";

/** One statement that was run, for the record of a run. */
export interface StatementRecord {
  readonly sql: string;
  readonly milliseconds: number;
  readonly rows: number | null;
  readonly purpose: string;
}

export interface SessionOptions {
  /** Is given every statement that was run. */
  readonly record: (statement: StatementRecord) => void;
  /** The logical time of questions, as an ISO 8601 text with offset. */
  readonly runTime: string;
}

/** A column of a table, by name and type. */
export interface TypedColumn {
  readonly name: string;
  readonly type: ValueType;
}

/** A column of a table with its values. */
export interface ColumnValues extends TypedColumn {
  readonly values: readonly unknown[];
}

/** Rows that are read as typed arrays. */
export interface StreamRequest {
  readonly relation: Relation;
  readonly purpose: string;
  /** Columns that are read as double precision, with the arrays that take them. */
  readonly doubles: readonly { readonly name: string; readonly values: Float64Array }[];
  /** Columns that are read as whole numbers of 32 bits. */
  readonly integers: readonly { readonly name: string; readonly values: Int32Array }[];
  /** How many rows there are. */
  readonly rows: number;
}

/** Answers questions over rows and keeps rows for the time of a run: all that training and judging need. */
export interface ScratchSession {
  /** Answers a question about the rows at the session's logical time. */
  readonly ask: <Answer>(question: Question<Answer>) => Promise<Answer>;
  /**
   * Computes rows into a new scratch table.
   * @param lifetime whether the table is needed for this run only, or kept, so that it must outlive a crash
   * @returns how many rows there are
   */
  readonly materialize: (
    relation: Relation,
    into: TableReference,
    purpose: string,
    lifetime?: "run" | "kept",
  ) => Promise<number>;
  /** Adds rows to a scratch table, which is made when it is not there. @returns how many rows were added */
  readonly append: (relation: Relation, into: TableReference, purpose: string) => Promise<number>;
  /** Makes an empty scratch table. */
  readonly create: (into: TableReference, columns: readonly TypedColumn[], purpose: string) => Promise<void>;
  /** Adds rows to a table, whose values are here, column by column. */
  readonly insert: (into: TableReference, columns: readonly ColumnValues[], purpose: string) => Promise<void>;
  /** Drops a table, which need not be there. */
  readonly drop: (table: TableReference, purpose: string) => Promise<void>;
  /** Names of the tables of a schema. */
  readonly tableNames: (schema: string, purpose: string) => Promise<readonly string[]>;
  /** Has the warehouse look at the values of a table, so that it plans well what reads it. */
  readonly analyze: (table: TableReference, purpose: string) => Promise<void>;
  /**
   * Reads columns of rows into typed arrays. A missing double becomes NaN, a missing whole number 0; what is NaN in
   * the warehouse, where it lies above every number, becomes Infinity.
   * @param progress is called now and then with the number of rows so far; may throw to stop
   * @throws Error when there are more or fewer rows than expected
   */
  readonly stream: (request: StreamRequest, progress?: (rows: number) => void) => Promise<void>;
}

/** A session of the writer. Every statement is recorded with its purpose, time and rows. */
export interface WarehouseSession extends ScratchSession {
  /** What came out of the warehouse in this session. */
  readonly leaving: Leaving;
  /** Whether an answer of the warehouse is waited for. */
  readonly waits: boolean;
  readonly landing: Landing;
  readonly loader: Loader;
  /** Exact rows and last change of a table, counted anew only when something was written since. */
  readonly facts: (table: TableReference, purpose: string) => Promise<TableFacts>;
  /** Gives this session the name of its owner, and ends sessions that an earlier one with that name has left. */
  readonly takeOver: (owner: string) => Promise<void>;
  /**
   * Counts what came out of the warehouse in another way than as the answer to a statement, or says what kind of
   * rows an answer was.
   */
  readonly leave: (more: Partial<Leaving>) => void;
  /** Ends the statement that this session is running. */
  readonly cancel: () => Promise<void>;
  /** Gives the session back; one that failed is closed, so that nothing of it is left. */
  readonly release: (destroy?: boolean) => void;
}
