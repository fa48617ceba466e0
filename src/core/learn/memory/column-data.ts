import type { CategoryLevels } from "../../plan/frame";

/**
 * A training frame as typed arrays, one entry per row. Missing numbers are NaN; a value that is not a number in the warehouse
 * comes as Infinity, since PostgreSQL orders it above every number. Codes of categories are those of the frame: 0 for a
 * category that training never saw.
 */
export interface ColumnData {
  readonly rows: number;
  readonly numbers: readonly { readonly column: string; readonly values: Float64Array }[];
  readonly categories: readonly (CategoryLevels & { readonly codes: Int32Array })[];
  /** NaN where the target is missing. */
  readonly target: Float64Array;
  /** Row weights; undefined when every row counts once. */
  readonly weight: Float64Array | undefined;
  /** Stable random number in [0, 1). */
  readonly draw: Float64Array;
  /** Fold of each row, from 0; -1 for none. */
  readonly fold: Int16Array;
  /** Time column as seconds since 1970. */
  readonly moment: Float64Array | undefined;
}

/** The rows that meet a condition on their position, in the same order. Large arrays are shared between threads. */
export function selectRows(data: ColumnData, keep: (row: number) => boolean): ColumnData {
  const places = new Uint32Array(data.rows);
  let count = 0;
  for (let row = 0; row < data.rows; row += 1) if (keep(row)) places[count++] = row;
  const doubles = (values: Float64Array): Float64Array => {
    const picked = new Float64Array(count);
    for (let index = 0; index < count; index += 1) picked[index] = values[places[index]!]!;
    return picked;
  };
  const codes = (values: Int32Array): Int32Array => {
    const picked = new Int32Array(count);
    for (let index = 0; index < count; index += 1) picked[index] = values[places[index]!]!;
    return picked;
  };
  return {
    rows: count,
    numbers: data.numbers.map(({ column, values }) => ({ column, values: doubles(values) })),
    categories: data.categories.map((each) => ({ column: each.column, levels: each.levels, codes: codes(each.codes) })),
    target: doubles(data.target),
    weight: data.weight && doubles(data.weight),
    draw: doubles(data.draw),
    fold: Int16Array.from({ length: count }, (_, index) => data.fold[places[index]!]!),
    moment: data.moment && doubles(data.moment),
  };
}

/** Bytes that a frame of this shape takes when it is streamed, learners' own working space included. */
export function bytesNeeded(rows: number, numbers: number, categories: number): number {
  // Values, bins of trees, target, weight, draw, moment, gradients, order and scores.
  return rows * (numbers * (8 + 1) + categories * (4 + 2) + 8 * 12);
}
