import { Copy, Plus } from "lucide-react";
import { memo, type MouseEvent } from "react";
import type { BraidGroup } from "@/core/plan/braid";
import type { BraidRow } from "./geometry";
import { pickOf, type PickKind } from "./pick-many";

interface Props {
  readonly row: BraidRow;
  /** The keys are on this thread. */
  readonly current: boolean;
  readonly picked: boolean;
  /** The quiet threads of this strand are shown. */
  readonly unfolded: boolean;
  readonly onThread: (id: string, pick: PickKind) => void;
  readonly onFold: (strand: string) => void;
  readonly onCopyStrand: (strand: string) => void;
  readonly onBeginning: (strand: string) => void;
}

/** The name of a line of the Braid: a strand, a column, or the quiet columns folded away. */
export const RowLabel = memo(function RowLabel({ row, current, picked, unfolded, ...on }: Props) {
  switch (row.kind) {
    case "group":
      return <StrandLabel group={row.group} onBeginning={on.onBeginning} onCopyStrand={on.onCopyStrand} />;
    case "thread": {
      const { thread } = row;
      const press = (event: MouseEvent): void => on.onThread(thread.id, pickOf(event));
      return (
        <button
          type="button"
          tabIndex={-1}
          aria-pressed={picked}
          onClick={press}
          className={`w-full truncate border-l-[3px] pl-[9px] pr-3 text-left text-caption leading-[22px] ${picked ? "border-madder font-semibold text-madder" : "border-transparent"} ${current && !picked ? "underline" : ""} ${!picked && thread.role === undefined ? "text-faded" : ""}`}
          title={`${thread.name} (Ctrl+click to select several, Shift+click for a range)`}
        >
          {thread.name}
        </button>
      );
    }
    case "folded":
      return (
        <button
          type="button"
          onClick={() => on.onFold(row.group.strand)}
          aria-expanded={unfolded}
          className="w-full px-3 text-left text-caption leading-[22px] text-faded hover:text-ink"
        >
          {unfolded ? `− fold ${row.count} untouched` : `+ ${row.count} untouched`}
        </button>
      );
  }
});

const ICON = "px-0.5 text-faded hover:text-ink";

function StrandLabel({
  group,
  onBeginning,
  onCopyStrand,
}: { readonly group: BraidGroup } & Pick<Props, "onBeginning" | "onCopyStrand">) {
  return (
    <div className="group/strand h-full border-t border-weft px-3 pt-2">
      <div className="flex items-center">
        <span className="truncate font-semibold" title={group.strand}>
          {group.strand}
        </span>
        <span className="ml-auto flex opacity-0 focus-within:opacity-100 group-hover/strand:opacity-100">
          <button
            type="button"
            tabIndex={-1}
            onClick={() => onBeginning(group.strand)}
            aria-label={`Add a step at the start of ${group.strand}`}
            title="Add a step at the start"
            className={ICON}
          >
            <Plus size={13} />
          </button>
          <button
            type="button"
            tabIndex={-1}
            onClick={() => onCopyStrand(group.strand)}
            aria-label={`Copy the strand ${group.strand}`}
            title="Copy the strand"
            className={ICON}
          >
            <Copy size={12} />
          </button>
        </span>
      </div>
      <div className="truncate text-caption text-faded" title={group.from}>
        from {group.from}
      </div>
    </div>
  );
}
