import { parseTableName, writeTableName } from "@/core/pipeline/table-name";
import type { PipelineFile } from "@/core/pipeline/schema";
import { sourceTable } from "@/core/plan/check-strands";
import type { Context } from "@/runs/context";
import { parseFile } from "@/runs/parse-file";
import type { Database } from "@/store/database";
import { keepTables, newestTables, type NewestTables } from "@/store/file-tables";
import type { TablesOfFile } from "@/store/schema/pipelines";

/** Which pipelines read a table, and which write it: by table name, in their newest versions. */
export interface TableUses {
  readonly reads: ReadonlyMap<string, readonly string[]>;
  readonly writes: ReadonlyMap<string, readonly string[]>;
}

const NO_TABLES: TablesOfFile = { reads: [], writes: [] };

function tablesOfFile({ strands, delivery }: PipelineFile): TablesOfFile {
  const reads = strands.flatMap((strand) => sourceTable(strand) ?? []);
  const writes = delivery.flatMap(({ table }) => parseTableName(table) ?? []);
  return {
    reads: [...new Set(reads.map(writeTableName))],
    writes: [...new Set(writes.map(writeTableName))],
  };
}

/** What a version says, read once and then kept. */
async function tablesOf(db: Database, { versionId, tables, text }: NewestTables): Promise<TablesOfFile> {
  if (tables !== null || text === null) return tables ?? NO_TABLES;
  const parsed = await parseFile(text);
  if (!parsed.ok) return NO_TABLES;
  const found = tablesOfFile(parsed.value.file);
  await keepTables(db, versionId, found);
  return found;
}

/** Reads which tables the pipelines use. */
export async function tableUses({ store }: Pick<Context, "store">): Promise<TableUses> {
  const reads = new Map<string, string[]>();
  const writes = new Map<string, string[]>();
  const add = (into: Map<string, string[]>, table: string, pipeline: string): void => {
    into.set(table, [...(into.get(table) ?? []), pipeline]);
  };
  for (const version of await newestTables(store.db)) {
    const tables = await tablesOf(store.db, version);
    for (const table of tables.reads) add(reads, table, version.pipeline);
    for (const table of tables.writes) add(writes, table, version.pipeline);
  }
  return { reads, writes };
}
