import { formatShare } from "@/core/format/numbers";
import type { Braid, Thread } from "@/core/plan/braid";
import { completeness, MARK_WORDS } from "./thread-line";
import type { Measured } from "./use-counts";

/**
 * The share of missing values, to follow a type.
 * @param complete share of values that are present; undefined before they are counted
 */
function missingWords(complete: number | undefined): string {
  if (complete === undefined) return "";
  return complete === 1 ? ", complete" : `, ${formatShare(1 - complete)} missing`;
}

/** A thread in one sentence, as it is after a crossing. */
export function describeThread(thread: Thread, crossing: number, counts: Measured["counts"]): string {
  const index = thread.stretches.findLastIndex((stretch) => stretch.from <= Math.max(crossing, -1));
  const stretch = thread.stretches[index];
  const complete = stretch ? completeness(thread, index, counts) : undefined;
  const mark = thread.marks.find((mark) => mark.crossing === crossing);
  const state = stretch === undefined ? "not created yet" : `${stretch.type}${missingWords(complete)}`;
  const end = thread.role
    ? `; ${thread.role}${thread.because ? `: ${thread.because}` : ""}`
    : "; dropped before the last step";
  return `${thread.name}: ${state}${mark ? `; ${MARK_WORDS[mark.kind]} at this step` : ""}${end}`;
}

/** Columns that a step writes, learns or joins: what changed in the rows after it. */
export function touchedBy(braid: Braid, crossing: number): readonly string[] {
  return braid.groups
    .flatMap((group) => group.threads)
    .flatMap((thread) => {
      const mark = thread.marks.find(
        (mark) => mark.crossing === crossing && ["writes", "learns", "joins"].includes(mark.kind),
      );
      const stretch = thread.stretches.find((stretch) => stretch.from === crossing);
      return mark && stretch ? [stretch.column] : [];
    });
}
