import { formatBytes, formatNumber } from "@/core/format/numbers";
import type { SeenAmong } from "@/server/import-request";
import { PageLink } from "../basic/page-link";
import { Problems } from "../basic/problems";

interface Props {
  readonly row: SeenAmong;
  readonly importSchema: string;
  readonly taken: boolean;
  /** The table that it goes into. */
  readonly table: string;
  /** The table of all files, where this one does not name it. */
  readonly fixed: string | undefined;
  readonly trouble: string | undefined;
  readonly place: number;
  readonly onTable: (table: string) => void;
  readonly onTake: (take: boolean) => void;
}

const WORDS: Readonly<Record<SeenAmong["state"], string>> = {
  looking: "analysing",
  looked: "analysed",
  loading: "loading",
  done: "loaded",
  failed: "failed",
  cancelled: "cancelled",
};

/** One of several files: what was found, where it goes, and how far it is. */
export function SeveralRow(props: Props) {
  const { row, taken, trouble, place, onTake } = props;
  const { look, state } = row;
  return (
    <>
      <tr className={taken ? "" : "text-faded"}>
        <td>
          <input
            type="checkbox"
            aria-label={`Load ${row.name}`}
            checked={taken}
            disabled={state !== "looked"}
            onChange={(event) => onTake(event.target.checked)}
          />
        </td>
        <td className="max-w-72 truncate" title={row.name}>
          {row.name}
        </td>
        <td className="number">{look ? formatNumber(look.rows) : ""}</td>
        <td className="number">{look ? formatNumber(look.choices.columns.length) : ""}</td>
        <td>
          <Target {...props} />
        </td>
        <td>
          <State row={row} />
        </td>
        <td className="whitespace-nowrap">
          <RowLinks row={row} importSchema={props.importSchema} />
        </td>
      </tr>
      {(trouble !== undefined || row.problems.length > 0) && (
        <tr>
          <td />
          <td colSpan={6} id={`trouble-${place}`} className="border-t-0 pt-0">
            {trouble !== undefined && taken && <span className="text-caption text-madder">{trouble}</span>}
            <Problems problems={row.problems} />
          </td>
        </tr>
      )}
    </>
  );
}

function Target({ row, table, fixed, trouble, place, importSchema, onTable }: Props) {
  if (row.state !== "looked") return row.table ?? "";
  if (fixed !== undefined) return <span className="text-faded">{fixed}</span>;
  return (
    <span className="flex items-center">
      <span className="figure pr-1 text-faded">{importSchema}.</span>
      <input
        aria-label={`Table of ${row.name}`}
        className="field w-52"
        value={table}
        aria-invalid={trouble !== undefined}
        aria-describedby={`trouble-${place}`}
        onChange={(event) => onTable(event.target.value)}
      />
    </span>
  );
}

function State({ row }: { readonly row: SeenAmong }) {
  const { state, bytes, doneBytes, doneRows, rejected, look, name } = row;
  if (state !== "looking" && state !== "loading")
    return (
      <>
        {WORDS[state]}
        {state === "done" ? `: ${formatNumber(doneRows)} rows` : ""}
        {rejected > 0 ? <span className="text-madder">, {formatNumber(rejected)} rejected</span> : null}
        {state === "looked" && look && look.broken > 0 ? (
          <span className="text-madder">, {formatNumber(look.broken)} rows cannot be read</span>
        ) : null}
      </>
    );
  return (
    <span className="text-caption text-faded">
      <progress
        aria-label={`${WORDS[state]} ${name}`}
        className="mr-2 w-28 align-middle"
        max={Math.max(1, bytes)}
        value={doneBytes}
      />
      {WORDS[state]}, {formatBytes(doneBytes)} of {formatBytes(bytes)}
    </span>
  );
}

function RowLinks({ row, importSchema }: Pick<Props, "row" | "importSchema">) {
  if (row.state === "done")
    return (
      <>
        <PageLink href={`/tables/${encodeURIComponent(importSchema)}/${encodeURIComponent(row.table ?? "")}`}>
          open
        </PageLink>
        {", "}
        <PageLink href={`/pipelines/new?table=${encodeURIComponent(`${importSchema}.${row.table ?? ""}`)}`}>
          new pipeline
        </PageLink>
      </>
    );
  return row.state === "looked" ? <PageLink href={`/tables/import/${row.id}`}>details</PageLink> : null;
}
