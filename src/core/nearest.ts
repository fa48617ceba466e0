import damerauLevenshtein from "damerau-levenshtein";
import { someNames } from "./format/some-names";

/** Edit distance with adjacent transpositions. */
const editDistance = (left: string, right: string): number => damerauLevenshtein(left, right).steps;

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
