"use client";
import { Plus, X } from "lucide-react";
import type { Delivery } from "@/core/pipeline/operating-schema";
import { FormLine } from "../basic/form-dialog";
import { Select } from "../select/select";
import { labelledOptions } from "../select/options";

type Receiver = Delivery["hand_over"][number];

const FORMATS = { csv: "CSV", jsonl: "JSON lines", parquet: "Parquet" } as const;

/** Where the rows of a run, or the news of them, go beside the tables. */
export function HandOverFields({
  receivers,
  onChange,
}: {
  readonly receivers: readonly Receiver[];
  readonly onChange: (receivers: Receiver[]) => void;
}) {
  const put = (at: number, receiver: Receiver): void =>
    onChange(receivers.map((target, index) => (index === at ? receiver : target)));
  return (
    <FormLine
      label="receivers"
      {...(receivers.length > 0
        ? {
            says: "A file appears in the folder once it is complete; a web address is notified of every landing until it responds with success.",
          }
        : {})}
    >
      {receivers.map((target, index) => (
        <div key={index} className="mb-1.5 flex items-center gap-2">
          {"folder" in target ? (
            <>
              <span className="text-faded">the folder</span>
              <input
                aria-label={`Folder ${index + 1}`}
                className="field figure w-56"
                value={target.folder}
                placeholder="such as night-desk"
                onChange={(event) => put(index, { ...target, folder: event.target.value })}
              />
              <Select
                label={`Format of folder ${index + 1}`}
                value={target.format}
                options={labelledOptions(FORMATS)}
                onChange={(format) => put(index, { ...target, format })}
              />
            </>
          ) : (
            <>
              <span className="text-faded">the address</span>
              <input
                aria-label={`Address ${index + 1}`}
                className="field figure w-96"
                value={target.webhook}
                placeholder="such as https://…"
                onChange={(event) => put(index, { webhook: event.target.value })}
              />
            </>
          )}
          <button
            type="button"
            aria-label={`Remove receiver ${index + 1}`}
            className="press press-quiet px-1"
            onClick={() => onChange(receivers.filter((_, at) => at !== index))}
          >
            <X size={13} />
          </button>
        </div>
      ))}
      <button
        type="button"
        className="press press-quiet px-1 text-caption"
        onClick={() => onChange([...receivers, { folder: "", format: "csv" }])}
      >
        <Plus size={13} aria-hidden />
        folder
      </button>
      <button
        type="button"
        className="press press-quiet px-1 text-caption"
        onClick={() => onChange([...receivers, { webhook: "" }])}
      >
        <Plus size={13} aria-hidden />
        web address
      </button>
    </FormLine>
  );
}
