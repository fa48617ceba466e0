"use client";
import { formatBytes, formatNumber } from "@/core/format/numbers";
import { useQueryState } from "nuqs";
import { Empty } from "../basic/empty";
import { ago, moment } from "../basic/format";
import { search, type CatalogEntry } from "./search-tables";
import { PageLink } from "../basic/page-link";

/** All tables by schema, with a search over names, columns and descriptions. */
export function CatalogView({
  entries,
  notes,
  now,
}: {
  readonly entries: readonly CatalogEntry[];
  readonly notes: Readonly<Record<string, string>>;
  readonly now: string;
}) {
  const [wanted, setWanted] = useQueryState("search", { defaultValue: "" });
  const found = search(entries, wanted);
  const schemas = [...new Set(found.map((each) => each.entry.schema))];
  if (entries.length === 0)
    return (
      <Empty title="The warehouse has no tables yet.">
        <PageLink href="/tables/import">Import a file</PageLink>, load some with SQL, or start{" "}
        <code>./ravlen demo</code> for a set to try.
      </Empty>
    );
  return (
    <>
      <label className="mb-5 block max-w-xl">
        <span className="sr-only">Search tables, columns and descriptions</span>
        <input
          type="search"
          value={wanted}
          onChange={(event) => void setWanted(event.target.value === "" ? null : event.target.value)}
          placeholder="Search tables, columns, descriptions, pipelines"
          className="field w-full"
        />
      </label>
      {found.length === 0 && (
        <Empty title="No table, column or description holds that.">Try a part of the word.</Empty>
      )}
      {schemas.map((schema) => (
        <section key={schema} className="mb-8">
          <h2 className="break-words">
            {schema}
            {notes[schema] && <span className="ml-2 text-sm font-normal text-faded">{notes[schema]}</span>}
          </h2>
          <table className="sheet mt-1 table-fixed">
            <thead>
              <tr>
                <th className="w-[22%]">Table</th>
                <th className="number w-[10%]">Rows</th>
                <th className="number w-[8%]">Columns</th>
                <th className="number w-[9%]">Size</th>
                <th className="w-[12%]">Last change</th>
                <th className="w-[17%]">Used by</th>
                <th>What it is</th>
              </tr>
            </thead>
            <tbody>
              {found
                .filter((each) => each.entry.schema === schema)
                .map(({ entry, columns }) => (
                  <tr key={entry.table}>
                    <td className="break-words">
                      <PageLink
                        className="font-medium"
                        href={`/tables/${encodeURIComponent(schema)}/${encodeURIComponent(entry.table)}`}
                      >
                        {entry.table}
                      </PageLink>
                      {entry.kind === "view" && <span className="ml-2 text-faded">view</span>}
                      {columns.length > 0 && (
                        <span className="block text-sm text-faded">
                          {columns
                            .slice(0, 4)
                            .map((each) => each.name)
                            .join(", ")}
                          {columns.length > 4 && ` and ${columns.length - 4} more`}
                        </span>
                      )}
                    </td>
                    <td className="number">
                      {entry.rows !== null
                        ? formatNumber(entry.rows)
                        : entry.estimate === null
                          ? "–"
                          : `about ${formatNumber(Math.round(entry.estimate))}`}
                    </td>
                    <td className="number">{entry.columns.length}</td>
                    <td className="number">{formatBytes(entry.bytes)}</td>
                    <td title={entry.changedAt ? moment(entry.changedAt) : undefined}>
                      {entry.changedAt ? ago(new Date(entry.changedAt), new Date(now)) : "not kept"}
                    </td>
                    <td className="text-sm">
                      {entry.reads.map((each) => (
                        <PageLink
                          key={each}
                          className="block truncate"
                          href={`/pipelines/${encodeURIComponent(each)}/braid`}
                          title={`${each} reads it`}
                        >
                          {each}
                        </PageLink>
                      ))}
                      {entry.writes.map((each) => (
                        <PageLink
                          key={each}
                          className="block truncate"
                          href={`/pipelines/${encodeURIComponent(each)}/deliver`}
                          title={`${each} writes it`}
                        >
                          written by {each}
                        </PageLink>
                      ))}
                    </td>
                    <td className="text-faded">{entry.description}</td>
                  </tr>
                ))}
            </tbody>
          </table>
        </section>
      ))}
    </>
  );
}
