import { statisticsOf, type TreeStart } from "../trees/tree-questions";
import { binsInto } from "./binning";
import type { Stretches } from "./kernels/open-kernels";
import { CHUNK } from "./losses";

/** Rows that one thread looks after. */
export interface BlockData {
  readonly rows: number;
  readonly numbers: readonly Float64Array[];
  readonly categories: readonly { readonly codes: Int32Array; readonly levels: number }[];
  readonly target: Float64Array;
  readonly weight: Float64Array | undefined;
  readonly draw: Float64Array;
}

/** What a block must know of all rows, its own and those of others, and of the trees to come. */
export interface BlockStart extends TreeStart {
  readonly classes: number;
  readonly allRows: number;
  readonly totalWeight: number;
  readonly heaviest: number;
}

/** Places in a histogram of a column of at most 256 bins. */
export const NARROW = 256;

/** Bytes of a row's record that its statistics take. */
export const STATISTICS = 16;

/** Where a column's bins lie: within the records of rows, and side by side from an address of their own. */
export interface ColumnPlace {
  readonly wide: boolean;
  readonly position: number;
  readonly bins: number;
  readonly at: number;
}

/** Where everything of a block lies in the memory of its kernels, in bytes from its beginning. */
export interface BlockLayout {
  readonly statistics: number;
  readonly columns: readonly ColumnPlace[];
  /** Narrow columns, those that fill up to a multiple of four among them. */
  readonly narrow: number;
  readonly stride: number;
  readonly at: Readonly<
    Record<
      | "order"
      | "records"
      | "spare"
      | "counts"
      | "classes"
      | "goes"
      | "list"
      | "histogram"
      | "unpacked"
      | "target"
      | "weight"
      | "scratch",
      number
    >
  >;
  readonly scoresAt: readonly number[];
  readonly gradientsAt: readonly number[];
  readonly curvaturesAt: readonly number[];
}

/** Decides where everything of a block lies, and takes that much memory. */
export function layOutBlock(
  { rows, numbers, categories }: BlockData,
  start: BlockStart,
  stretches: Stretches,
): BlockLayout {
  const gini = start.loss === "gini";
  const statistics = statisticsOf(start.loss, start.classes);
  const narrowCount = numbers.length + categories.filter((category) => category.levels < NARROW).length;
  // Columns of one byte are read four at a time.
  const narrow = Math.ceil(narrowCount / 4) * 4;
  const stride =
    Math.ceil((STATISTICS + narrow + 2 * (numbers.length + categories.length - narrowCount)) / 4) * 4;
  let [nextNarrow, nextWide] = [STATISTICS, STATISTICS + narrow];
  const columns = [
    ...start.cuts.map((cut) => cut.length + 2),
    ...categories.map((category) => category.levels + 1),
  ].map((bins, column): ColumnPlace => {
    const wide = column >= numbers.length && categories[column - numbers.length]!.levels >= NARROW;
    const position = wide ? nextWide : nextNarrow;
    if (wide) nextWide += 2;
    else nextNarrow += 1;
    return { wide, bins, position, at: stretches.take(rows * (wide ? 2 : 1)) };
  });
  const places = columns.reduce((sum, column) => sum + Math.max(NARROW, column.bins), 0) + 4 * NARROW;
  const outputs = Array.from({ length: start.outputs });
  const at = {
    order: stretches.take(4 * rows),
    records: stretches.take(stride * rows),
    spare: stretches.take(4 * rows),
    counts: stretches.take(rows),
    classes: stretches.take(gini ? 2 * rows : 0),
    goes: stretches.take(Math.max(NARROW, ...columns.map((column) => column.bins))),
    list: stretches.take(8 * columns.length),
    histogram: stretches.take(places * Math.max(STATISTICS, gini ? 8 * statistics : 0)),
    unpacked: stretches.take(places * 8 * statistics),
    target: stretches.take(8 * rows),
    weight: stretches.take(8 * rows),
    scratch: stretches.take(16 * CHUNK),
  };
  const item = (): number[] => outputs.map(() => stretches.take(8 * rows));
  return {
    statistics,
    columns,
    narrow,
    stride,
    at,
    scoresAt: item(),
    gradientsAt: item(),
    curvaturesAt: item(),
  };
}

/** Writes the bins of every column side by side, and into the records. */
export function fillBins(
  memory: ArrayBufferLike,
  { rows, numbers, categories }: BlockData,
  { columns, at, stride }: BlockLayout,
  cuts: BlockStart["cuts"],
): void {
  const bytes = new Uint8Array(memory, at.records, stride * rows);
  const pairs = new Uint16Array(memory, at.records, (stride * rows) / 2);
  columns.forEach((place, column) => {
    const own = place.wide ? new Uint16Array(memory, place.at, rows) : new Uint8Array(memory, place.at, rows);
    const values = numbers[column];
    if (values) binsInto(values, cuts[column]!, own);
    else own.set(categories[column - numbers.length]!.codes);
    if (place.wide)
      for (let row = 0, to = place.position / 2; row < rows; row += 1, to += stride / 2)
        pairs[to] = own[row]!;
    else for (let row = 0, to = place.position; row < rows; row += 1, to += stride) bytes[to] = own[row]!;
  });
}
