"use client";
import { useState } from "react";
import { scoreOnDemand } from "@/server/operating-actions";
import { ActButton } from "../basic/act";
import { PageLink } from "../basic/page-link";

interface Props {
  readonly pipeline: string;
  readonly disabled: boolean;
  /** The source of the main strand, whose columns a table has to have. */
  readonly like: string;
  readonly tables: readonly string[];
  /** Columns that are there after the last step, those of the key left out. */
  readonly columns: readonly string[];
}

/** Scores a table chosen now into a table of its own. */
export function OnDemandPanel({ pipeline, disabled, like, tables, columns }: Props) {
  const [table, setTable] = useState("");
  const [into, setInto] = useState("");
  const [allUnseen, setAllUnseen] = useState(false);
  const [kept, setKept] = useState<readonly string[]>([]);
  return (
    <section aria-label="On demand" className="mt-8">
      <h2>On demand</h2>
      <p className="text-sm text-faded">
        Scores all rows of a table you choose. The table needs the columns of {like} from which the features
        are computed, with the same types; if it has the target too, the run reports which predictions are
        right. Predictions are written to a new table, which can be viewed and downloaded. To score a file,{" "}
        <PageLink href="/tables/import">import it</PageLink> first. For a single row, use <i>Try a row</i>.
      </p>
      <div className="mt-2 flex flex-wrap items-end gap-3">
        <label className="text-sm">
          Rows of
          <select
            className="field mt-0.5 block min-w-56"
            value={table}
            onChange={(event) => setTable(event.target.value)}
          >
            <option value="">choose a table</option>
            {tables.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </label>
        <label className="text-sm">
          Into
          <input
            className="field mt-0.5 block w-72"
            value={into}
            placeholder="a new table, named by time"
            onChange={(event) => setInto(event.target.value)}
          />
        </label>
        <ActButton
          disabled={disabled || table === ""}
          act={() =>
            scoreOnDemand({
              pipeline,
              table,
              into,
              columns: [...kept],
              allUnseen: allUnseen ? "warn" : "stop",
            })
          }
          goTo={(id) => `/runs/${String(id)}`}
        >
          Score these rows
        </ActButton>
      </div>
      {table !== "" && (
        <label className="mt-2 flex items-center gap-1.5 text-sm">
          <input type="checkbox" checked={allUnseen} onChange={() => setAllUnseen(!allUnseen)} />
          Score even if all values of a column are unseen
        </label>
      )}
      {table !== "" && columns.length > 0 && (
        <fieldset className="mt-2 text-sm">
          <legend className="text-faded">Passed through with the key</legend>
          <div className="flex flex-wrap gap-x-4 gap-y-1">
            {columns.map((name) => (
              <label key={name} className="flex items-center gap-1.5">
                <input
                  type="checkbox"
                  checked={kept.includes(name)}
                  onChange={() =>
                    setKept(kept.includes(name) ? kept.filter((each) => each !== name) : [...kept, name])
                  }
                />
                {name}
              </label>
            ))}
          </div>
        </fieldset>
      )}
    </section>
  );
}
