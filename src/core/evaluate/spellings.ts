/** A value with how often it occurs. */
export interface Spelling {
  readonly value: string;
  readonly rows: number;
}

/** What is left of a text when case, blanks, marks and signs do not count. */
export const bareText = (value: string): string =>
  value
    .normalize("NFKD")
    .replaceAll(/\p{M}/gu, "")
    .toLowerCase()
    .replaceAll(/[^\p{L}\p{N}]+/gu, "");

/** Whether two texts differ by one letter put in, left out, exchanged or swapped with its neighbour. */
function oneSlip(left: string, right: string): boolean {
  if (Math.abs(left.length - right.length) > 1) return false;
  let at = 0;
  while (at < left.length && at < right.length && left[at] === right[at]) at += 1;
  if (left.length === right.length) {
    const swapped =
      left[at] === right[at + 1] && left[at + 1] === right[at] && left.slice(at + 2) === right.slice(at + 2);
    return swapped || left.slice(at + 1) === right.slice(at + 1);
  }
  return left.length > right.length
    ? left.slice(at + 1) === right.slice(at)
    : left.slice(at) === right.slice(at + 1);
}

/** Short words differ by a letter without being the same. */
const SHORTEST_SLIP = 5;
/** A slip is rare beside the word it was meant to be. */
const RARE = 0.2;

/**
 * Groups of values that are probably spellings of one category: equal without case, blanks and signs, or one slip of a
 * letter away from a far more frequent value. The most frequent of each group comes first.
 */
export function oddSpellings(values: readonly Spelling[]): readonly (readonly Spelling[])[] {
  const groups = new Map<string, Spelling[]>();
  for (const value of [...values].sort(
    (left, right) => right.rows - left.rows || (left.value < right.value ? -1 : 1),
  )) {
    const bare = bareText(value.value);
    if (bare === "") continue;
    const same = groups.get(bare);
    if (same) {
      same.push(value);
      continue;
    }
    const meant =
      bare.length < SHORTEST_SLIP || /\d/.test(bare)
        ? undefined
        : [...groups].find(
            ([other, [first]]) =>
              other.length >= SHORTEST_SLIP &&
              first !== undefined &&
              value.rows <= RARE * first.rows &&
              oneSlip(other, bare),
          );
    if (meant) meant[1].push(value);
    else groups.set(bare, [value]);
  }
  return [...groups.values()].filter((group) => group.length > 1);
}
