"use client";
import { useState } from "react";
import { severalTroubles, tableNameOf, whyApart, type SeveralFile } from "@/core/files/several";
import type { Choices } from "@/core/files/look";
import { formatCount, formatNumber } from "@/core/format/numbers";
import { startLoads } from "@/server/import-actions";
import type { SeenAmong } from "@/server/import-request";
import { PageLink } from "../basic/page-link";
import { tellProblems } from "../basic/tell-problems";
import { useAction } from "../basic/use-action";
import { SeveralRow } from "./several-row";
import { useImports } from "./use-import";
import { HiddenHead } from "../basic/hidden-head";
import { Sheet } from "../basic/sheet";

interface Props {
  readonly first: readonly SeenAmong[];
  readonly importSchema: string;
  /** Names of the tables that are there. */
  readonly known: readonly string[];
}

type Looked = SeenAmong & { readonly look: NonNullable<SeenAmong["look"]> };
const isLooked = (seen: SeenAmong): seen is Looked => seen.look !== null;
const isBusy = ({ state }: SeenAmong): boolean => state === "looking" || state === "loading";

/** Several files on their way into tables: each into one of its own, or all of them into one. */
export function SeveralDesk({ first, importSchema, known }: Props) {
  const { rows, refresh } = useImports(first);
  const [names, setNames] = useState<Readonly<Record<string, string>>>({});
  const [without, setWithout] = useState<ReadonlySet<string>>(new Set());
  const [together, setTogether] = useState(false);
  const [misfits, setMisfits] = useState<Choices["misfits"]>("stop");
  const [busy, ask] = useAction();
  const open = rows.filter(({ id, state }) => !without.has(id) && state === "looked").filter(isLooked);
  const files = open.map(({ id, name, look }): SeveralFile => ({
    name,
    look,
    table: names[id] ?? tableNameOf(name),
  }));
  const apart = whyApart(files);
  const troubles = severalTroubles(files, together, known);
  const troubleOf = (id: string): string | undefined => troubles[open.findIndex((row) => row.id === id)];
  const ready = files.length > 0 && !rows.some(({ state }) => state === "looking");
  const stopped = troubles.find((trouble) => trouble !== undefined) ?? (together ? apart : undefined);
  const load = async (): Promise<void> => {
    const chosen = open.map(({ id }, place) => ({ id, table: files[place]!.table }));
    const outcome = await ask(() => startLoads({ files: chosen, together, misfits }));
    if (!outcome.ok) return tellProblems(outcome.problems);
    refresh();
  };
  const done = rows.filter(({ state }) => state === "done");
  return (
    <div>
      <Sheet aria-label="Files">
        <thead>
          <tr>
            <th>Load</th>
            <th>File</th>
            <th className="number">Rows</th>
            <th className="number">Columns</th>
            <th>Into</th>
            <th>State</th>
            <HiddenHead name="Links" />
          </tr>
        </thead>
        <tbody>
          {rows.map((row, place) => (
            <SeveralRow
              key={row.id}
              row={row}
              importSchema={importSchema}
              taken={!without.has(row.id)}
              table={names[row.id] ?? tableNameOf(row.name)}
              fixed={together && open[0]?.id !== row.id ? (files[0]?.table ?? "") : undefined}
              trouble={troubleOf(row.id)}
              place={place}
              onTable={(table) => setNames((now) => ({ ...now, [row.id]: table }))}
              onTake={(take) =>
                setWithout((now) => new Set(take ? [...now].filter((id) => id !== row.id) : [...now, row.id]))
              }
            />
          ))}
        </tbody>
      </Sheet>
      {files.length > 0 && (
        <section aria-label="Destination" className="mt-4 flex flex-wrap items-center gap-x-6 gap-y-2">
          <label className="flex items-center gap-1.5">
            <input type="radio" name="where" checked={!together} onChange={() => setTogether(false)} />
            one table per file
          </label>
          <label className="flex items-center gap-1.5" title={apart}>
            <input
              type="radio"
              name="where"
              checked={together}
              disabled={apart !== undefined || files.length < 2}
              onChange={() => setTogether(true)}
            />
            all into one table
          </label>
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={misfits === "reject"}
              onChange={(event) => setMisfits(event.target.checked ? "reject" : "stop")}
            />
            reject invalid rows and save them to a file
          </label>
          <button
            type="button"
            className="press press-main"
            disabled={busy || !ready || stopped !== undefined}
            onClick={() => void load()}
          >
            Load {formatCount(files.length, "file")},{" "}
            {formatCount(
              open.reduce((sum, { look }) => sum + look.rows, 0),
              "row",
            )}
          </button>
          <p role="status" className="w-full text-caption text-faded">
            {apart !== undefined && files.length > 1 ? `They cannot be loaded into one table: ${apart}` : ""}
            {together ? "The table has no key, because keys may repeat across files." : ""}
          </p>
        </section>
      )}
      {done.length > 0 && !rows.some(isBusy) && (
        <p role="status" className="mt-5 text-section font-medium">
          {formatNumber(done.reduce((sum, { doneRows }) => sum + doneRows, 0))} rows of{" "}
          {formatCount(done.length, "file")} are loaded.{" "}
          <PageLink href="/tables" className="text-body font-normal">
            Open the tables
          </PageLink>
        </p>
      )}
    </div>
  );
}
