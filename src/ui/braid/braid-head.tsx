import type { Braid } from "@/core/plan/braid";
import { CrossingNames } from "./crossing-names";
import { LABEL_WIDTH, ROLE_WIDTH } from "./geometry";

interface Props {
  readonly braid: Braid;
  readonly selected: number;
  readonly onSelect: (index: number) => void;
  readonly onDrop: (from: number, onto: number) => void;
  readonly onInsertAfter: (index: number) => void;
}

/** The names of the steps; they stay while the threads scroll. */
export function BraidHead({ braid, selected, onSelect, onDrop, onInsertAfter }: Props) {
  return (
    <div className="sticky top-0 z-20 flex border-b border-rule bg-linen">
      <div
        className="sticky left-0 z-20 shrink-0 bg-linen px-3 py-2 text-caption text-faded"
        style={{ width: LABEL_WIDTH }}
      >
        columns ↓ &nbsp; steps →
      </div>
      <CrossingNames
        crossings={braid.crossings}
        selected={selected}
        onChoose={onSelect}
        onDrop={onDrop}
        onInsertAfter={onInsertAfter}
      />
      <div
        className="sticky right-0 z-20 ml-auto shrink-0 bg-linen px-2 py-2 text-caption text-faded"
        style={{ width: ROLE_WIDTH }}
      >
        role
      </div>
    </div>
  );
}
