import { formatNumber } from "@/core/format/numbers";
import { isNumber } from "@/core/value-type";
import type { CatalogTable } from "@/core/plan/catalog";

import { tableHref } from "../basic/table-href";
import { ExportMenu } from "../tables/export-menu";
import { RowGrid } from "../tables/row-grid";
import { PageLink } from "../basic/page-link";

interface Props {
  /** The table that was chosen. */
  readonly from: string;
  /** The table of its predictions; undefined while it is not there, or when somebody has dropped it. */
  readonly into: CatalogTable | undefined;
  readonly rows: number;
  /** How the predictions turned out, in a line; where the rows have their answers. */
  readonly answers: string | undefined;
}

/** What came of rows that were scored on demand: to look at, and to download. */
export function OnDemandRows({ from, into, rows, answers }: Props) {
  if (!into) return <p className="mb-5">{from}, scored on demand. Its prediction table no longer exists.</p>;
  const query = `schema=${encodeURIComponent(into.schema)}&table=${encodeURIComponent(into.table)}`;
  const name = `${into.schema}.${into.table}`;
  return (
    <section aria-label="Predictions" className="mb-6">
      <div className="mb-1 flex items-baseline gap-4">
        <h2>Predictions</h2>
        <span className="text-caption text-faded">
          {formatNumber(rows)} rows of {from}, in{" "}
          <PageLink href={tableHref(name) ?? "/tables"}>{name}</PageLink>
        </span>
        <span className="ml-auto">
          <ExportMenu name={`Export ${into.table}`} href={`/api/export/table?${query}`} />
        </span>
      </div>
      {answers && <p className="mb-2 text-caption">{answers}.</p>}
      <RowGrid
        name="Predictions"
        source={`/api/tables/rows?${query}`}
        total={rows}
        height={260}
        columns={into.columns.map((column) => ({
          name: column.name,
          type: column.declared,
          numeric: isNumber(column.type),
          ...(column.type === "timestamptz" ? { width: 240 } : {}),
        }))}
      />
    </section>
  );
}
