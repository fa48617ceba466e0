"use client";
import { Plus, X } from "lucide-react";
import type { Schedule } from "@/core/pipeline/operating-schema";
import { FormLine } from "../basic/form-dialog";
import type { ScheduleFacts } from "./schedule-draft";

type Wait = NonNullable<Schedule["wait"]>;

interface Props {
  readonly wait: Wait | undefined;
  readonly sources: ScheduleFacts["sources"];
  readonly onChange: (wait: Wait | undefined) => void;
}

const STANDARD_MINUTES = 60;

/** Sources that have to be fresh before a run begins, and until when it waits for them. */
export function WaitFields({ wait, sources, onChange }: Props) {
  const list = wait?.for ?? [];
  const put = (next: Wait["for"]): void =>
    onChange(next.length === 0 ? undefined : { for: next, until: wait?.until ?? STANDARD_MINUTES });
  const change = (at: number, part: Partial<Wait["for"][number]>): void =>
    put(list.map((each, index) => (index === at ? { ...each, ...part } : each)));
  const timed = sources.filter((each) => each.times.length > 0);
  const next = timed.find((each) => !list.some((one) => one.table === each.table)) ?? timed[0];
  return (
    <FormLine label="waits for" {...(wait ? {} : { says: "Nothing: it runs at its time." })}>
      {list.map((each, index) => (
        <div key={index} className="mb-1.5 flex items-center gap-2">
          <select
            aria-label={`Table ${index + 1}`}
            className="field"
            value={each.table}
            onChange={(event) =>
              change(index, {
                table: event.target.value,
                column:
                  sources.find((source) => source.table === event.target.value)?.times[0] ?? each.column,
              })
            }
          >
            {[...new Set([...timed.map((source) => source.table), each.table])].map((table) => (
              <option key={table}>{table}</option>
            ))}
          </select>
          <span className="text-faded">until its newest</span>
          <select
            aria-label={`Column of times ${index + 1}`}
            className="field"
            value={each.column}
            onChange={(event) => change(index, { column: event.target.value })}
          >
            {[
              ...new Set([
                ...(sources.find((source) => source.table === each.table)?.times ?? []),
                each.column,
              ]),
            ].map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
          <span className="text-faded">is at most</span>
          <input
            aria-label={`Minutes ${index + 1}`}
            type="number"
            min={0}
            className="field figure w-24"
            value={each.within}
            onChange={(event) => change(index, { within: Number(event.target.value) })}
          />
          <span className="text-faded">minutes old</span>
          <button
            type="button"
            aria-label={`Remove wait for ${each.table}`}
            className="press press-quiet px-1"
            onClick={() => put(list.filter((_, at) => at !== index))}
          >
            <X size={13} />
          </button>
        </div>
      ))}
      {wait && (
        <p className="mb-1.5">
          until{" "}
          <input
            aria-label="Minutes it waits"
            type="number"
            min={1}
            max={10080}
            className="field figure w-24"
            value={wait.until}
            onChange={(event) => onChange({ ...wait, until: Number(event.target.value) })}
          />{" "}
          minutes after its time; then the run fails and an alert opens.
        </p>
      )}
      {next && (
        <button
          type="button"
          className="press press-quiet px-1 text-sm"
          onClick={() =>
            put([...list, { table: next.table, column: next.times[0]!, within: STANDARD_MINUTES }])
          }
        >
          <Plus size={13} aria-hidden />
          source
        </button>
      )}
    </FormLine>
  );
}
