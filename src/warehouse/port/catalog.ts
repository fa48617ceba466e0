import type { Catalog } from "@/core/plan/catalog";
import type { TableReference } from "@/core/relation/relation";

export interface TableListing {
  readonly schema: string;
  readonly table: string;
  readonly kind: "table" | "view";
  /** The warehouse's estimate, or null when it has never looked. */
  readonly estimatedRows: number | null;
  readonly bytes: number;
  /** When the warehouse last looked at the rows: the nearest thing to a change date that is known without counting. */
  readonly analysedAt: string | null;
  readonly columns: number;
  readonly comment: string | null;
}

export interface KeyListing {
  readonly kind: "primary key" | "unique" | "foreign key";
  readonly columns: readonly string[];
  /** For a foreign key, what it points to, as the warehouse writes it. */
  readonly target: string | null;
  /** The same as a table with its columns, in the order of the key's own. */
  readonly references: (TableReference & { readonly columns: readonly string[] }) | null;
}

/** What is measured about a table by looking at all its rows. */
export interface TableFacts {
  readonly rows: number;
  /** When its newest row was committed, where the warehouse keeps that; ISO text. */
  readonly changedAt: string | null;
  /** Equal markers mean that nothing was written in between. */
  readonly marker: string;
}

/** What tables there are, as the reader sees them. */
export interface WarehouseCatalog {
  /** Names and types of every table and view that the reader may read; read again only when something changed. */
  readonly read: () => Promise<Catalog>;
  /** Tables and views by schema, or one of them, with what is known about their size. */
  readonly tables: (only?: TableReference) => Promise<readonly TableListing[]>;
  /** Primary, unique and foreign keys of one table. */
  readonly keys: (table: TableReference) => Promise<readonly KeyListing[]>;
  /** Whether a table holds rows of its own, so that blocks of them can be drawn: a view does not. */
  readonly isStored: (table: TableReference) => Promise<boolean>;
  /** Exact rows and last change of a table, counted anew only when something was written since. */
  readonly facts: (table: TableReference, milliseconds?: number) => Promise<TableFacts>;
  /** What is known of tables since nothing was written to them, by one question for all; undefined for the others. */
  readonly keptFacts: (tables: readonly TableReference[]) => Promise<readonly (TableFacts | undefined)[]>;
  /**
   * Cheap, and different after every committed change of a table, but also after one that was rolled back; empty
   * for a view, for a table of another server, and for what is not there.
   */
  readonly changeMarker: (table: TableReference, milliseconds?: number) => Promise<string>;
  /**
   * What a table holds, as everybody sees it who reads what was committed: different after every committed change,
   * and the same after one that was rolled back and after maintenance. One pass over the table.
   */
  readonly contentMarker: (table: TableReference, milliseconds?: number) => Promise<string>;
}
