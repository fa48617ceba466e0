import { Fragment } from "react";
import { formatNumber } from "@/core/format/numbers";
import type { LedgerEntry } from "@/warehouse/port/landing";
import { ago, moment } from "../basic/format";
import { PageLink } from "../basic/page-link";
import { tableHref } from "../basic/table-href";
import { firstFew, ShowAll, type WholePart } from "./first-few";
import { Sheet } from "../basic/sheet";

/** The newest delivery of every prediction table; none is known while the warehouse does not answer. */
export function FreshTable({
  newest,
  time,
  whole,
}: {
  readonly newest: readonly LedgerEntry[] | undefined;
  readonly time: Date;
  readonly whole: WholePart | undefined;
}) {
  const tables = newest ?? [];
  return (
    <section aria-label="Prediction freshness">
      <h2>Prediction freshness</h2>
      {tables.length === 0 ? (
        <p className="mt-1 text-faded">
          {newest
            ? "Nothing delivered yet. Put a version in service and score."
            : "Unknown while the warehouse is unreachable."}
        </p>
      ) : (
        <Sheet className="mt-1">
          <thead>
            <tr>
              <th>Table</th>
              <th>As of</th>
              <th>Landed</th>
              <th className="number">Rows</th>
            </tr>
          </thead>
          <tbody>
            {firstFew(tables, "predictions", whole).map((entry) => (
              <tr key={entry.table}>
                <td className="wrap-anywhere">
                  <PageLink className="font-medium" href={tableHref(entry.table) ?? "/tables"}>
                    <BreakableName name={entry.table} />
                  </PageLink>
                  <br />
                  <span className="text-faded">
                    {entry.pipeline}
                    {entry.modelVersion > 0 && `, version ${entry.modelVersion}`}
                  </span>
                </td>
                <td className="whitespace-nowrap">
                  {ago(entry.runTime, time)}
                  <br />
                  <span className="text-faded">{moment(entry.runTime)}</span>
                </td>
                <td>
                  <PageLink href={`/runs/${entry.run}`}>{ago(entry.landedAt, new Date())}</PageLink>
                </td>
                <td className="number">{formatNumber(entry.rows)}</td>
              </tr>
            ))}
          </tbody>
        </Sheet>
      )}
      <ShowAll all={tables.length} part="predictions" whole={whole} />
    </section>
  );
}

/** A table's name that breaks between its words before it breaks inside one. */
function BreakableName({ name }: { readonly name: string }) {
  return name.split(/(?<=[._])/).map((word, index) => (
    <Fragment key={index}>
      {word}
      <wbr />
    </Fragment>
  ));
}
