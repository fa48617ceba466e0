import type { Delivery } from "@/core/pipeline/operating-schema";
import type { Problem } from "@/core/problem";
import type { Relation, TableReference } from "@/core/relation/relation";
import type { Move, NewerBy } from "../move";

/** A delivery of one run: what its entry in the ledger says. */
export interface DeliveryRun {
  readonly run: string;
  readonly pipeline: string;
  /** What the pipeline was called before, under which it may have delivered too. */
  readonly formerNames: readonly string[];
  readonly delivery: string;
  readonly modelVersion: number;
  readonly runTime: string;
}

export interface LandedRows {
  readonly rows: number;
  /** Rows by table, in the order of the tables. */
  readonly byTable: readonly number[];
  /** Whether an earlier attempt of the same run had already landed them. */
  readonly before: boolean;
}

/** Rows that could not be predicted: how many, and the keys of a few. */
export interface UnansweredRows {
  readonly rows: number;
  readonly examples: readonly string[];
}

/** A column with its type as the warehouse writes it. */
export interface DeclaredColumn {
  readonly name: string;
  readonly type: string;
}

/** Brings staged rows into tables that others read: exactly once, whatever dies meanwhile. */
export interface Landing {
  /** How many rows a run has landed, from the ledger, which is made when it is not there; undefined where none has. */
  readonly landed: (delivery: Pick<DeliveryRun, "run" | "delivery">) => Promise<number | undefined>;
  /**
   * The largest value that has landed of the column a delivery's rows are newer by, as text: whichever run landed
   * it, and whenever. The ledger is there.
   */
  readonly newest: (
    delivery: Pick<DeliveryRun, "pipeline" | "formerNames" | "delivery">,
    newerBy: NewerBy,
  ) => Promise<string | undefined>;
  /** Which of some tables there are. */
  readonly tablesThere: (tables: readonly TableReference[]) => Promise<readonly TableReference[]>;
  /**
   * The columns that a relation would have, with the types that the warehouse gives them; no row is computed.
   * @param scratch a scratch table, for a moment
   */
  readonly columnsOf: (relation: Relation, scratch: TableReference) => Promise<readonly DeclaredColumn[]>;
  /**
   * Judges a table that is there before rows go into it. Problems: target_misfit, with the statement that mends it
   * where one does.
   */
  readonly judge: (
    table: TableReference,
    columns: readonly DeclaredColumn[],
    rule: Pick<Move, "key" | "mode" | "partition">,
  ) => Promise<void>;
  /** Takes rows without a prediction out of the staged ones. */
  readonly leaveOutUnanswered: (stage: TableReference, key: readonly string[]) => Promise<UnansweredRows>;
  /**
   * Checks staged rows before anything is moved: every prediction there, every key complete. Problems:
   * rows_unscored, key_missing.
   * @returns how many rows there are
   */
  readonly checkStage: (stage: TableReference, key: readonly string[], of: Delivery["of"]) => Promise<number>;
  /** The problem of staged rows that share a key, or undefined when none do. */
  readonly repeatedKeys: (stage: TableReference, key: readonly string[]) => Promise<Problem | undefined>;
  /**
   * Makes a prediction table when it does not exist, with the staged columns' types, or judges the one that is
   * there. Problems: target_misfit.
   * @returns whether the table itself refuses a key that comes twice in one run
   */
  readonly prepare: (table: TableReference, move: Omit<Move, "tables">, comment: string) => Promise<boolean>;
  /**
   * Moves staged rows into their tables together with the ledger's entry: readers see all of it or nothing. A run
   * that has landed before changes nothing, however often it is retried. Problems: key_repeats, target_refuses.
   */
  readonly land: (move: Move, delivery: DeliveryRun) => Promise<LandedRows>;
}

export interface LedgerEntry {
  readonly run: string;
  readonly pipeline: string;
  readonly delivery: string;
  readonly table: string;
  readonly modelVersion: number;
  readonly runTime: Date;
  readonly rows: number;
  /** Rows by table, where a delivery has routes; empty for entries of earlier versions. */
  readonly byTable: Readonly<Record<string, number>>;
  readonly landedAt: Date;
}

/** What has landed, as it is written beside the prediction tables. */
export interface Ledger {
  /** The newest entry of every prediction table, the table that landed last first. */
  readonly newestOfTables: () => Promise<readonly LedgerEntry[]>;
  /**
   * The newest entry of every delivery, of a pipeline by all names that it has or had, or of all; none before the
   * first delivery.
   */
  readonly newestOfDeliveries: (pipeline?: {
    readonly name: string;
    readonly formerNames: readonly string[];
  }) => Promise<readonly LedgerEntry[]>;
  /** The tables into which a run delivered, those of routes too; none while the warehouse does not answer. */
  readonly tablesOfRun: (run: string) => Promise<readonly string[]>;
}
