import type { Metadata } from "next";
import Link from "next/link";
import { appContext } from "@/server/context";
import { Empty } from "@/ui/basic/empty";
import { ago, bytes, count, moment } from "@/ui/basic/format";
import { PageTitle } from "@/ui/basic/page-title";
import { listTables } from "@/warehouse/catalog";
import { tableFacts } from "@/warehouse/facts";

export const metadata: Metadata = { title: "Tables" };

/** A count that takes longer than this is left to the table's own page; the estimate is shown instead. */
const PATIENCE_MILLISECONDS = 1500;

export default async function TablesPage() {
  const context = await appContext();
  const tables = await listTables(context.warehouse);
  const facts = await Promise.all(tables.map((each) => tableFacts(context.warehouse, each, (sql, values) => context.warehouse.read(sql, values, PATIENCE_MILLISECONDS)).catch(() => undefined)));
  const schemas = [...new Set(tables.map((each) => each.schema))];
  const now = new Date();
  return (
    <div className="mx-auto max-w-6xl px-5 pb-16">
      <PageTitle title="Tables">{tables.length} tables and views that the reader may see, in {schemas.length} schemas.</PageTitle>
      {tables.length === 0 && <Empty title="The warehouse has no tables yet.">Load some with SQL, or start <code>./ravlen demo</code> for a set to try.</Empty>}
      {schemas.map((schema) => (
        <section key={schema} className="mb-8">
          <h2 className="break-words">{schema}{schema === context.warehouse.config.outputSchema && <span className="ml-2 text-sm font-normal text-faded">predictions are delivered here</span>}{schema === context.warehouse.config.scratchSchema && <span className="ml-2 text-sm font-normal text-faded">scored holdouts are kept here</span>}</h2>
          <table className="sheet mt-1 table-fixed">
            <thead><tr><th className="w-[24%]">Table</th><th className="number w-[12%]">Rows</th><th className="number w-[9%]">Columns</th><th className="number w-[10%]">Size</th><th className="w-[15%]">Last change</th><th>What it is</th></tr></thead>
            <tbody>
              {tables.map((table, index) => {
                if (table.schema !== schema) return null;
                const known = facts[index];
                return (
                  <tr key={table.table}>
                    <td className="break-words"><Link className="font-medium" href={`/tables/${encodeURIComponent(schema)}/${encodeURIComponent(table.table)}`}>{table.table}</Link>{table.kind === "view" && <span className="ml-2 text-faded">view</span>}</td>
                    <td className="number">{known ? count(known.rows) : table.estimatedRows === null ? "–" : `about ${count(Math.round(table.estimatedRows))}`}</td>
                    <td className="number">{table.columns}</td>
                    <td className="number">{bytes(table.bytes)}</td>
                    <td title={known?.changedAt ? moment(known.changedAt) : undefined}>{known?.changedAt ? ago(new Date(known.changedAt), now) : "not kept"}</td>
                    <td className="text-faded">{table.comment}</td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </section>
      ))}
    </div>
  );
}
