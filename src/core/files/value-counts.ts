import type { ColumnFinding, FileLook } from "./look";

/** Missing and different values of a column. */
export interface ValueCounts {
  readonly missing: number;
  readonly distinct: number;
}

/**
 * How many values of a column are missing, and how many different ones there are, with the markers for "no value" that were chosen.
 * @param look what was found, with the markers that were proposed
 * @param chosen texts that stand for a missing value
 */
export function valueCounts(
  look: Pick<FileLook, "choices">,
  { missing, distinct, markers = [] }: Pick<ColumnFinding, "missing" | "distinct" | "markers">,
  chosen: readonly string[],
): ValueCounts {
  const { missing: proposed } = look.choices.values;
  const signOf = (marker: string): number =>
    Number(chosen.includes(marker)) - Number(proposed.includes(marker));
  return markers.reduce<ValueCounts>(
    (counts, [marker, rows]) => ({
      missing: counts.missing + signOf(marker) * rows,
      distinct: counts.distinct - signOf(marker),
    }),
    { missing, distinct },
  );
}
