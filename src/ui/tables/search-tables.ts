export interface CatalogEntry {
  readonly schema: string;
  readonly table: string;
  readonly kind: "table" | "view";
  readonly bytes: number;
  readonly rows: number | null;
  readonly estimate: number | null;
  readonly changedAt: string | null;
  readonly description: string | null;
  readonly columns: readonly { readonly name: string; readonly description: string | null }[];
  /** Pipelines that read it, and that write it. */
  readonly reads: readonly string[];
  readonly writes: readonly string[];
}

/** Why a table was found: columns whose name or description holds what was searched. */
interface Found {
  readonly entry: CatalogEntry;
  readonly columns: readonly { readonly name: string; readonly description: string | null }[];
}

/** Tables in whose name, description or columns every word of a search occurs. */
export function search(entries: readonly CatalogEntry[], wanted: string): readonly Found[] {
  const words = wanted
    .toLowerCase()
    .split(/\s+/)
    .filter((each) => each !== "");
  const holds = (text: string, word: string): boolean => text.toLowerCase().includes(word);
  return entries.flatMap((entry): Found[] => {
    const own = `${entry.schema}.${entry.table} ${entry.description ?? ""} ${[...entry.reads, ...entry.writes].join(" ")}`;
    const columns =
      words.length === 0
        ? []
        : entry.columns.filter((each) =>
            words.some((word) => holds(`${each.name} ${each.description ?? ""}`, word)),
          );
    const everything = `${own} ${columns.map((each) => `${each.name} ${each.description ?? ""}`).join(" ")}`;
    return words.every((word) => holds(everything, word)) ? [{ entry, columns }] : [];
  });
}
