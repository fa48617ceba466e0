/** The signature, flags and extension length that a binary COPY begins with. */
const HEADER_BYTES = 19;

/**
 * Reads PostgreSQL's binary COPY format into columns ("File Formats, Binary Format" in its manual). Rows come
 * whole: the server sends each as one message, the first together with the header.
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
