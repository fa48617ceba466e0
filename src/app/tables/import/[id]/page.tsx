import { formatBytes } from "@/core/format/numbers";
import type { Metadata } from "next";
import { notFound } from "next/navigation";
import { appContext } from "@/server/context";
import { importFromRequest, seen } from "@/server/import-request";

import { PageTitle } from "@/ui/basic/page-title";
import { ImportDesk } from "@/ui/import/import-desk";
import { writeTableName } from "@/core/pipeline/table-name";
import { tableUses } from "@/server/table-uses";
import { PageLink } from "@/ui/basic/page-link";

export const metadata: Metadata = { title: "Import" };

export default async function ImportPage({ params }: { readonly params: Promise<{ id: string }> }) {
  const row = await importFromRequest((await params).id);
  if (!row) notFound();
  const context = await appContext();
  const { warehouse } = context;
  const { importSchema } = warehouse.config;
  const [tables, { reads }] = await Promise.all([warehouse.catalog.tables(), tableUses(context)]);
  const known = tables
    .filter(({ schema }) => schema === importSchema)
    .map(({ schema, table }) => ({
      name: table,
      readers: reads.get(writeTableName({ schema, table })) ?? [],
    }));
  return (
    <div className="page pb-16">
      <PageTitle title={row.name}>
        <PageLink href="/tables/import">Import</PageLink> · {formatBytes(row.bytes)}
      </PageTitle>
      <ImportDesk first={seen(row)} importSchema={importSchema} known={known} />
    </div>
  );
}
