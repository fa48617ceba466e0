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

/** Rows from which threads share the work, and so the arrays. */
export const ROWS_FOR_THREADS = 50_000;

const memoryFor = (bytes: number, rows: number): ArrayBufferLike =>
  rows >= ROWS_FOR_THREADS ? new SharedArrayBuffer(bytes) : new ArrayBuffer(bytes);
/** A column of numbers, in memory that threads can share when there are many rows. */
export const doublesFor = (rows: number): Float64Array => new Float64Array(memoryFor(8 * rows, rows));
/** The same for whole numbers. */
export const integersFor = (rows: number): Int32Array => new Int32Array(memoryFor(4 * rows, rows));

/** The rows that meet a condition on their position, in the same order. */
export function selectRows(data: ColumnData, keep: (row: number) => boolean): ColumnData {
  const places = new Uint32Array(data.rows);
  let count = 0;
  for (let row = 0; row < data.rows; row += 1) if (keep(row)) places[count++] = row;
  const doubles = (values: Float64Array): Float64Array => {
    const picked = doublesFor(count);
    for (let index = 0; index < count; index += 1) picked[index] = values[places[index]!]!;
    return picked;
  };
  const codes = (values: Int32Array): Int32Array => {
    const picked = integersFor(count);
    for (let index = 0; index < count; index += 1) picked[index] = values[places[index]!]!;
    return picked;
  };
  return {
    rows: count,
    numbers: data.numbers.map(({ column, values }) => ({ column, values: doubles(values) })),
    categories: data.categories.map((category) => ({
      column: category.column,
      levels: category.levels,
      codes: codes(category.codes),
    })),
    target: doubles(data.target),
    weight: data.weight && doubles(data.weight),
    draw: doubles(data.draw),
    fold: Int16Array.from({ length: count }, (_, index) => data.fold[places[index]!]!),
    moment: data.moment && doubles(data.moment),
  };
}

/** Bytes that a frame of this shape takes when it is streamed, learners' own working space included. */
export function bytesNeeded(rows: number, numbers: number, categories: number): number {
  // Values and, twice, bins of trees; target, weight, draw and moment; what trees keep of each row: statistics, order, scores, gradients.
  return rows * (numbers * (8 + 2) + categories * (4 + 4) + 8 * 14);
}
