import { writeTableName } from "@/core/pipeline/table-name";
import { searchTables, type FoundTable, type SearchedTable } from "@/core/find/search-tables";
import type { Catalog } from "@/core/plan/catalog";
import type { Context } from "@/runs/context";
import { listTableWords, type TableWords } from "@/store/table-facts";
import type { TableFacts, TableListing } from "@/warehouse/port/catalog";
import type { Warehouse } from "@/warehouse/port/warehouse";
import type { ListPage } from "./list-request";
import { tableUses, type TableUses } from "./table-uses";

/** What the list of tables says of one. */
export interface ListedTable extends SearchedTable {
  readonly kind: "table" | "view";
  readonly bytes: number;
  /** PostgreSQL's estimate of its rows. */
  readonly estimate: number | null;
}

/** A table of a page, with its exact rows and last change where these could be told at once. */
export interface CountedTable extends FoundTable<ListedTable> {
  readonly rows: number | null;
  readonly changedAt: string | null;
}

/** What all counts of a page may take together; what is not counted by then is shown as an estimate. */
const COUNTING_MILLISECONDS = 200;
/** A table that is larger is not counted for a list. */
const MOST_COUNTED_BYTES = 256 * 2 ** 20;

const keyOf = ({ schema, table }: { readonly schema: string; readonly table: string }): string =>
  JSON.stringify([schema, table]);

function describe(
  tables: readonly TableListing[],
  { catalog, words, uses }: { catalog: Catalog; words: readonly TableWords[]; uses: TableUses },
): readonly ListedTable[] {
  const columnsOf = new Map(catalog.tables.map((table) => [keyOf(table), table.columns]));
  const wordsOf = new Map(words.map((own) => [keyOf(own), own]));
  return tables.map(({ schema, table, kind, bytes, estimatedRows, comment }) => {
    const own = wordsOf.get(keyOf({ schema, table }));
    const name = writeTableName({ schema, table });
    return {
      schema,
      table,
      kind,
      bytes,
      estimate: estimatedRows,
      description: own?.description ?? comment,
      columns: (columnsOf.get(keyOf({ schema, table })) ?? []).map((column) => ({
        name: column.name,
        description: own?.columnDescriptions[column.name] ?? null,
      })),
      reads: uses.reads.get(name) ?? [],
      writes: uses.writes.get(name) ?? [],
    };
  });
}

/** Exact facts of tables, as far as they are known within the time of a page. */
async function countWithin(
  warehouse: Warehouse,
  tables: readonly ListedTable[],
): Promise<readonly (TableFacts | undefined)[]> {
  const over = new Promise<undefined>((resolve) => void setTimeout(resolve, COUNTING_MILLISECONDS));
  const count = (table: ListedTable): Promise<TableFacts | undefined> =>
    warehouse.catalog.facts(table, COUNTING_MILLISECONDS).catch(() => undefined);
  const kept = await warehouse.catalog.keptFacts(tables);
  return Promise.all(
    tables.map((table, index) =>
      kept[index] || table.bytes > MOST_COUNTED_BYTES ? kept[index] : Promise.race([count(table), over]),
    ),
  );
}

/**
 * Tables by schema and name: those of a page, how many there are, and all schemas. What runs keep for
 * themselves is listed only
 * where its schema is asked for.
 */
export async function tablePage(
  { store, warehouse }: Context,
  wanted: {
    readonly words: string;
    readonly schema: string | undefined;
    readonly offset: number;
    readonly limit: number;
  },
): Promise<ListPage<CountedTable>> {
  const [tables, catalog, words, uses] = await Promise.all([
    warehouse.catalog.tables(),
    warehouse.catalog.read(),
    listTableWords(store.db),
    tableUses({ store }),
  ]);
  const { scratchSchema } = warehouse.config;
  const listed = tables.filter(({ schema }) =>
    wanted.schema === undefined ? schema !== scratchSchema : schema === wanted.schema,
  );
  const found = searchTables(describe(listed, { catalog, words, uses }), wanted.words);
  const shown = found.slice(wanted.offset, wanted.offset + wanted.limit);
  const facts = await countWithin(
    warehouse,
    shown.map(({ entry }) => entry),
  );
  return {
    all: found.length,
    entries: shown.map((one, index) => ({
      ...one,
      rows: facts[index]?.rows ?? null,
      changedAt: facts[index]?.changedAt ?? null,
    })),
  };
}

/** Names of all schemas that hold tables, in order. */
export async function listSchemas({ warehouse }: Context): Promise<readonly string[]> {
  const { tables } = await warehouse.catalog.read();
  return [...new Set(tables.map(({ schema }) => schema))];
}
