import { parseTableName, writeTableName } from "@/core/pipeline/table-name";
import { sourceTable } from "@/core/plan/check-strands";
import { listPipelines, newestVersion } from "@/store/pipelines";
import { appContext } from "./context";
import { parseFile } from "@/runs/parse-file";

/** Which pipelines read a table, and which write it: by table name, in their newest versions. */
export interface TableUses {
  readonly reads: ReadonlyMap<string, readonly string[]>;
  readonly writes: ReadonlyMap<string, readonly string[]>;
}

export async function tableUses(): Promise<TableUses> {
  const { store } = await appContext();
  const reads = new Map<string, string[]>();
  const writes = new Map<string, string[]>();
  const add = (into: Map<string, string[]>, table: string, pipeline: string): void => {
    const known = into.get(table) ?? [];
    if (!known.includes(pipeline)) into.set(table, [...known, pipeline]);
  };
  for (const pipeline of await listPipelines(store.db)) {
    const version = await newestVersion(store.db, pipeline.id);
    const parsed = version && (await parseFile(version.text));
    if (!parsed?.ok) continue;
    for (const strand of parsed.value.file.strands) {
      const source = sourceTable(strand);
      if (source) add(reads, writeTableName(source), pipeline.name);
    }
    for (const delivery of parsed.value.file.delivery) {
      const target = parseTableName(delivery.table);
      if (target) add(writes, writeTableName(target), pipeline.name);
    }
  }
  return { reads, writes };
}
