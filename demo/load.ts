import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import type pg from "pg";
import { from as copyFrom } from "pg-copy-streams";
import { quoteIdentifier, quoteTable, quoteText } from "@/warehouse/postgres/dialect/quote";
import { TABLES, type Cell, type GeneratedTable } from "./tables";
import { makeWorld, type World } from "./world";

export const DEMO_SCHEMA = "larkmere";
export const DEMO_SEED = 20260630;
const CHUNK_ROWS = 2000;

function cell(value: Cell): string {
  if (value === null) return "\\N";
  if (value instanceof Date) return value.toISOString();
  if (typeof value === "boolean") return value ? "t" : "f";
  return String(value)
    .replaceAll("\\", "\\\\")
    .replaceAll("\t", "\\t")
    .replaceAll("\n", "\\n")
    .replaceAll("\r", "\\r");
}

function* chunksOf(rows: Iterable<readonly Cell[]>): Iterable<string> {
  let lines: string[] = [];
  for (const row of rows) {
    lines.push(row.map(cell).join("\t"));
    if (lines.length < CHUNK_ROWS) continue;
    yield `${lines.join("\n")}\n`;
    lines = [];
  }
  if (lines.length > 0) yield `${lines.join("\n")}\n`;
}

async function loadTable(
  client: pg.Client,
  schema: string,
  table: GeneratedTable,
  seed: number,
  scale: number,
  world: World,
): Promise<void> {
  const name = quoteTable({ schema, table: table.name });
  await client.query(
    `CREATE TABLE ${name} (${table.columns.map(([column, definition]) => `${quoteIdentifier(column)} ${definition}`).join(", ")})`,
  );
  await client.query(`COMMENT ON TABLE ${name} IS ${quoteText(table.comment)}`);
  await pipeline(
    Readable.from(chunksOf(table.rows(seed, scale, world))),
    client.query(copyFrom(`COPY ${name} FROM STDIN`)),
  );
}

/**
 * Makes the demo's source tables in one transaction: all are there, or none.
 * @param scale 1 gives about 60,000 parcels
 */
export async function loadDemo(
  client: pg.Client,
  options: { readonly schema?: string; readonly seed?: number; readonly scale: number },
): Promise<void> {
  const { schema = DEMO_SCHEMA, seed = DEMO_SEED, scale } = options;
  const world = makeWorld(seed, scale);
  await client.query("BEGIN");
  try {
    await client.query(`DROP SCHEMA IF EXISTS ${quoteIdentifier(schema)} CASCADE`);
    await client.query(`CREATE SCHEMA ${quoteIdentifier(schema)}`);
    for (const table of TABLES) await loadTable(client, schema, table, seed, scale, world);
    await client.query("COMMIT");
  } catch (error) {
    await client.query("ROLLBACK");
    throw error;
  }
  for (const table of TABLES) await client.query(`ANALYZE ${quoteTable({ schema, table: table.name })}`);
}
