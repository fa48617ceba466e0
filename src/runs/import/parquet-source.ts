import {
  asyncBufferFromFile,
  parquetMetadataAsync,
  parquetReadObjects,
  parquetSchema,
  type SchemaTree,
} from "hyparquet";
import { compressors } from "hyparquet-compressors";
import type { LoadedType } from "@/core/files/look";
import { fieldOf } from "./json-source";
import type { Batch, OpenRows } from "./text-source";

/** The type of a column as the file itself declares it. */
function declaredType({ element, children }: SchemaTree): LoadedType {
  if (children.length > 0 || element.repetition_type === "REPEATED") return "jsonb";
  const logical = element.logical_type?.type;
  const converted = element.converted_type;
  if (logical === "DECIMAL" || converted === "DECIMAL") return "numeric";
  if (logical === "DATE" || converted === "DATE") return "date";
  if (
    logical === "TIMESTAMP" ||
    converted === "TIMESTAMP_MILLIS" ||
    converted === "TIMESTAMP_MICROS" ||
    element.type === "INT96"
  )
    return "timestamptz";
  if (logical === "TIME" || converted === "TIME_MILLIS" || converted === "TIME_MICROS") return "bigint";
  if (logical === "JSON" || converted === "JSON") return "jsonb";
  switch (element.type) {
    case "BOOLEAN":
      return "boolean";
    case "INT32":
      return converted === "UINT_32" ? "bigint" : "integer";
    case "INT64":
      return "bigint";
    case "FLOAT":
    case "DOUBLE":
      return "double precision";
    default:
      return "text";
  }
}

function textOf(value: unknown, type: LoadedType): string | null {
  if (value === null || value === undefined) return null;
  if (value instanceof Date) return type === "date" ? value.toISOString().slice(0, 10) : value.toISOString();
  if (value instanceof Uint8Array) return `\\x${Buffer.from(value).toString("hex")}`;
  if (typeof value === "bigint") return value.toString();
  if (typeof value === "object")
    return JSON.stringify(value, (_, inner: unknown) => (typeof inner === "bigint" ? Number(inner) : inner));
  return type === "jsonb" ? JSON.stringify(value) : fieldOf(value);
}

/** Reads a Parquet file, one row group at a time. */
export async function openParquet(
  file: string,
): Promise<OpenRows & { readonly declared: readonly LoadedType[] }> {
  const buffer = await asyncBufferFromFile(file);
  const metadata = await parquetMetadataAsync(buffer);
  const columns = parquetSchema(metadata).children.map((child) => ({
    name: child.element.name,
    type: declaredType(child),
  }));
  async function* batches(): AsyncGenerator<Batch> {
    let start = 0;
    for (const group of metadata.row_groups) {
      const end = start + Number(group.num_rows);
      const objects = await parquetReadObjects({
        file: buffer,
        metadata,
        rowStart: start,
        rowEnd: end,
        compressors,
      });
      const first = start;
      yield {
        rows: objects.map((object, index) => ({
          line: first + index + 1,
          values: columns.map(({ name, type }) => textOf(object[name], type)),
        })),
        broken: [],
        bytes: Math.round((buffer.byteLength * end) / Math.max(1, Number(metadata.num_rows))),
      };
      start = end;
    }
  }
  return {
    headings: () => columns.map((column) => column.name),
    declared: columns.map((column) => column.type),
    batches: batches(),
  };
}
