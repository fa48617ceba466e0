interface DescribedColumn {
  readonly name: string;
  readonly description: string | null;
}

/** What a search for tables looks through. */
export interface SearchedTable {
  readonly schema: string;
  readonly table: string;
  readonly description: string | null;
  readonly columns: readonly DescribedColumn[];
  /** Pipelines that read it, and that write it. */
  readonly reads: readonly string[];
  readonly writes: readonly string[];
}

/** A table, and why it was found: columns whose name or description contains what was searched. */
export interface FoundTable<Entry> {
  readonly entry: Entry;
  readonly columns: readonly DescribedColumn[];
}

const columnText = ({ name, description }: DescribedColumn): string => `${name} ${description ?? ""}`;

/** Tables in whose name, description, pipelines or columns every word of a search occurs. */
export function searchTables<Entry extends SearchedTable>(
  entries: readonly Entry[],
  wanted: string,
): readonly FoundTable<Entry>[] {
  const words = wanted
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => word !== "");
  if (words.length === 0) return entries.map((entry) => ({ entry, columns: [] }));
  return entries.flatMap((entry): FoundTable<Entry>[] => {
    const { schema, table, description, reads, writes } = entry;
    const columns = entry.columns.filter((column) => {
      const text = columnText(column).toLowerCase();
      return words.some((word) => text.includes(word));
    });
    const said = [`${schema}.${table}`, description ?? "", ...reads, ...writes, ...columns.map(columnText)];
    const everything = said.join(" ").toLowerCase();
    return words.every((word) => everything.includes(word)) ? [{ entry, columns }] : [];
  });
}
