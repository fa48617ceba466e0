import { z } from "zod";

/** Types that a column of a file can be loaded as, as PostgreSQL names them. */
export const LOADED_TYPES = [
  "text",
  "smallint",
  "integer",
  "bigint",
  "numeric",
  "double precision",
  "boolean",
  "date",
  "time",
  "timestamp",
  "timestamptz",
  "jsonb",
] as const;
export type LoadedType = (typeof LOADED_TYPES)[number];

export const FILE_FORMATS = ["csv", "jsonl", "parquet", "excel"] as const;
export type FileFormat = (typeof FILE_FORMATS)[number];

/** In which order the parts of a date stand. */
export const DATE_ORDERS = ["ymd", "dmy", "mdy"] as const;
export type DateOrder = (typeof DATE_ORDERS)[number];

/** How the characters of a text file are to be read. */
export const textLookSchema = z.strictObject({
  encoding: z.string(),
  delimiter: z.string().length(1),
  /** The character around values that hold delimiters; empty: none. */
  quote: z.string().max(1),
  header: z.boolean(),
});
export type TextLook = z.infer<typeof textLookSchema>;

/** How values are to be read, whatever the file. */
export const valueLookSchema = z.strictObject({
  decimal: z.enum([".", ","]),
  /** Texts that stand for a missing value. */
  missing: z.array(z.string()).max(50),
});
export type ValueLook = z.infer<typeof valueLookSchema>;

export const columnLookSchema = z.strictObject({
  /** Its place in the file, from 0. */
  place: z.int().min(0),
  /** Its name in the table. */
  name: z.string().min(1),
  type: z.enum(LOADED_TYPES),
  dateOrder: z.enum(DATE_ORDERS).optional(),
  /** Whether it is loaded at all. */
  take: z.boolean(),
});
export type ColumnLook = z.infer<typeof columnLookSchema>;

/** What a person decides before loading; proposed from the whole file, corrected by hand. */
export const choicesSchema = z.strictObject({
  text: textLookSchema.optional(),
  sheet: z.string().optional(),
  values: valueLookSchema,
  columns: z.array(columnLookSchema).min(1).max(20_000),
  key: z.array(z.string()),
  mode: z.enum(["new", "append", "replace"]),
  table: z.string().min(1),
  misfits: z.enum(["stop", "reject"]),
});
export type Choices = z.infer<typeof choicesSchema>;

/** A row that does not fit, with the line it begins on (or the row of a sheet), from 1. */
export interface Misfit {
  readonly line: number;
  readonly reason: string;
  readonly text: string;
}

/** What was found about one column, from all its values. */
export interface ColumnFinding {
  readonly source: string;
  readonly missing: number;
  /** Different values, as far as they were counted. */
  readonly distinct: number;
  readonly distinctIsExact: boolean;
  readonly longest: number;
  readonly examples: readonly string[];
  /** How many values would not fit the proposed type. */
  readonly misfits: number;
  /** What a person should know: looks like an identifier, a category ... */
  readonly hints: readonly string[];
  /** All values, when there are only a few. */
  readonly values?: readonly string[];
  /** How many values could be what: sums of Fits, with how often each occurs. */
  readonly masks: readonly (readonly [number, number])[];
  /** Texts among the values that usually stand for a missing one, with how often each occurs. Looks of before have none. */
  readonly markers?: readonly (readonly [string, number])[];
}

/** Everything that was found in a file. */
export interface FileLook {
  readonly format: FileFormat;
  readonly bytes: number;
  readonly rows: number;
  readonly sheets?: readonly string[];
  readonly choices: Omit<Choices, "table" | "mode" | "misfits">;
  readonly findings: readonly ColumnFinding[];
  /** Rows that cannot be read at all: broken quotes, too few or too many values. How many, and the first of them. */
  readonly broken: number;
  readonly brokenRows: readonly Misfit[];
  readonly notes: readonly string[];
  readonly sample: readonly (readonly (string | null)[])[];
  /** Line breaks, and bytes of a mark at the beginning that are no data; for text. */
  readonly newline?: string;
  readonly skip?: number;
}

/** What a person already decided about how a file is to be read; the rest is found out. */
export const lookWishesSchema = z.strictObject({
  text: textLookSchema.partial().optional(),
  sheet: z.string().optional(),
});
export type LookWishes = z.infer<typeof lookWishesSchema>;
