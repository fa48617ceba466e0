"use client";
import { Dialog } from "radix-ui";
import { useMemo, useState } from "react";
import { toast } from "sonner";
import { fieldDifferences, withTheirs, type FieldDifference } from "@/core/pipeline/edit/merge";
import { Problems } from "../basic/problems";
import { moment } from "../basic/format";
import type { Draft } from "./use-draft";
import { Sheet } from "../basic/sheet";

/** What a field says, in short. */
const wordsOf = (value: unknown): string => {
  if (value === undefined) return "nothing";
  return typeof value === "string" ? value : JSON.stringify(value);
};

/** Two texts of one draft, field by field: what each says, and which of them shall count. */
export function BothTexts({ draft }: { readonly draft: Draft }) {
  const [open, setOpen] = useState(false);
  const { meanwhile, text } = draft;
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger className="press press-main py-0">Compare both</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
        <Dialog.Content
          className="fixed inset-x-0 bottom-0 top-10 z-50 mx-auto flex w-[min(1000px,96vw)] flex-col border border-rule bg-linen"
          aria-describedby={undefined}
        >
          <Dialog.Title className="px-6 pt-5 text-title font-semibold">
            Two people changed this draft
          </Dialog.Title>
          {meanwhile && (
            <Choice
              mine={text}
              theirs={meanwhile.text}
              at={meanwhile.at}
              onTake={(chosen) => {
                void draft.settle(chosen);
                setOpen(false);
              }}
            />
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Choice({
  mine,
  theirs,
  at,
  onTake,
}: {
  readonly mine: string;
  readonly theirs: string;
  readonly at: string;
  readonly onTake: (text: string) => void;
}) {
  const found = useMemo(() => fieldDifferences(mine, theirs), [mine, theirs]);
  const [taken, setTaken] = useState<ReadonlySet<string>>(new Set());
  const fields = found.ok ? found.value : [];
  const take = (): void => {
    const merged = withTheirs(
      mine,
      fields.filter(({ label }) => taken.has(label)),
    );
    if (merged.ok) onTake(merged.value);
    else toast.error(merged.problems[0]?.message ?? "The texts could not be merged.");
  };
  return (
    <>
      <div className="min-h-0 flex-1 overflow-y-auto px-6 pb-5 pt-3">
        <p className="mb-3 text-faded">
          Theirs was saved at <span className="real-time">{moment(at)}</span>. Both texts stay under History
          either way.
        </p>
        {!found.ok && <Problems problems={found.problems} />}
        {found.ok && (
          <Sheet aria-label="Differences">
            <thead>
              <tr>
                <th>Where</th>
                <th>Mine</th>
                <th>Theirs</th>
              </tr>
            </thead>
            <tbody>
              {fields.map((field) => (
                <FieldLine
                  key={field.label}
                  field={field}
                  isTheirs={taken.has(field.label)}
                  onChoose={(isTheirs) =>
                    setTaken((now) => {
                      const next = new Set(now);
                      if (isTheirs) next.add(field.label);
                      else next.delete(field.label);
                      return next;
                    })
                  }
                />
              ))}
            </tbody>
          </Sheet>
        )}
        {found.ok && fields.length === 0 && <p>They differ in comments and layout only.</p>}
      </div>
      <div className="flex gap-3 border-t border-rule px-6 py-3">
        <button type="button" className="press press-main" disabled={!found.ok} onClick={take}>
          {taken.size === 0 ? "Keep mine" : `Take ${taken.size} of theirs into mine`}
        </button>
        <button type="button" className="press" onClick={() => onTake(theirs)}>
          Use theirs
        </button>
      </div>
    </>
  );
}

/** A field with what both say, of which one is chosen. */
function FieldLine({
  field,
  isTheirs,
  onChoose,
}: {
  readonly field: FieldDifference;
  readonly isTheirs: boolean;
  readonly onChoose: (isTheirs: boolean) => void;
}) {
  const { label, mine, theirs } = field;
  const side = (wanted: boolean, value: unknown) => (
    <td className="align-top">
      <label className="flex items-start gap-2">
        <input
          type="radio"
          name={label}
          className="mt-1"
          aria-label={`${label}: ${wanted ? "theirs" : "mine"}`}
          checked={isTheirs === wanted}
          onChange={() => onChoose(wanted)}
        />
        <span className="figure max-h-32 overflow-y-auto break-words text-caption">{wordsOf(value)}</span>
      </label>
    </td>
  );
  return (
    <tr>
      <td className="align-top">{label}</td>
      {side(false, mine)}
      {side(true, theirs)}
    </tr>
  );
}
