import { formatNumber } from "@/core/format/numbers";
import { PageLink } from "../basic/page-link";

/** Rows of a table on Today, unless all are asked for. */
const FEW = 20;

/** The parts of Today that can be asked for whole, as the address says it. */
export const WHOLE_PARTS = ["due", "predictions", "next"] as const;
export type WholePart = (typeof WHOLE_PARTS)[number];

/** The first of many entries, or all where this part of the page is asked for whole. */
export const firstFew = <Entry,>(
  entries: readonly Entry[],
  part: WholePart,
  whole: WholePart | undefined,
): readonly Entry[] => (part === whole ? entries : entries.slice(0, FEW));

/** The way from the first few entries to all of them. */
export function ShowAll({
  all,
  part,
  whole,
}: {
  readonly all: number;
  readonly part: WholePart;
  readonly whole: WholePart | undefined;
}) {
  if (all <= FEW || part === whole) return null;
  return (
    <p className="mt-1 text-caption text-faded">
      The first {FEW} of {formatNumber(all)}; <PageLink href={`/?all=${part}`}>show all</PageLink>.
    </p>
  );
}
