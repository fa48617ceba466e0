import type { ValueType } from "../../value-type";

/** What a quick look at a table found of one column. */
export interface ColumnOutline {
  readonly name: string;
  readonly type: ValueType;
  /** The type as the warehouse writes it. */
  readonly declared: string;
  /** Rows without a value, of those that were looked at. */
  readonly missing: number;
  /** Different values, of the rows that were looked at closely. */
  readonly distinct: number;
}

/** What a quick look at a table found: enough to propose how a pipeline begins. */
export interface TableOutline {
  /** Rows that were looked at for gaps. */
  readonly rows: number;
  /** Whether those are all rows that there are. */
  readonly whole: boolean;
  /** Rows that were looked at for different values; the first of them. */
  readonly close: number;
  readonly columns: readonly ColumnOutline[];
  /** Columns that the warehouse itself keeps unique and never missing, the primary key first. */
  readonly keys: readonly (readonly string[])[];
  /** Two columns that name one row together, where no single one does. */
  readonly pair?: readonly [string, string];
}
