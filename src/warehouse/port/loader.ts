import type { Writable } from "node:stream";
import type { Choices } from "@/core/files/look";
import type { TableDefinition } from "@/core/files/table-definition";
import type { TableReference } from "@/core/relation/relation";

/** Takes bytes of rows; once it has ended, says how many rows there were. */
export type RowSink = Writable & { readonly rowCount: number | null };

/** Loads rows of files into tables. */
export interface Loader {
  /** Does the work of one load: all of it is there afterwards, or nothing. */
  readonly load: <Result>(work: (load: Load) => Promise<Result>) => Promise<Result>;
}

/** One load under way. */
export interface Load {
  /**
   * Makes ready what rows are written into: a new table, the table that will take the place of an old one, or the
   * table that is added to. Two loads into one table do not run at once. Problems: import_running, table_exists,
   * unknown_table, columns_do_not_fit.
   */
  readonly prepare: (target: TableReference, choices: Choices) => Promise<TableReference>;
  /**
   * After the rows: key, and the new table in the place of the old one. Problems: key_repeats, key_missing,
   * table_in_use.
   * @param into what rows were written into
   */
  readonly finish: (target: TableReference, into: TableReference, choices: Choices) => Promise<void>;
  /** Makes tables in the import schema as they are defined, without references between them. */
  readonly define: (tables: readonly TableDefinition[]) => Promise<void>;
  /** Adds the references that definitions make, once the rows are there. */
  readonly addReferences: (tables: readonly TableDefinition[]) => Promise<void>;
  /** Takes a CSV file as it is, of which an empty field is a missing value. */
  readonly csvInto: (
    into: TableReference,
    columns: readonly string[],
    text: NonNullable<Choices["text"]>,
  ) => RowSink;
  /** Takes rows as lines of fields that `copyField` (core/files/convert-value) has written, with tabs between them. */
  readonly linesInto: (into: TableReference, columns: readonly string[]) => RowSink;
}
