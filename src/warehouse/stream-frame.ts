import { doublesFor, integersFor, type ColumnData } from "@/core/learn/memory/column-data";
import type { CategoryLevels } from "@/core/plan/frame";
import { MOMENT_COLUMN, TARGET_COLUMN, WEIGHT_COLUMN } from "@/core/plan/frame-columns";
import { quoteIdentifier } from "@/core/sql/quote";
import { DRAW_COLUMN, FOLD_COLUMN } from "@/core/steps/step";
import type { WarehouseSession } from "./warehouse";

export interface StreamedFrame {
  /** Quoted name. */
  readonly frame: string;
  /** Condition for the rows that are streamed. */
  readonly where: string;
  readonly numbers: readonly string[];
  readonly categories: readonly CategoryLevels[];
  readonly weighted: boolean;
  readonly timed: boolean;
  readonly folded: boolean;
  /** How many rows there are. */
  readonly rows: number;
}

/** The signature, flags and extension length that a binary COPY begins with. */
const HEADER_BYTES = 19;

/** The SELECT whose binary COPY is read: everything as double precision, codes as integers. */
export function streamSql({
  frame,
  where,
  numbers,
  categories,
  weighted,
  timed,
  folded,
}: StreamedFrame): string {
  const items = [
    TARGET_COLUMN,
    DRAW_COLUMN,
    ...(weighted ? [WEIGHT_COLUMN] : []),
    ...(timed ? [MOMENT_COLUMN] : []),
    ...numbers,
  ].map((name) => `${quoteIdentifier(name)}::double precision`);
  const codes = [
    ...(folded ? [`${quoteIdentifier(FOLD_COLUMN)}::integer`] : []),
    ...categories.map((category) => quoteIdentifier(category.column)),
  ];
  return `SELECT ${[...items, ...codes].join(", ")} FROM ${frame}${where === "" ? "" : ` WHERE ${where}`}`;
}

/**
 * Streams a frame's rows into typed arrays, once, by binary COPY. Missing numbers become NaN; PostgreSQL's own NaN, which it
 * orders above every number, becomes Infinity.
 * @param progress told now and then how many rows have come; may throw to stop
 */
export async function streamFrame(
  session: WarehouseSession,
  frame: StreamedFrame,
  progress: (rows: number) => void = () => undefined,
): Promise<ColumnData> {
  const { rows } = frame;
  const doubles = (): Float64Array => doublesFor(rows);
  const target = doubles();
  const draw = doubles();
  const weight = frame.weighted ? doubles() : undefined;
  const moment = frame.timed ? doubles() : undefined;
  const numbers = frame.numbers.map((column) => ({ column, values: doubles() }));
  const fold = new Int32Array(frame.folded ? rows : 0);
  const categories = frame.categories.map((category) => ({ ...category, codes: integersFor(rows) }));
  const floats = [
    target,
    draw,
    ...(weight ? [weight] : []),
    ...(moment ? [moment] : []),
    ...numbers.map((number) => number.values),
  ];
  const integers = [...(frame.folded ? [fold] : []), ...categories.map((category) => category.codes)];
  const reader = new RowReader(floats, integers, rows);
  const started = performance.now();
  const sql = streamSql(frame);
  let reported = 0;
  await session.copyOut(`COPY (${sql}) TO STDOUT (FORMAT binary)`, (view, from, to) => {
    reader.take(view, from, to);
    if (reader.rows - reported > 100_000) {
      reported = reader.rows;
      progress(reported);
    }
  });
  session.note({
    sql,
    purpose: "stream the training frame to the worker",
    milliseconds: performance.now() - started,
    rows: reader.rows,
  });
  session.leave({
    streamed: reader.rows,
    values: reader.rows * (floats.length + integers.length),
  });
  if (reader.rows !== rows) throw new Error(`expected ${rows} rows, ${reader.rows} came`);
  return {
    rows,
    target,
    draw,
    weight,
    moment,
    numbers,
    categories,
    fold: frame.folded ? Int16Array.from(fold) : new Int16Array(rows).fill(-1),
  };
}

/**
 * Reads PostgreSQL's binary COPY format into columns ("File Formats, Binary Format" in its manual). Rows come whole: the server
 * sends each as one message, the first together with the header.
 */
export class RowReader {
  rows = 0;
  private started = false;

  constructor(
    private readonly floats: readonly Float64Array[],
    private readonly integers: readonly Int32Array[],
    private readonly most: number,
  ) {}

  /** Reads the rows between two places. @throws Error when a row is cut off, or more come than there is room for */
  readonly take = (view: DataView, from: number, to: number): void => {
    let at = from;
    if (!this.started) {
      at += HEADER_BYTES;
      this.started = true;
    }
    while (at + 2 <= to) {
      if (view.getInt16(at) === -1) return;
      if (this.rows >= this.most) throw new Error("more rows came than were counted");
      at = this.row(view, at);
    }
    if (at !== to) throw new Error("a row came in pieces");
  };

  private row(view: DataView, from: number): number {
    const { floats, integers, rows } = this;
    let at = from + 2;
    for (let index = 0; index < floats.length; index += 1) {
      if (view.getInt32(at) === -1) {
        floats[index]![rows] = Number.NaN;
        at += 4;
      } else {
        const value = view.getFloat64(at + 4);
        floats[index]![rows] = value === value ? value : Infinity;
        at += 12;
      }
    }
    for (let index = 0; index < integers.length; index += 1) {
      if (view.getInt32(at) === -1) {
        integers[index]![rows] = 0;
        at += 4;
      } else {
        integers[index]![rows] = view.getInt32(at + 4);
        at += 8;
      }
    }
    this.rows = rows + 1;
    return at;
  }
}
