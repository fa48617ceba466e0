import type { Metadata } from "next";
import { notFound } from "next/navigation";
import { formatCount } from "@/core/format/numbers";
import { idsText } from "@/server/answer/inputs";
import { appContext } from "@/server/context";
import { seenAmong } from "@/server/import-request";
import { importsById } from "@/store/imports";
import { PageLink } from "@/ui/basic/page-link";
import { PageTitle } from "@/ui/basic/page-title";
import { SeveralDesk } from "@/ui/import/several-desk";

export const metadata: Metadata = { title: "Import files" };

interface Props {
  readonly searchParams: Promise<{ readonly ids?: string; readonly left?: string }>;
}

/** Several files that were sent together, on their way into tables. */
export default async function SeveralPage({ searchParams }: Props) {
  const { ids = "", left } = await searchParams;
  const wanted = idsText.safeParse(ids);
  if (!wanted.success) notFound();
  const { store, warehouse } = await appContext();
  const { importSchema } = warehouse.config;
  const [rows, tables] = await Promise.all([importsById(store.db, wanted.data), warehouse.catalog.tables()]);
  const first = wanted.data.flatMap((id) => rows.filter((row) => row.id === id).map(seenAmong));
  if (first.length === 0) notFound();
  return (
    <div className="page pb-16">
      <PageTitle title={formatCount(first.length, "file")}>
        <PageLink href="/tables/import">Import</PageLink>
        {left ? ` · skipped in the archive: ${left}` : ""}
      </PageTitle>
      <SeveralDesk
        first={first}
        importSchema={importSchema}
        known={tables.filter(({ schema }) => schema === importSchema).map(({ table }) => table)}
      />
    </div>
  );
}
