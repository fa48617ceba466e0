import type { DueState } from "@/runs/due";
import type { ScheduleDue } from "./due-table";

/** What needs attention stands first. */
const STATE_ORDER: readonly (DueState | undefined)[] = [
  "failed",
  "waiting",
  "running",
  "done",
  "nothing due",
  undefined,
];

const rankOf = ({ due }: ScheduleDue): number => STATE_ORDER.indexOf(due?.state);

/** Schedules in the order in which they need attention. */
export function orderDue(due: readonly ScheduleDue[]): readonly ScheduleDue[] {
  return due.toSorted((left, right) => rankOf(left) - rankOf(right));
}
