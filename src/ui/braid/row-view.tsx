import { Copy, Plus } from "lucide-react";
import { memo, type MouseEvent } from "react";
import type { Braid } from "@/core/plan/braid";
import { LABEL_WIDTH, ROLE_WIDTH, type BraidRow } from "./geometry";
import { RowBand } from "./row-band";
import { ThreadLine } from "./thread-line";
import type { Measured } from "./use-counts";

export interface RowProps {
  readonly row: BraidRow;
  readonly braid: Braid;
  readonly width: number;
  readonly measured: Measured;
  /** Index of the selected crossing where this line shows it itself, or -1. */
  readonly selected: number;
  /** The keys are on this thread. */
  readonly current: boolean;
  readonly picked: boolean;
  /** The quiet threads of this strand are shown. */
  readonly unfolded: boolean;
  readonly onThread: (id: string, pick: "only" | "more" | "range") => void;
  readonly onFold: (strand: string) => void;
  readonly onCopyStrand: (strand: string) => void;
  readonly onBeginning: (strand: string) => void;
}

const ROLE_TONE: Readonly<Record<string, string>> = {
  target: "text-madder font-semibold",
  key: "text-weld font-medium",
  feature: "text-ink",
  excluded: "text-faded italic",
};
const LABEL = "sticky left-0 z-10 shrink-0 bg-linen";

/** What a press picks: this column alone, this one too, or all up to it. */
function pickOf(event: MouseEvent): "only" | "more" | "range" {
  if (event.shiftKey) return "range";
  return event.ctrlKey || event.metaKey ? "more" : "only";
}

/** One line of the Braid: the head of a strand, a thread, or the quiet threads folded away. */
export const RowView = memo(function RowView({
  row,
  braid,
  width,
  measured,
  selected,
  current,
  picked,
  unfolded,
  onThread,
  onFold,
  onCopyStrand,
  onBeginning,
}: RowProps) {
  switch (row.kind) {
    case "group":
      return (
        <>
          <div
            className={`${LABEL} group/strand border-t border-weft px-3 pt-2`}
            style={{ width: LABEL_WIDTH }}
          >
            <div className="flex items-center">
              <span className="truncate font-semibold" title={row.group.strand}>
                {row.group.strand}
              </span>
              <span className="ml-auto flex opacity-0 focus-within:opacity-100 group-hover/strand:opacity-100">
                <button
                  type="button"
                  tabIndex={-1}
                  onClick={() => onBeginning(row.group.strand)}
                  aria-label={`Add a step at the start of ${row.group.strand}`}
                  title="Add a step at the start"
                  className="px-0.5 text-faded hover:text-ink"
                >
                  <Plus size={13} />
                </button>
                <button
                  type="button"
                  tabIndex={-1}
                  onClick={() => onCopyStrand(row.group.strand)}
                  aria-label={`Copy the strand ${row.group.strand}`}
                  title="Copy the strand"
                  className="px-0.5 text-faded hover:text-ink"
                >
                  <Copy size={12} />
                </button>
              </span>
            </div>
            <div className="truncate text-caption text-faded" title={row.group.from}>
              from {row.group.from}
            </div>
          </div>
          <div className="border-t border-weft bg-linen">
            <RowBand
              braid={braid}
              group={row.group}
              width={width}
              counts={measured.counts}
              selected={selected}
            />
          </div>
        </>
      );
    case "thread": {
      const { thread } = row;
      const press = (event: MouseEvent): void => onThread(thread.id, pickOf(event));
      return (
        <>
          <button
            type="button"
            tabIndex={-1}
            aria-pressed={picked}
            onClick={press}
            className={`${LABEL} truncate border-l-[3px] pl-[9px] pr-3 text-left text-caption leading-[22px] ${picked ? "border-madder font-semibold text-madder" : "border-transparent"} ${current && !picked ? "underline" : ""} ${!picked && thread.role === undefined ? "text-faded" : ""}`}
            style={{ width: LABEL_WIDTH }}
            title={`${thread.name} (Ctrl+click to select several, Shift+click for a range)`}
          >
            {thread.name}
          </button>
          <div className={picked ? "bg-paper" : ""} onClick={press}>
            <ThreadLine
              thread={thread}
              crossings={braid.crossings.length}
              width={width}
              counts={measured.counts}
              selected={selected}
            />
          </div>
          <span
            className={`sticky right-0 z-10 shrink-0 truncate border-l border-weft bg-linen px-2 text-caption leading-[22px] ${ROLE_TONE[thread.role ?? ""] ?? "text-faded"}`}
            style={{ width: ROLE_WIDTH }}
            title={thread.because}
          >
            {thread.role}
          </span>
        </>
      );
    }
    case "folded":
      return (
        <button
          type="button"
          onClick={() => onFold(row.group.strand)}
          aria-expanded={unfolded}
          className={`${LABEL} px-3 text-left text-caption leading-[22px] text-faded hover:text-ink`}
          style={{ width: LABEL_WIDTH }}
        >
          {unfolded ? `− fold ${row.count} untouched` : `+ ${row.count} untouched`}
        </button>
      );
  }
});
