import { whenWarehouseAnswers } from "@/app/when-warehouse-answers";
import { formatBytes, formatNumber } from "@/core/format/numbers";
import type { Metadata } from "next";
import { notFound } from "next/navigation";
import { findTable } from "@/core/plan/catalog";
import { writeTableName } from "@/core/pipeline/table-name";
import { isNumber } from "@/core/value-type";
import { appContext } from "@/server/context";
import { tableUses } from "@/server/table-uses";
import { profileState } from "@/server/tables";
import { listTableFacts } from "@/store/table-facts";
import { moment } from "@/ui/basic/format";
import { PageTitle } from "@/ui/basic/page-title";
import { EditableWords } from "@/ui/tables/editable-words";
import { ExportMenu } from "@/ui/tables/export-menu";
import { ProfileView, type DescribedColumn } from "@/ui/tables/profile-view";
import { JoinsPanel, PairPanel, TargetPanel } from "@/ui/tables/relations-view";
import { TableTabs } from "@/ui/tables/table-tabs";
import { RowGrid } from "@/ui/tables/row-grid";
import { PageLink } from "@/ui/basic/page-link";

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

/** One table of the warehouse. */
export default function TablePage(props: Props) {
  return whenWarehouseAnswers(() => tablePage(props));
}

async function tablePage(props: Props) {
  const { schema, table } = await names(props);
  const { store, warehouse } = await appContext();
  const found = findTable(await warehouse.catalog.read(), { schema, table });
  if (!found) notFound();
  const [keys, facts, [known], [own], uses] = await Promise.all([
    warehouse.catalog.keys(found),
    warehouse.catalog.facts(found),
    warehouse.catalog.tables(found),
    listTableFacts(store.db, found),
    tableUses({ store }),
  ]);
  const name = writeTableName(found);
  const [reads, writes] = [uses.reads.get(name) ?? [], uses.writes.get(name) ?? []];
  const columns = found.columns.map((column): DescribedColumn => ({
    name: column.name,
    type: column.type,
    declared: column.declared,
    description: own?.columnDescriptions[column.name] ?? null,
    keys: keys
      .filter((key) => key.columns.includes(column.name))
      .map((key) => {
        if (key.columns.length > 1) return `part of the ${key.kind}`;
        if (key.target) return `points to ${key.target}`;
        return key.kind;
      }),
  }));
  const query = `schema=${encodeURIComponent(schema)}&table=${encodeURIComponent(table)}`;
  const about = {
    schema,
    table,
    columns: columns.map((column) => ({ name: column.name, declared: column.declared })),
  };
  return (
    <div className="page pb-16">
      <PageTitle
        title={
          <>
            {table}{" "}
            <span className="text-section font-normal text-faded">
              in <PageLink href="/tables">{schema}</PageLink>
            </span>
          </>
        }
        actions={
          <>
            <PageLink className="press press-main" href={`/pipelines/new?table=${encodeURIComponent(name)}`}>
              New pipeline from this table
            </PageLink>
            <ExportMenu name={`Export ${table}`} href={`/api/export/table?${query}`} />
          </>
        }
      >
        <EditableWords
          schema={schema}
          table={table}
          words={own?.description ?? known?.comment ?? null}
          empty="Add a description"
        />
        <br />
        {formatNumber(facts.rows)} rows, {found.columns.length} columns, {formatBytes(known?.bytes ?? 0)}
        {facts.changedAt && (
          <>
            , last changed <span className="real-time">{moment(facts.changedAt)}</span>
          </>
        )}
        .
        {reads.length > 0 && (
          <>
            {" "}
            Read by{" "}
            {reads.map((name, index) => (
              <span key={name}>
                {index > 0 && ", "}
                <PageLink href={`/pipelines/${encodeURIComponent(name)}/braid`}>{name}</PageLink>
              </span>
            ))}
            .
          </>
        )}
        {writes.length > 0 && (
          <>
            {" "}
            Written by{" "}
            {writes.map((name, index) => (
              <span key={name}>
                {index > 0 && ", "}
                <PageLink href={`/pipelines/${encodeURIComponent(name)}/deliver`}>{name}</PageLink>
              </span>
            ))}
            .
          </>
        )}
      </PageTitle>
      <section aria-label="Rows" className="mb-6">
        <RowGrid
          name={`Rows of ${table}`}
          source={`/api/tables/rows?${query}`}
          total={facts.rows}
          height={280}
          columns={found.columns.map((column) => ({
            name: column.name,
            type: column.declared,
            numeric: isNumber(column.type),
            ...(column.type === "timestamptz" ? { width: 240 } : {}),
          }))}
        />
      </section>
      <TableTabs
        parts={[
          {
            value: "columns",
            name: "Columns",
            content: (
              <ProfileView
                schema={schema}
                table={table}
                columns={columns}
                changedAt={facts.changedAt}
                first={profileState(own)}
              />
            ),
          },
          { value: "pair", name: "Two columns", content: <PairPanel {...about} /> },
          { value: "target", name: "Against a target", content: <TargetPanel {...about} /> },
          { value: "joins", name: "Joins", content: <JoinsPanel {...about} /> },
        ]}
      />
    </div>
  );
}
