import type { Metadata } from "next";
import { whenWarehouseAnswers } from "@/app/when-warehouse-answers";
import { appContext } from "@/server/context";
import { PAGE_ROWS, readListRequest } from "@/server/list-request";
import { listSchemas, tablePage } from "@/server/table-list";
import { Empty } from "@/ui/basic/empty";
import { ListPages, ListSearch } from "@/ui/basic/list-tools";
import { PageLink } from "@/ui/basic/page-link";
import { PageTitle } from "@/ui/basic/page-title";
import { CatalogView } from "@/ui/tables/catalog-view";

export const metadata: Metadata = { title: "Tables" };

interface Props {
  readonly searchParams: Promise<Readonly<Record<string, string | string[] | undefined>>>;
}

/** All tables of the warehouse. */
export default function TablesPage(props: Props) {
  return whenWarehouseAnswers(() => tablesPage(props));
}

async function tablesPage({ searchParams }: Props) {
  const context = await appContext();
  const schemas = await listSchemas(context);
  const asked = readListRequest(await searchParams, schemas);
  const { entries, all } = await tablePage(context, { ...asked, schema: asked.filter, limit: PAGE_ROWS });
  const { outputSchema, scratchSchema, importSchema } = context.warehouse.config;
  const notes: Readonly<Record<string, string>> = {
    [outputSchema]: "prediction tables",
    [scratchSchema]: "scored holdouts",
    [importSchema]: "imported files",
  };
  const place = { path: "/tables", ...asked };
  const isNarrowed = asked.words !== "" || asked.filter !== undefined;
  return (
    <div className="page pb-16">
      <PageTitle
        title="Tables"
        actions={
          <PageLink href="/tables/import" className="press press-main">
            Import a file
          </PageLink>
        }
      >
        Tables and views the reader role can read. Search covers names, columns, descriptions and pipelines.
      </PageTitle>
      {all === 0 && !isNarrowed ? (
        <Empty title="No tables in the warehouse yet.">
          <PageLink href="/tables/import">Import a file</PageLink>, create some with SQL, or start{" "}
          <code>./ravlen demo</code> for sample data.
        </Empty>
      ) : (
        <ListSearch
          place={place}
          what="tables"
          filters={Object.fromEntries(schemas.map((schema) => [schema, `in ${schema}`]))}
        />
      )}
      <CatalogView entries={entries} notes={notes} now={new Date().toISOString()} />
      {(all > 0 || isNarrowed) && <ListPages place={place} all={all} rows={PAGE_ROWS} one="table" />}
    </div>
  );
}
