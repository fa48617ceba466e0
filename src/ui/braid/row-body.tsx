import { memo } from "react";
import type { Braid } from "@/core/plan/braid";
import type { BraidRow } from "./geometry";
import { pickOf, type PickKind } from "./pick-many";
import { RowBand } from "./row-band";
import { ThreadLine } from "./thread-line";
import type { Measured } from "./use-counts";

interface Props {
  readonly row: BraidRow;
  readonly braid: Braid;
  readonly width: number;
  readonly measured: Measured;
  /** Index of the selected crossing where this line shows it itself, or -1. */
  readonly selected: number;
  readonly picked: boolean;
  readonly onThread: (id: string, pick: PickKind) => void;
}

/** What a line of the Braid draws across the steps: the rows of a strand, or the thread of a column. */
export const RowBody = memo(function RowBody({
  row,
  braid,
  width,
  measured,
  selected,
  picked,
  onThread,
}: Props) {
  switch (row.kind) {
    case "group":
      return (
        <div className="border-t border-weft bg-linen">
          <RowBand
            braid={braid}
            group={row.group}
            width={width}
            counts={measured.counts}
            selected={selected}
          />
        </div>
      );
    case "thread":
      return (
        <div className={picked ? "bg-paper" : ""} onClick={(event) => onThread(row.thread.id, pickOf(event))}>
          <ThreadLine
            thread={row.thread}
            crossings={braid.crossings.length}
            width={width}
            counts={measured.counts}
            selected={selected}
          />
        </div>
      );
    case "folded":
      return null;
  }
});
