"use client";
import { Plus, X } from "lucide-react";
import type { Schedule } from "@/core/pipeline/operating-schema";
import { FormLine } from "../basic/form-dialog";
import type { ScheduleFacts } from "./schedule-draft";
import { Select } from "../select/select";

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
    put(list.map((awaited, index) => (index === at ? { ...awaited, ...part } : awaited)));
  const timed = sources.filter((awaited) => awaited.times.length > 0);
  const next = timed.find((awaited) => !list.some((one) => one.table === awaited.table)) ?? timed[0];
  return (
    <FormLine label="waits for" {...(wait ? {} : { says: "Nothing: it runs at its time." })}>
      {list.map((awaited, index) => (
        <div key={index} className="mb-1.5 flex items-center gap-2">
          <Select
            label={`Table ${index + 1}`}
            value={awaited.table}
            options={[...new Set([...timed.map((source) => source.table), awaited.table])]}
            onChange={(table) =>
              change(index, {
                table,
                column: sources.find((source) => source.table === table)?.times[0] ?? awaited.column,
              })
            }
          />
          <span className="text-faded">until its newest</span>
          <Select
            label={`Column of times ${index + 1}`}
            value={awaited.column}
            options={[
              ...new Set([
                ...(sources.find((source) => source.table === awaited.table)?.times ?? []),
                awaited.column,
              ]),
            ]}
            onChange={(column) => change(index, { column })}
          />
          <span className="text-faded">is at most</span>
          <input
            aria-label={`Minutes ${index + 1}`}
            type="number"
            min={0}
            className="field figure w-24"
            value={awaited.within}
            onChange={(event) => change(index, { within: Number(event.target.value) })}
          />
          <span className="text-faded">minutes old</span>
          <button
            type="button"
            aria-label={`Remove wait for ${awaited.table}`}
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
          className="press press-quiet px-1 text-caption"
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
