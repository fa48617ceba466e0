import { createWriteStream } from "node:fs";
import { rm } from "node:fs/promises";
import { pipeline } from "node:stream/promises";
import type { SchemaElement } from "hyparquet";
import { fileWriter, ParquetWriter } from "hyparquet-writer";
import { isInteger, isMoment, isNumber, type ValueType } from "@/core/value-type";
import type { Relation } from "@/core/relation/relation";
import type { ExportedRows } from "@/warehouse/port/exports";
import type { Warehouse } from "@/warehouse/port/warehouse";

export const EXPORT_FORMATS = ["csv", "jsonl", "parquet"] as const;
export type ExportFormat = (typeof EXPORT_FORMATS)[number];

/** What is exported: rows, and the types of their columns. */
export interface ExportSource {
  readonly relation: Relation;
  /** The logical time, as an ISO 8601 text with offset, where the rows depend on it. */
  readonly runTime?: string;
  readonly columns: readonly { readonly name: string; readonly type: ValueType }[];
  /** Texts go into a CSV file as they are, also those that a spreadsheet would take for a formula. */
  readonly exact?: boolean;
}

/** Whether a column's values are texts, which may hold anything. */
const isText = (type: ValueType): boolean => ["text", "json", "other"].includes(type);

/** The rows of a source, for a format as text. */
export const selectOf = ({
  relation,
  runTime = new Date().toISOString(),
  columns,
  exact = false,
}: ExportSource): ExportedRows => ({
  relation,
  runTime,
  columns: columns.map((column) => column.name),
  guarded: exact ? [] : columns.filter((column) => isText(column.type)).map((column) => column.name),
});

const GROUP_ROWS = 50_000;

/** Writes all rows of a source into a file. A file that could not be finished is removed. */
export async function exportToFile(
  warehouse: Warehouse,
  source: ExportSource,
  format: ExportFormat,
  file: string,
): Promise<void> {
  try {
    if (format === "parquet") await writeParquet(warehouse, source, file);
    else await pipeline(await warehouse.exports.stream(selectOf(source), format), createWriteStream(file));
  } catch (error) {
    await rm(file, { force: true });
    throw error;
  }
}

function elementOf(name: string, type: ValueType): SchemaElement {
  const element = { name, repetition_type: "OPTIONAL" } as const;
  if (type === "boolean") return { ...element, type: "BOOLEAN" };
  if (type === "smallint" || type === "integer") return { ...element, type: "INT32" };
  if (type === "bigint") return { ...element, type: "INT64" };
  // Exact numbers of any length have no like in Parquet; doubles hold what learners use.
  if (isNumber(type)) return { ...element, type: "DOUBLE" };
  if (type === "date") return { ...element, type: "INT32", converted_type: "DATE" };
  if (isMoment(type)) return { ...element, type: "INT64", converted_type: "TIMESTAMP_MILLIS" };
  return { ...element, type: "BYTE_ARRAY", converted_type: type === "json" ? "JSON" : "UTF8" };
}

/** A moment as ISO 8601, from the text that the database wrote. */
function isoText(text: string, type: ValueType): string {
  if (type === "date") return `${text}T00:00:00Z`;
  const joined = text.replace(" ", "T");
  return type === "timestamptz" ? joined.replace(/([+-]\d{2})$/, "$1:00") : `${joined}Z`;
}

/** A value as the writer wants it, from the text that the database wrote. */
function valueOf(text: string | null, type: ValueType): unknown {
  if (text === null) return undefined;
  if (type === "boolean") return text === "true" || text === "t";
  if (type === "bigint") return BigInt(text);
  if (isInteger(type) || isNumber(type)) return Number(text);
  if (isMoment(type)) {
    // Infinite moments are none that a file can hold.
    const moment = new Date(isoText(text, type));
    return Number.isNaN(moment.getTime()) ? undefined : moment;
  }
  return type === "json" ? (JSON.parse(text) as unknown) : text;
}

async function writeParquet(warehouse: Warehouse, source: ExportSource, file: string): Promise<void> {
  const schema: SchemaElement[] = [
    { name: "root", num_children: source.columns.length },
    ...source.columns.map((column) => elementOf(column.name, column.type)),
  ];
  const writer = new ParquetWriter({ writer: fileWriter(file), schema, createdBy: "Ravlen" });
  for await (const rows of warehouse.exports.pages(selectOf(source), GROUP_ROWS)) {
    await writer.write({
      columnData: source.columns.map(({ name, type }) => ({
        name,
        data: rows.map((row) => valueOf(row[name] ?? null, type)),
      })),
      rowGroupSize: GROUP_ROWS,
    });
  }
  await writer.finish();
}
