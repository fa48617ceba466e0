import { formatNumber } from "@/core/format/numbers";
import { problem, type Problem } from "@/core/problem";

/** Staged rows without a prediction, where none may be left out. */
export const rowsUnscored = (unscored: number, rows: number): Problem =>
  problem(
    "rows_unscored",
    `${formatNumber(unscored)} of ${formatNumber(rows)} rows have no prediction, because a required number is missing.`,
    "Add a fill step and retrain, or set contract.unanswered to leave_out. Nothing was written.",
  );

/** Staged rows without a key. */
export const keyMissing = (rows: number): Problem =>
  problem(
    "key_missing",
    `${formatNumber(rows)} rows have no key.`,
    "Filter them, or choose a key that is never missing. Nothing was written.",
  );

/** @param examples keys that several staged rows have */
export const keyRepeats = (examples: readonly string[]): Problem =>
  problem(
    "key_repeats",
    `The key is not unique among the rows, for example ${examples.join("; ")}.`,
    "Remove duplicates in an earlier step, or choose a unique key. Nothing was written.",
  );
