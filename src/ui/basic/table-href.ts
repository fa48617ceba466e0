import { parseTableName } from "@/core/pipeline/table-name";

/** Where a table is shown, given its name as people write it; undefined for what is no name of a table. */
export function tableHref(name: string): string | undefined {
  const reference = parseTableName(name);
  return (
    reference && `/tables/${encodeURIComponent(reference.schema)}/${encodeURIComponent(reference.table)}`
  );
}
