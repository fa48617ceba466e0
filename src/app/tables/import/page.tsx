import { formatBytes, formatNumber } from "@/core/format/numbers";
import type { Metadata } from "next";
import { appContext } from "@/server/context";
import { listImports } from "@/store/imports";
import { ago } from "@/ui/basic/format";
import { PageTitle } from "@/ui/basic/page-title";
import { DropZone } from "@/ui/import/drop-zone";
import { PageLink } from "@/ui/basic/page-link";
import { Sheet } from "@/ui/basic/sheet";

export const metadata: Metadata = { title: "Import a file" };

const WORDS = {
  looking: "analysing",
  looked: "analysed, not loaded",
  loading: "loading",
  done: "loaded",
  failed: "failed",
  cancelled: "cancelled",
} as const;

/** Imports that are listed, the newest. */
const MOST_IMPORTS = 100;

export default async function ImportPage() {
  const { store } = await appContext();
  const imports = await listImports(store.db, MOST_IMPORTS);
  const now = new Date();
  return (
    <div className="page pb-16">
      <PageTitle title="Import files">
        <PageLink href="/tables">Tables</PageLink> are created from them, or rows are added to existing
        tables.
      </PageTitle>
      <DropZone />
      {imports.length > 0 && (
        <section className="mt-8" aria-label="Previous imports">
          <h2>Previous imports</h2>
          <Sheet className="mt-1">
            <thead>
              <tr>
                <th>File</th>
                <th className="number">Size</th>
                <th>State</th>
                <th>Table</th>
                <th className="number">Rows</th>
                <th>When</th>
              </tr>
            </thead>
            <tbody>
              {imports.map((importRow) => (
                <tr key={importRow.id}>
                  <td>
                    <PageLink href={`/tables/import/${importRow.id}`}>{importRow.name}</PageLink>
                  </td>
                  <td className="number">{formatBytes(importRow.bytes)}</td>
                  <td>
                    {WORDS[importRow.state]}
                    {importRow.rejected > 0 && importRow.state === "done" && (
                      <span className="text-madder">, {formatNumber(importRow.rejected)} rejected</span>
                    )}
                  </td>
                  <td>{importRow.choices?.table}</td>
                  <td className="number">{formatNumber(importRow.doneRows)}</td>
                  <td>{ago(importRow.createdAt, now)}</td>
                </tr>
              ))}
            </tbody>
          </Sheet>
          {imports.length === MOST_IMPORTS && (
            <p className="text-caption text-faded">Only the latest {MOST_IMPORTS} imports are shown.</p>
          )}
        </section>
      )}
    </div>
  );
}
