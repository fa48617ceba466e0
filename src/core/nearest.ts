import { someNames } from "./format/some-names";

/**
 * Edit distance with adjacent transpositions (optimal string alignment).
 * Source: Damerau, "A technique for computer detection and correction of spelling errors", CACM 7(3), 1964.
 */
export function editDistance(left: string, right: string): number {
  const rows = left.length + 1;
  const columns = right.length + 1;
  const table = Array.from({ length: rows }, (_, i) => {
    const row = new Array<number>(columns).fill(0);
    row[0] = i;
    return row;
  });
  const at = (i: number, j: number): number => table[i]?.[j] ?? 0;
  for (let j = 0; j < columns; j += 1) table[0]![j] = j;
  for (let i = 1; i < rows; i += 1) {
    for (let j = 1; j < columns; j += 1) {
      const cost = left[i - 1] === right[j - 1] ? 0 : 1;
      let best = Math.min(at(i - 1, j) + 1, at(i, j - 1) + 1, at(i - 1, j - 1) + cost);
      if (i > 1 && j > 1 && left[i - 1] === right[j - 2] && left[i - 2] === right[j - 1])
        best = Math.min(best, at(i - 2, j - 2) + 1);
      table[i]![j] = best;
    }
  }
  return at(rows - 1, columns - 1);
}

/** Fewest letters at which the beginning of a name is taken for a name cut short. */
const SHORTEST_BEGINNING = 3;

/**
 * The name a person most likely meant: the same in other capitals, one that begins with what was written, or one that
 * differs in at most a third of its letters. Undefined when none is that close.
 */
export function nearestName(wanted: string, candidates: Iterable<string>): string | undefined {
  const written = wanted.toLowerCase();
  let best: string | undefined;
  let bestDistance = Infinity;
  for (const candidate of candidates) {
    const name = candidate.toLowerCase();
    const begun = written.length >= SHORTEST_BEGINNING && name.startsWith(written);
    const edits = begun ? 1 : editDistance(written, name);
    const distance = name === written ? 0.5 : edits;
    if (distance < bestDistance) {
      best = candidate;
      bestDistance = distance;
    }
  }
  return bestDistance <= Math.max(1, Math.floor(wanted.length / 3)) ? best : undefined;
}

/** "Did you mean X?" when a close name exists, else a list of some that do. */
export function suggestion(wanted: string, candidates: Iterable<string>, noun: string): string {
  const all = [...candidates];
  const near = nearestName(wanted, all);
  if (near !== undefined) return `Did you mean "${near}"?`;
  if (all.length === 0) return `There is no ${noun} here.`;
  return `Available: ${someNames(all, 8)}.`;
}
