"use client";
import { valueNotes } from "@/core/files/value-notes";
import { formatDuration, formatNumber } from "@/core/format/numbers";

import { Problems } from "../basic/problems";
import { ImportProgress } from "./import-progress";
import { LookForm } from "./look-form";
import type { KnownTable } from "./use-look-form";
import type { SeenImport } from "@/server/import-request";
import { useImport } from "./use-import";
import { PageLink } from "../basic/page-link";

/** One file on its way into a table. */
export function ImportDesk({
  first,
  importSchema,
  known,
}: {
  readonly first: SeenImport;
  readonly importSchema: string;
  readonly known: readonly KnownTable[];
}) {
  const { row, refresh } = useImport(first.id, first);
  if (row.state === "looking" || row.state === "loading") return <ImportProgress row={row} />;
  if (row.state === "done") return <Loaded row={row} importSchema={importSchema} />;
  return (
    <>
      {row.state === "cancelled" && (
        <p role="status" className="mb-3">
          Cancelled. No rows were loaded.
        </p>
      )}
      {row.look ? (
        <LookForm
          key={`${row.id} ${row.look.choices.text?.delimiter ?? ""} ${row.look.choices.text?.encoding ?? ""} ${row.look.choices.text?.quote ?? ""} ${row.look.choices.text?.header ?? ""} ${row.look.choices.sheet ?? ""}`}
          row={row}
          look={row.look}
          importSchema={importSchema}
          known={known}
          onOrdered={refresh}
        />
      ) : (
        <div className="border-y border-rule py-6">
          <Problems lines problems={row.problems} />
          <p className="mt-4">
            <PageLink href="/tables/import" className="press">
              Choose another file
            </PageLink>
          </p>
        </div>
      )}
    </>
  );
}

function Loaded({ row, importSchema }: { readonly row: SeenImport; readonly importSchema: string }) {
  const table = (row.choices?.table ?? "").replace(`${importSchema}.`, "");
  const seconds =
    row.stageStartedAt && row.finishedAt
      ? (new Date(row.finishedAt).getTime() - new Date(row.stageStartedAt).getTime()) / 1000
      : undefined;
  return (
    <section aria-label="Result" className="border-y border-rule py-8 text-center">
      <p className="text-section font-medium" role="status">
        {formatNumber(row.doneRows)} rows loaded into {importSchema}.{table}.
      </p>
      {seconds !== undefined && <p className="mt-1 text-faded">Time: {formatDuration(1000 * seconds)}.</p>}
      {row.rejected > 0 && (
        <p className="mt-2">
          <span className="text-madder">{formatNumber(row.rejected)} rows were rejected.</span>{" "}
          <a href={`/api/imports/${row.id}/rejects`} download>
            Download rejects
          </a>
        </p>
      )}
      {row.look &&
        row.choices &&
        valueNotes(row.look, row.choices).map((note) => (
          <p key={note} className="mt-2">
            {note}
          </p>
        ))}
      <p className="mt-5 flex justify-center gap-3">
        <PageLink
          className="press press-main"
          href={`/pipelines/new?table=${encodeURIComponent(`${importSchema}.${table}`)}`}
        >
          New pipeline from this table
        </PageLink>
        <PageLink
          className="press"
          href={`/tables/${encodeURIComponent(importSchema)}/${encodeURIComponent(table)}`}
        >
          Open the table
        </PageLink>
        <PageLink className="press" href="/tables/import">
          Import another
        </PageLink>
      </p>
    </section>
  );
}
