import { once } from "node:events";
import { to as copyTo } from "pg-copy-streams";
import type { ColumnData } from "@/core/learn/memory/column-data";
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
export function streamSql({ frame, where, numbers, categories, weighted, timed, folded }: StreamedFrame): string {
  const items = [TARGET_COLUMN, DRAW_COLUMN, ...(weighted ? [WEIGHT_COLUMN] : []), ...(timed ? [MOMENT_COLUMN] : []), ...numbers].map((name) => quoteIdentifier(name));
  const codes = [...(folded ? [`${quoteIdentifier(FOLD_COLUMN)}::integer`] : []), ...categories.map((each) => quoteIdentifier(each.column))];
  return `SELECT ${[...items, ...codes].join(", ")} FROM ${frame}${where === "" ? "" : ` WHERE ${where}`}`;
}

/**
 * Streams a frame's rows into typed arrays, once, by binary COPY. Missing numbers become NaN; PostgreSQL's own NaN, which it
 * orders above every number, becomes Infinity.
 * @param progress told now and then how many rows have come
 */
export async function streamFrame(session: WarehouseSession, frame: StreamedFrame, progress: (rows: number) => Promise<void> | void = () => undefined): Promise<ColumnData> {
  const { rows } = frame;
  const doubles = (): Float64Array => new Float64Array(rows);
  const target = doubles();
  const draw = doubles();
  const weight = frame.weighted ? doubles() : undefined;
  const moment = frame.timed ? doubles() : undefined;
  const numbers = frame.numbers.map((column) => ({ column, values: doubles() }));
  const fold = new Int32Array(frame.folded ? rows : 0);
  const categories = frame.categories.map((each) => ({ ...each, codes: new Int32Array(rows) }));
  const floats = [target, draw, ...(weight ? [weight] : []), ...(moment ? [moment] : []), ...numbers.map((each) => each.values)];
  const integers = [...(frame.folded ? [fold] : []), ...categories.map((each) => each.codes)];
  const reader = new RowReader(floats, integers, rows);
  const started = performance.now();
  const sql = streamSql(frame);
  const stream = session.client.query(copyTo(`COPY (${sql}) TO STDOUT (FORMAT binary)`));
  let reported = 0;
  stream.on("data", (chunk: Buffer) => {
    reader.take(chunk);
    if (reader.rows - reported > 100_000) {
      reported = reader.rows;
      void progress(reported);
    }
  });
  await once(stream, "end");
  session.note({ sql, purpose: "stream the training frame to the worker", milliseconds: performance.now() - started, rows: reader.rows });
  if (reader.rows !== rows) throw new Error(`expected ${rows} rows, ${reader.rows} came`);
  return { rows, target, draw, weight, moment, numbers, categories, fold: frame.folded ? Int16Array.from(fold) : new Int16Array(rows).fill(-1) };
}

/** Reads PostgreSQL's binary COPY format into columns. Rows may be cut anywhere between two chunks. */
export class RowReader {
  rows = 0;
  private rest: Buffer = Buffer.alloc(0);
  private started = false;

  constructor(private readonly floats: readonly Float64Array[], private readonly integers: readonly Int32Array[], private readonly most: number) {}

  take(chunk: Buffer): void {
    const data = this.rest.length === 0 ? chunk : Buffer.concat([this.rest, chunk]);
    let at = 0;
    if (!this.started) {
      if (data.length < HEADER_BYTES) {
        this.rest = data;
        return;
      }
      at = HEADER_BYTES;
      this.started = true;
    }
    const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
    const { floats, integers } = this;
    // A row takes at most this: a count, and a length and a value for each column.
    const widest = 2 + 12 * floats.length + 8 * integers.length;
    while (at + 2 <= data.length) {
      if (view.getInt16(at) === -1) {
        at = data.length;
        break;
      }
      if (at + widest > data.length && !this.whole(view, at, data.length)) break;
      if (this.rows >= this.most) throw new Error("more rows came than were counted");
      at = this.row(view, at);
    }
    this.rest = data.subarray(at);
  }

  /** Whether a row that may be cut off is there to its end. */
  private whole(view: DataView, from: number, end: number): boolean {
    let at = from + 2;
    for (let field = 0; field < this.floats.length + this.integers.length; field += 1) {
      if (at + 4 > end) return false;
      const length = view.getInt32(at);
      at += 4 + Math.max(0, length);
    }
    return at <= end;
  }

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
