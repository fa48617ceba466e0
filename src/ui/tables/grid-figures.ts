import { alignWithin, type AlignedFigure } from "@/core/format/align-figures";
import type { Rows } from "./use-row-pages";

/** Pixels of a character in the face of figures, and of a cell beside its text. */
const [CHARACTER, AROUND] = [7.3, 16];

type Align = (text: string) => AlignedFigure;

export interface FigureColumn {
  readonly numeric: boolean;
  /** Pixels. */
  readonly width: number;
}

function alignColumn(rows: Rows, index: number, { numeric, width }: FigureColumn): Align | undefined {
  if (!numeric) return undefined;
  const texts = rows.flatMap((row) => row[index] ?? []);
  return alignWithin(texts, (width - AROUND) / CHARACTER);
}

const known = new WeakMap<Rows, readonly (Align | undefined)[]>();

/**
 * How the figures of a page of rows are padded so that their decimal points stand under each other: for every column a function, or
 * undefined for texts and where the padded figures would be wider than the column.
 */
export function gridFigures(rows: Rows, columns: readonly FigureColumn[]): readonly (Align | undefined)[] {
  const found = known.get(rows) ?? columns.map((column, index) => alignColumn(rows, index, column));
  known.set(rows, found);
  return found;
}
