"use client";
import { Dialog } from "radix-ui";
import type { Braid } from "@/core/plan/braid";
import type { JoinedTable } from "@/core/pipeline/edit/join-table";
import { formatCount } from "@/core/format/numbers";
import { someNames } from "@/core/format/some-names";
import { useDesk } from "../../draft/draft-context";
import type { Place } from "../places";
import { PairFields } from "./pair-fields";
import { ShapeFields } from "./shape-fields";
import { useJoinTable } from "./use-join-table";
import { Select } from "../../select/select";

interface Props {
  readonly braid: Braid;
  readonly place: Place;
  readonly onClose: () => void;
  /** Puts the table in. @param here names of the columns at the place */
  readonly onJoin: (table: JoinedTable, here: readonly string[]) => void;
}

/**
 * Joins a table of the warehouse to the rows at a place: which rows belong together, and what becomes of
 * them.
 */
export function JoinTableDialog({ braid, place, onClose, onJoin }: Props) {
  const { words } = useDesk();
  const state = useJoinTable(braid, place);
  const { wishes, change, missing, incoming, joined, here, failure } = state;
  return (
    <Dialog.Root
      open
      onOpenChange={(open) => {
        if (!open) onClose();
      }}
    >
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed inset-x-0 top-16 z-50 mx-auto flex max-h-[85vh] w-[min(820px,96vw)] flex-col border border-rule bg-linen"
        >
          <Dialog.Title className="px-6 pt-5 text-title font-semibold">Join a table</Dialog.Title>
          <form
            aria-label="Join a table"
            className="flex min-h-0 flex-1 flex-col"
            onSubmit={(event) => {
              event.preventDefault();
              if (missing !== undefined) return;
              onJoin(
                joined,
                here.map(({ name }) => name),
              );
              onClose();
            }}
          >
            <div className="min-h-0 flex-1 space-y-4 overflow-y-auto px-6 py-4">
              <label className="grid grid-cols-[150px_minmax(0,1fr)] items-baseline gap-4">
                <span>Table</span>
                <Select
                  label="Table to join"
                  className="w-full"
                  autoFocus
                  value={wishes.table}
                  options={words.tables}
                  onChange={(table) => change({ table, ...AFRESH })}
                />
              </label>
              {state.outline && <PairFields state={state} outline={state.outline} />}
              {state.outline && <ShapeFields state={state} />}
            </div>
            <div className="flex items-baseline gap-3 border-t border-rule px-6 py-3">
              <button type="submit" className="press press-main" disabled={missing !== undefined}>
                Join
              </button>
              <Dialog.Close className="press">Cancel</Dialog.Close>
              <p role="status" className={`min-w-0 text-caption ${failure ? "text-madder" : "text-faded"}`}>
                {failure ??
                  missing ??
                  `Adds ${formatCount(incoming.length, "column")}: ${someNames(incoming)}.`}
              </p>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** What was said about another table says nothing of this one. */
const AFRESH = {
  pairs: undefined,
  shape: undefined,
  by: undefined,
  aggregate: undefined,
  column: undefined,
  without: [],
};
