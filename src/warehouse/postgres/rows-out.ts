import { pipeline, Transform, type Readable } from "node:stream";
import { to as copyTo } from "pg-copy-streams";
import { printRelation } from "./dialect/relation";
import { freeName, hidden } from "@/core/names/hidden";
import { quoteIdentifier, quoteText } from "./dialect/quote";
import { currentAsker } from "../asking";
import type { ExportedRows, Exports } from "../port/exports";
import type { PostgresWarehouse } from "./warehouse";

/** Exports at once. */
export const MOST_EXPORTS = 3;

/** Begins as a formula does in a spreadsheet. */
const FORMULA = quoteText("^[=+@\t\r-]");
const NUMBER = quoteText("^[+-]?[0-9]+([.,][0-9]+)?$");

/** A column of a CSV file: an apostrophe before a text tells spreadsheets to show it and not to reckon. */
function csvColumn(name: string, guarded: readonly string[]): string {
  const column = quoteIdentifier(name);
  if (!guarded.includes(name)) return column;
  const shown = `${column}::text`;
  const isFormula = `${shown} ~ ${FORMULA} AND ${shown} !~ ${NUMBER}`;
  return `CASE WHEN ${isFormula} THEN ${quoteText("'")} || ${shown} ELSE ${shown} END AS ${column}`;
}

/** Longest an export may take before the server ends it, in milliseconds. */
const exportMilliseconds = (): number => 60_000 * (Number(process.env["RAVLEN_EXPORT_MINUTES"]) || 60);
/** An export of which nobody takes a byte for so long is ended, in milliseconds. */
const STALLED_MILLISECONDS = 120_000;

/** Streams rows as PostgreSQL itself writes them: as CSV with a header, or as one JSON object per line. */
export async function streamRows(
  warehouse: PostgresWarehouse,
  select: ExportedRows,
  format: "csv" | "jsonl",
  stalledMilliseconds = STALLED_MILLISECONDS,
): Promise<Readable> {
  const client = await warehouse.exporters.connect();
  try {
    await client.query(`BEGIN READ ONLY; SET LOCAL statement_timeout = ${exportMilliseconds()}`);
    const columns = select.columns.map(quoteIdentifier).join(", ");
    // The name is one that no column has, so that a table with any names can be exported.
    const whole = freeName(hidden("row"), select.columns);
    // JSON has no control characters of its own, so that nothing of it is quoted or escaped once more.
    const sql =
      format === "csv"
        ? `COPY (SELECT ${select.columns.map((name) => csvColumn(name, select.guarded ?? [])).join(", ")} FROM (${printRelation(select.relation, select)}) AS "rows") TO STDOUT (FORMAT csv, HEADER)`
        : `COPY (SELECT row_to_json(${whole})::text FROM (SELECT ${columns} FROM (${printRelation(select.relation, select)}) AS "inner") AS ${whole}) TO STDOUT (FORMAT csv, QUOTE E'\\x01', DELIMITER E'\\x02')`;
    const stream = client.query(copyTo(sql));
    let released = false;
    const release = (error?: Error): void => {
      if (!released) client.release(error ?? false);
      released = true;
    };
    const finish = (): Promise<void> =>
      client.query("COMMIT").then(
        () => release(),
        (error: Error) => release(error),
      );
    stream.once("end", () => void finish());
    stream.once("error", release);
    stream.once("close", () => {
      if (!stream.readableEnded) release(new Error("the client disconnected"));
    });
    return passOn(stream, stalledMilliseconds);
  } catch (error) {
    client.release(error instanceof Error ? error : true);
    throw error;
  }
}

/** Passes a stream on, and ends it when nothing of it has been taken for long. */
function passOn(stream: Readable, most: number): Readable {
  let since = Date.now();
  const passed = new Transform({
    transform(piece: Buffer, _encoding, done) {
      since = Date.now();
      done(null, piece);
    },
  });
  const watch = setInterval(
    () => {
      if (Date.now() - since > most) passed.destroy(new Error("the client stopped reading"));
    },
    Math.min(5000, most / 4),
  );
  watch.unref();
  pipeline(stream, passed, () => clearInterval(watch));
  return passed;
}

/** Rows in pieces, every value as text, in bounded memory. */
async function* pagesOfRows(
  warehouse: PostgresWarehouse,
  select: ExportedRows,
  size: number,
): ReturnType<Exports["pages"]> {
  const client = await warehouse.exporters.connect();
  let whole = false;
  try {
    await client.query(`BEGIN READ ONLY; SET LOCAL statement_timeout = ${exportMilliseconds()}`);
    const columns = select.columns
      .map((name) => `${quoteIdentifier(name)}::text AS ${quoteIdentifier(name)}`)
      .join(", ");
    await client.query(
      `DECLARE "pages" NO SCROLL CURSOR FOR SELECT ${columns} FROM (${printRelation(select.relation, select)}) AS "rows"`,
    );
    for (;;) {
      currentAsker()?.throwIfAborted();
      const { rows } = await client.query(`FETCH ${Math.trunc(size)} FROM "pages"`);
      if (rows.length === 0) break;
      yield rows as readonly Readonly<Record<string, string | null>>[];
    }
    await client.query("COMMIT");
    whole = true;
  } finally {
    client.release(!whole);
  }
}

/** Exports of a warehouse. */
export const exportsOf = (warehouse: PostgresWarehouse): Exports => ({
  most: MOST_EXPORTS,
  running: () => warehouse.exporters.totalCount - warehouse.exporters.idleCount,
  stream: (rows, format) => streamRows(warehouse, rows, format),
  pages: (rows, size) => pagesOfRows(warehouse, rows, size),
});
