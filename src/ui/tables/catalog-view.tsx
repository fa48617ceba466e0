import { figureColumn } from "@/core/format/align-figures";
import { NumberCell } from "../basic/number-cell";
import { formatBytes, formatNumber } from "@/core/format/numbers";
import type { CountedTable } from "@/server/table-list";
import { ago, moment } from "../basic/format";
import { PageLink } from "../basic/page-link";
import { Sheet } from "../basic/sheet";

/** Rows of a table: counted, or as the warehouse estimates them. */
function rowsOf({ rows, entry }: CountedTable): string {
  if (rows !== null) return formatNumber(rows);
  return entry.estimate === null ? "–" : `about ${formatNumber(Math.round(entry.estimate))}`;
}

/** Tables by schema. */
export function CatalogView({
  entries,
  notes,
  now,
}: {
  readonly entries: readonly CountedTable[];
  readonly notes: Readonly<Record<string, string>>;
  readonly now: string;
}) {
  const size = figureColumn(
    entries.map(({ entry }) => entry),
    ({ bytes }) => formatBytes(bytes),
  );
  const schemas = [...new Set(entries.map(({ entry }) => entry.schema))];
  return (
    <>
      {schemas.map((schema) => (
        <section key={schema} className="mb-8">
          <h2 className="break-words">
            {schema}
            {notes[schema] && (
              <span className="ml-2 text-caption font-normal text-faded">{notes[schema]}</span>
            )}
          </h2>
          <Sheet className="mt-1 table-fixed">
            <thead>
              <tr>
                <th className="w-[22%]">Table</th>
                <th className="number w-[10%]">Rows</th>
                <th className="number w-[8%]">Columns</th>
                <th className="number w-[9%]">Size</th>
                <th className="w-[12%]">Last change</th>
                <th className="w-[17%]">Used by</th>
                <th>Description</th>
              </tr>
            </thead>
            <tbody>
              {entries
                .filter(({ entry }) => entry.schema === schema)
                .map(({ entry, columns, rows, changedAt }) => (
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
                        <span className="block text-caption text-faded">
                          {columns
                            .slice(0, 4)
                            .map(({ name }) => name)
                            .join(", ")}
                          {columns.length > 4 && ` and ${columns.length - 4} more`}
                        </span>
                      )}
                    </td>
                    <td className="number">{rowsOf({ entry, columns, rows, changedAt })}</td>
                    <td className="number">{entry.columns.length}</td>
                    <NumberCell figure={size(entry)} />
                    <td title={changedAt ? moment(changedAt) : undefined}>
                      {changedAt ? ago(new Date(changedAt), new Date(now)) : "–"}
                    </td>
                    <td className="text-caption">
                      <UsedBy pipelines={entry.reads} stage="braid" verb="reads" />
                      <UsedBy pipelines={entry.writes} stage="deliver" verb="writes" />
                    </td>
                    <td className="text-faded">{entry.description}</td>
                  </tr>
                ))}
            </tbody>
          </Sheet>
        </section>
      ))}
    </>
  );
}

const MOST_USERS = 4;

/** Pipelines that read or write a table, the first few by name. */
function UsedBy({
  pipelines,
  stage,
  verb,
}: {
  readonly pipelines: readonly string[];
  readonly stage: "braid" | "deliver";
  readonly verb: "reads" | "writes";
}) {
  return (
    <>
      {pipelines.slice(0, MOST_USERS).map((pipeline) => (
        <PageLink
          key={pipeline}
          className="block truncate"
          href={`/pipelines/${encodeURIComponent(pipeline)}/${stage}`}
          title={`${pipeline} ${verb} it`}
        >
          {verb === "writes" && "written by "}
          {pipeline}
        </PageLink>
      ))}
      {pipelines.length > MOST_USERS && (
        <span className="text-faded">and {pipelines.length - MOST_USERS} more</span>
      )}
    </>
  );
}
