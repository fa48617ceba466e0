import { randomUUID } from "node:crypto";
import { createReadStream } from "node:fs";
import { mkdir, rm } from "node:fs/promises";
import path from "node:path";
import { Readable } from "node:stream";
import { formatNumber } from "@/core/format/numbers";
import { problem, ProblemError } from "@/core/problem";
import { temporaryFolder } from "@/runs/context";
import { exportToFile, selectOf, type ExportFormat, type ExportSource } from "@/runs/export/export-rows";
import type { Warehouse } from "@/warehouse/port/warehouse";

const TYPES: Readonly<Record<ExportFormat, string>> = {
  csv: "text/csv; charset=utf-8",
  jsonl: "application/x-ndjson",
  parquet: "application/vnd.apache.parquet",
};

/** The type of a pipeline file (RFC 9512). */
export const YAML = "application/yaml; charset=utf-8";

/** The header that lets a browser keep what comes as a file of a name. */
export const attachedAs = (name: string): string =>
  `attachment; filename="${name.replaceAll(/[^\w.-]+/g, "_")}"; filename*=UTF-8''${encodeURIComponent(name)}`;

/** A stream as a file to keep. */
export function download(stream: Readable, name: string, type: string): Response {
  return new Response(Readable.toWeb(stream) as ReadableStream, {
    headers: {
      "content-type": type,
      "content-disposition": attachedAs(name),
    },
  });
}

/** Refuses a further export where as many run as may. */
function checkTurn({ exports }: Warehouse): void {
  if (exports.running() < exports.most) return;
  throw new ProblemError(
    problem(
      "exports_busy",
      `${formatNumber(exports.most)} exports are already running.`,
      "Wait until one of them ends. Nothing was written.",
    ),
  );
}

/** What can be asked for: a format, and whether texts are written exactly. */
export const DOWNLOADS = ["csv", "csv-exact", "jsonl", "parquet"] as const;
export type DownloadFormat = (typeof DOWNLOADS)[number];

/** All rows of a source as a file to keep. Text formats stream; Parquet needs its end before its beginning is of use, and goes through a file. */
export async function downloadRows(
  warehouse: Warehouse,
  asked: ExportSource,
  wanted: DownloadFormat,
  name: string,
): Promise<Response> {
  checkTurn(warehouse);
  const source = { ...asked, exact: wanted === "csv-exact" };
  const format = wanted === "csv-exact" ? "csv" : wanted;
  if (format !== "parquet")
    return download(
      await warehouse.exports.stream(selectOf(source), format),
      `${name}.${format}`,
      TYPES[format],
    );
  const folder = temporaryFolder();
  await mkdir(folder, { recursive: true, mode: 0o700 });
  const file = path.join(folder, `${randomUUID()}.parquet`);
  await exportToFile(warehouse, source, "parquet", file);
  const stream = createReadStream(file);
  stream.once("close", () => void rm(file, { force: true }));
  return download(stream, `${name}.parquet`, TYPES.parquet);
}
