import { formatNumber } from "../format/numbers";
import type { Engine } from "../learn/task";

/** What came out of the warehouse in a run, counted where it came out. */
export interface Leaving {
  /** All values, those of sums and of the run's log included. */
  readonly values: number;
  /** Rows of which predictions and answers came out, and what else. */
  readonly judged: number;
  /** Rows whose features came out to be learned from, or judged here; a row counts as often as it came. */
  readonly streamed: number;
  /** Rows whose features came out to explain the model. */
  readonly explained: number;
}

export const NOTHING_LEFT: Leaving = { values: 0, judged: 0, streamed: 0, explained: 0 };

export const addLeaving = (left: Leaving, more: Partial<Leaving>): Leaving => ({
  values: left.values + (more.values ?? 0),
  judged: left.judged + (more.judged ?? 0),
  streamed: left.streamed + (more.streamed ?? 0),
  explained: left.explained + (more.explained ?? 0),
});

/** How many values an answer of the database holds: the entries of arrays and of JSON count one by one. */
export function countValues(answer: unknown): number {
  if (answer === null || typeof answer !== "object" || answer instanceof Date || ArrayBuffer.isView(answer))
    return 1;
  const parts = Array.isArray(answer) ? answer : Object.values(answer);
  return parts.reduce<number>((sum, part) => sum + countValues(part), 0);
}

/** What the user's file adds to prediction and answer. */
export interface JudgedWith {
  readonly weight: boolean;
  readonly group: boolean;
}

/** What came out of the warehouse in a training, in sentences. */
export function describeLeaving(
  left: Leaving,
  engine: Engine,
  numbersOut: number,
  { weight, group }: JudgedWith,
): string {
  const told = ["prediction", "answer", ...(weight ? ["weight"] : []), ...(group ? ["group"] : [])];
  const list = `${told.slice(0, -1).join(", ")} and ${told.at(-1)!}`;
  const rows = (count: number): string => `${formatNumber(count)} row${count === 1 ? "" : "s"}`;
  return [
    engine === "warehouse"
      ? `Training: no row left the warehouse; ${formatNumber(numbersOut)} aggregated numbers were read.`
      : "",
    left.streamed > 0
      ? `${rows(left.streamed)} streamed to the worker; nothing was written outside the warehouse.`
      : "",
    left.judged > 0 ? `Evaluation: ${list} of ${rows(left.judged)} were read.` : "",
    left.explained > 0 ? `Explanation: features of ${rows(left.explained)} were read.` : "",
    `In total: ${formatNumber(left.values)} values were read.`,
  ]
    .filter((sentence) => sentence !== "")
    .join(" ");
}
