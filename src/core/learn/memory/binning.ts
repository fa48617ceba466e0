/** How finely the range of a column's cuts is divided to find the few cuts near a value at once. */
const CELLS = 2048;

/**
 * Writes the bins of a number column: 0 when missing, else 1 plus the number of cuts at or below the value.
 * @param cuts ascending
 */
export function binsInto(values: Float64Array, cuts: Float64Array, into: Uint8Array | Uint16Array): void {
  const count = cuts.length;
  const [lowest, highest] = [cuts[0] ?? 0, cuts[count - 1] ?? 0];
  const factor = highest > lowest && Number.isFinite(highest - lowest) ? CELLS / (highest - lowest) : 0;
  // Cells grow with the value, so cuts in lower cells are below it and cuts in higher cells above it: only its own cell is searched.
  const cellOf = (value: number): number =>
    Math.min(CELLS - 1, Math.max(0, Math.floor((value - lowest) * factor) || 0));
  const begins = new Uint16Array(CELLS + 1);
  for (let index = 0; index < count; index += 1) begins[cellOf(cuts[index]!) + 1]! += 1;
  for (let cell = 0; cell < CELLS; cell += 1) begins[cell + 1]! += begins[cell]!;
  for (let row = 0; row < values.length; row += 1) {
    const value = values[row]!;
    if (!(value >= lowest)) {
      into[row] = value === value ? 1 : 0;
      continue;
    }
    const cell = cellOf(value);
    let low = begins[cell]!;
    let high = begins[cell + 1]!;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (cuts[middle]! <= value) low = middle + 1;
      else high = middle;
    }
    into[row] = low + 1;
  }
}

/** Merges ascending lists into one. */
export function mergeSorted(lists: readonly Float64Array[]): Float64Array {
  return lists.slice(1).reduce<Float64Array>(
    (left, right) => {
      const merged = new Float64Array(left.length + right.length);
      for (let a = 0, b = 0, at = 0; at < merged.length; at += 1)
        merged[at] =
          b >= right.length || (a < left.length && left[a]! <= right[b]!) ? left[a++]! : right[b++]!;
      return merged;
    },
    lists[0] ?? new Float64Array(0),
  );
}
