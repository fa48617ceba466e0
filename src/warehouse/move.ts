import type { DeliveryMode } from "@/core/pipeline/operating-schema";
import type { TableReference } from "@/core/relation/relation";
import type { ValueType } from "@/core/value-type";

/** Where staged rows go, and how. */
export interface Move {
  readonly stage: TableReference;
  readonly key: readonly string[];
  readonly mode: DeliveryMode;
  /** For the mode partition: rows with the same value here are replaced together. */
  readonly partition?: string | undefined;
  /** A row goes to the table at the position that its hidden column names. */
  readonly tables: readonly TableReference[];
  /** Whose largest value is noted, so that the next run can take what is newer. */
  readonly newerBy?: NewerBy | undefined;
  /** What the tables are from now on, to be said of those that are ours to describe. */
  readonly comment?: string;
  /** Whether only rows land whose key no table holds. */
  readonly onlyNew?: boolean;
}

/** A column that says which rows are newer than others. */
export interface NewerBy {
  readonly column: string;
  readonly type: ValueType;
}
