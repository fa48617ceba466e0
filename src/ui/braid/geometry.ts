import type { Braid, BraidGroup, Stretch, Thread } from "@/core/plan/braid";
import type { Family } from "@/core/value-type";

/** Pixels. */
export const LABEL_WIDTH = 168;
export const CROSSING_WIDTH = 90;
export const ROLE_WIDTH = 82;
export const THREAD_HEIGHT = 22;
export const GROUP_HEIGHT = 54;

export const crossingX = (index: number): number => (index + 0.5) * CROSSING_WIDTH;
export const bodyWidth = (braid: Braid): number =>
  braid.crossings.length * CROSSING_WIDTH + CROSSING_WIDTH / 2;

export type BraidRow =
  | { readonly kind: "group"; readonly group: BraidGroup }
  | { readonly kind: "thread"; readonly group: BraidGroup; readonly thread: Thread }
  | { readonly kind: "folded"; readonly group: BraidGroup; readonly count: number };

/** A thread that no step touches and that has no part in the model. */
export const isQuiet = (thread: Thread): boolean =>
  thread.marks.every((mark) => mark.kind === "ends") &&
  (thread.role === undefined || thread.role === "excluded" || thread.role === "weight");

/** The rows of the Braid from top to bottom; quiet threads are folded unless their strand is in `unfolded`. */
export function rowsOf(braid: Braid, unfolded: ReadonlySet<string>): readonly BraidRow[] {
  return braid.groups.flatMap((group): BraidRow[] => {
    const quiet = group.threads.filter(isQuiet);
    const open = unfolded.has(group.strand);
    const shown = open ? group.threads : group.threads.filter((thread) => !isQuiet(thread));
    const rows: BraidRow[] = [
      { kind: "group", group },
      ...shown.map((thread): BraidRow => ({ kind: "thread", group, thread })),
    ];
    return quiet.length > 0 ? [...rows, { kind: "folded", group, count: quiet.length }] : rows;
  });
}

/** Type as hue and dash pattern, so that neither is needed alone. */
export const FAMILY_LOOK: Readonly<Record<Family, { readonly stroke: string; readonly dash: string }>> = {
  number: { stroke: "var(--woad)", dash: "" },
  text: { stroke: "var(--plum)", dash: "9 3" },
  "yes/no": { stroke: "var(--moss)", dash: "3 3" },
  time: { stroke: "var(--weld)", dash: "12 3 2 3" },
  span: { stroke: "var(--weld)", dash: "1 3" },
  other: { stroke: "var(--faded)", dash: "1 4" },
};

/** Thickness of a thread, in pixels, by the share of rows in which the value is there; unknown is in between. Even a few gaps show as a step. */
export const threadWeight = (complete: number | undefined): number => {
  if (complete === undefined) return 1.6;
  if (complete === 1) return 3.5;
  return 0.6 + 1.8 * complete;
};

/** Where a stretch runs, in pixels from the left edge of the body. */
export function stretchSpan(stretch: Stretch, crossings: number): readonly [number, number] {
  const from = stretch.from < 0 ? 0 : crossingX(stretch.from);
  const to = stretch.to >= crossings ? crossingX(crossings - 1) + CROSSING_WIDTH : crossingX(stretch.to);
  return [from, to];
}

/** Key under which counts after some steps of a strand are kept. */
export const countKey = (strand: string, after: number): string => `${after} ${strand}`;
