"use client";
import type { Braid } from "@/core/plan/braid";
import { AddStep } from "./add-step";
import { JoinTableDialog } from "./join-table/join-table-dialog";
import { placeKey, type Place } from "./places";
import type { Adding } from "./use-adding";
import type { BraidActions } from "./use-braid-actions";
import type { BraidSelection } from "./use-braid-selection";

/** A place in words. */
const placeText = ({ strand, after }: Place): string =>
  after === 0 ? `at the start of ${strand}` : `after step ${after} of ${strand}`;

/** What opens over the Braid: the palette of steps, and the form that joins a table. */
export function BraidOverlays({
  braid,
  selection: { about, addAt, pickedColumns },
  adding,
  actions,
}: {
  readonly braid: Braid | undefined;
  readonly selection: BraidSelection;
  readonly adding: Adding;
  readonly actions: BraidActions;
}) {
  const { at } = adding;
  return (
    <>
      {at && (
        <AddStep
          open
          onOpenChange={(open) => {
            if (!open) adding.close();
          }}
          picked={about && placeKey(about.place) === placeKey(at) ? pickedColumns : []}
          where={placeText(at)}
          onChoose={(kind) => adding.insert(kind, at)}
        />
      )}
      {adding.isJoining && braid && addAt && (
        <JoinTableDialog
          braid={braid}
          place={addAt}
          onClose={() => adding.setJoining(false)}
          onJoin={(table, here) => adding.addAtNow(addAt, (now) => actions.joinTable(table, now, here))}
        />
      )}
    </>
  );
}
