import type { Readable } from "node:stream";
import type { Relation } from "@/core/relation/relation";

/** Rows that leave the warehouse whole. */
export interface ExportedRows {
  readonly relation: Relation;
  /** The logical time, as an ISO 8601 text with offset. */
  readonly runTime: string;
  readonly columns: readonly string[];
  /** Columns of texts in which what a spreadsheet would take for a formula is marked as text, in CSV. */
  readonly guarded?: readonly string[];
}

/** Whole tables that are handed out, however slowly somebody takes them: questions never wait for them. */
export interface Exports {
  /** How many may run at once. */
  readonly most: number;
  /** How many run now. */
  readonly running: () => number;
  /** Streams rows as CSV with a header, or as one JSON object per line. */
  readonly stream: (rows: ExportedRows, format: "csv" | "jsonl") => Promise<Readable>;
  /** Rows in pieces of a size, every value as text, in bounded memory. */
  readonly pages: (
    rows: ExportedRows,
    size: number,
  ) => AsyncGenerator<readonly Readonly<Record<string, string | null>>[]>;
}
