import { parseTableName } from "@/core/pipeline/table-name";
import { fetchJson } from "../queries/fetch-json";

/** A column that can be completed. */
export interface OfferedColumn {
  readonly name: string;
  readonly declared: string;
  readonly table: string;
}

const FROM_LINE = /^\s*(?:-\s+)?from:\s*(\S.*?)\s*$/gm;
const known = new Map<string, Promise<readonly OfferedColumn[]>>();

/** The columns of a table, asked once; none where there is no such table (yet). */
function columnsOf(name: string): Promise<readonly OfferedColumn[]> {
  const earlier = known.get(name);
  if (earlier) return earlier;
  const parsed = parseTableName(name);
  if (!parsed) return Promise.resolve([]);
  const query = new URLSearchParams({ schema: parsed.schema, table: parsed.table });
  const asked = fetchJson<readonly Omit<OfferedColumn, "table">[]>(`/api/tables/columns?${query}`)
    .then((columns) => columns.map((column) => ({ ...column, table: parsed.table })))
    .catch(() => {
      known.delete(name);
      return [];
    });
  known.set(name, asked);
  return asked;
}

/** The columns of all tables from which strands of a file begin. */
export async function columnsOfFile(text: string): Promise<readonly OfferedColumn[]> {
  const tables = [...text.matchAll(FROM_LINE)].map(([, name]) => name!);
  return (await Promise.all([...new Set(tables)].map(columnsOf))).flat();
}
