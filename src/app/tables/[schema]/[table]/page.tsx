import type { Metadata } from "next";
import Link from "next/link";
import { notFound } from "next/navigation";
import { isNumber } from "@/core/value-type";
import { appContext } from "@/server/context";
import { tableFromNames } from "@/server/tables";
import { bytes, count, moment } from "@/ui/basic/format";
import { PageTitle } from "@/ui/basic/page-title";
import { ColumnSummaries } from "@/ui/tables/column-summaries";
import { RowGrid } from "@/ui/tables/row-grid";
import { listKeys, listTables } from "@/warehouse/catalog";
import { tableFacts } from "@/warehouse/facts";

interface Props {
  readonly params: Promise<{ schema: string; table: string }>;
}

const names = async (props: Props) => {
  const { schema, table } = await props.params;
  return { schema: decodeURIComponent(schema), table: decodeURIComponent(table) };
};

export async function generateMetadata(props: Props): Promise<Metadata> {
  return { title: (await names(props)).table };
}

export default async function TablePage(props: Props) {
  const { schema, table } = await names(props);
  const { warehouse } = await appContext();
  const found = await tableFromNames(warehouse, schema, table);
  if (!found) notFound();
  const [keys, facts, listing] = await Promise.all([listKeys(warehouse, schema, table), tableFacts(warehouse, found), listTables(warehouse)]);
  const known = listing.find((each) => each.schema === schema && each.table === table);
  const columns = found.columns.map((each) => ({
    name: each.name, type: each.type, declared: each.declared,
    keys: keys.filter((key) => key.columns.includes(each.name)).map((key) => (key.columns.length > 1 ? `part of the ${key.kind}` : key.target ? `points to ${key.target}` : key.kind)),
  }));
  return (
    <div className="mx-auto max-w-6xl px-5 pb-16">
      <PageTitle title={<>{table} <span className="text-lg font-normal text-faded">in <Link href="/tables">{schema}</Link></span></>}>
        {known?.comment && <>{known.comment} </>}{count(facts.rows)} rows, {found.columns.length} columns, {bytes(known?.bytes ?? 0)}{facts.changedAt && `, last changed ${moment(facts.changedAt)}`}.
      </PageTitle>
      <section aria-label="Rows">
        <RowGrid name={`Rows of ${table}`} source={`/api/tables/rows?schema=${encodeURIComponent(schema)}&table=${encodeURIComponent(table)}`} total={facts.rows} height={320} columns={found.columns.map((each) => ({ name: each.name, type: each.declared, numeric: isNumber(each.type), ...(each.type === "timestamptz" ? { width: 240 } : {}) }))} />
      </section>
      <section aria-label="Columns" className="mt-8">
        <h2>Columns</h2>
        <ColumnSummaries schema={schema} table={table} columns={columns} />
      </section>
    </div>
  );
}
