import { figureColumn, type AlignedFigure } from "./align-figures";

type Ends = readonly [number, number];

/**
 * Aligns intervals of one column: all lower ends under each other, and all upper ends.
 *
 * @param rows the rows of the column
 * @param endsOf the interval of a row; none where it has none
 * @param write an end as it is written
 */
export function intervalColumn<Row>(
  rows: readonly Row[],
  endsOf: (row: Row) => Ends | null | undefined,
  write: (end: number, row: Row) => string,
): (row: Row) => readonly [AlignedFigure, AlignedFigure] | undefined {
  const known = rows.filter((row) => endsOf(row));
  const columnOf = (place: 0 | 1) => figureColumn(known, (row) => write(endsOf(row)![place], row));
  const [low, high] = [columnOf(0), columnOf(1)];
  return (row) => (endsOf(row) ? [low(row), high(row)] : undefined);
}
