import { whenWarehouseAnswers } from "@/app/when-warehouse-answers";
import type { Metadata } from "next";
import { writeTableName } from "@/core/pipeline/table-name";
import { appContext } from "@/server/context";
import { tableUses } from "@/server/table-uses";
import { listTableFacts } from "@/store/table-facts";
import { PageTitle } from "@/ui/basic/page-title";
import { CatalogView } from "@/ui/tables/catalog-view";
import type { CatalogEntry } from "@/ui/tables/search-tables";
import { listTables, readCatalog } from "@/warehouse/catalog";
import { tableFacts } from "@/warehouse/facts";
import { PageLink } from "@/ui/basic/page-link";

export const metadata: Metadata = { title: "Tables" };

/** A count that takes longer than this is left to the table's own page; the estimate is shown instead. */
const PATIENCE_MILLISECONDS = 1500;

/** All tables of the warehouse. */
export default function TablesPage() {
  return whenWarehouseAnswers(tablesPage);
}

async function tablesPage() {
  const { store, warehouse } = await appContext();
  const [tables, catalog, kept, uses] = await Promise.all([
    listTables(warehouse),
    readCatalog(warehouse),
    listTableFacts(store.db),
    tableUses(),
  ]);
  const facts = await Promise.all(
    tables.map((each) =>
      tableFacts(warehouse, each, (sql, values) => warehouse.read(sql, values, PATIENCE_MILLISECONDS)).catch(
        () => undefined,
      ),
    ),
  );
  const { outputSchema, scratchSchema, importSchema } = warehouse.config;
  const notes: Readonly<Record<string, string>> = {
    [outputSchema]: "predictions are delivered here",
    [scratchSchema]: "scored holdouts are kept here",
    [importSchema]: "files are loaded into tables here",
  };
  const entries = tables.map((table, index): CatalogEntry => {
    const name = writeTableName(table);
    const known = facts[index];
    const own = kept.find((each) => each.schemaName === table.schema && each.tableName === table.table);
    const described = own?.columnDescriptions ?? {};
    const columns =
      catalog.tables.find((each) => each.schema === table.schema && each.table === table.table)?.columns ??
      [];
    return {
      schema: table.schema,
      table: table.table,
      kind: table.kind,
      bytes: table.bytes,
      rows: known?.rows ?? null,
      estimate: table.estimatedRows,
      changedAt: known?.changedAt ?? null,
      description: own?.description ?? table.comment,
      columns: columns.map((each) => ({ name: each.name, description: described[each.name] ?? null })),
      reads: uses.reads.get(name) ?? [],
      writes: uses.writes.get(name) ?? [],
    };
  });
  return (
    <div className="mx-auto max-w-6xl px-5 pb-16">
      <PageTitle
        title="Tables"
        actions={
          <PageLink href="/tables/import" className="press press-main">
            Import a file
          </PageLink>
        }
      >
        {tables.length} tables and views that the reader may see, in{" "}
        {new Set(tables.map((each) => each.schema)).size} schemas.
      </PageTitle>
      <CatalogView entries={entries} notes={notes} now={new Date().toISOString()} />
    </div>
  );
}
