import { formatNumber } from "@/core/format/numbers";
import { plainText, type Sheet, type WorkbookParts } from "./parts";
import { noWorkbook, readAllXml, readXml, tooLarge, type Tag, type XmlReader } from "./xml";

/** What is called for what a sheet holds, in its order: rows are counted from 1, columns from 0. */
interface SheetReader {
  readonly row: (line: number) => void;
  readonly cell: (column: number, value: string) => void;
  readonly endRow: () => void;
}

/** Cells that are shown as one: from its first to its last row and column. */
interface Merge {
  readonly top: number;
  readonly left: number;
  readonly bottom: number;
  readonly right: number;
}

/** What has to be known of a sheet before its rows are read. */
export interface SheetFacts {
  readonly merges: readonly Merge[];
  /** Columns up to the last one with a value. */
  readonly width: number;
  readonly cells: number;
}

const MOST_CELLS = 200_000_000;
const MOST_MERGES = 200_000;
/** As many columns as a table of PostgreSQL can have. */
const MOST_COLUMNS = 1600;
const MILLISECONDS_PER_DAY = 86_400_000;
/** Days from the first of January 1970 back to the day that is counted as 0. */
const [DAYS_1900, DAYS_1904] = [25_569, 24_107];

/** A cell's name, such as B7, as row and column; undefined where it is none. */
function placeOf(name: string): { readonly row: number; readonly column: number } | undefined {
  const found = /^\$?([A-Za-z]{1,3})\$?(\d{1,7})$/.exec(name);
  if (!found) return undefined;
  const column = [...found[1]!.toUpperCase()].reduce(
    (sum, letter) => 26 * sum + letter.charCodeAt(0) - 64,
    0,
  );
  return { row: Number(found[2]), column: column - 1 };
}

function mergeOf(range: string): Merge | undefined {
  const [from, to] = range.split(":").map(placeOf);
  return from && to && { top: from.row, left: from.column, bottom: to.row, right: to.column };
}

/** The moment that a count of days stands for, as text: a date, or a date with its time. */
function momentText(days: number, from1904: boolean): string | null {
  const moment = new Date(Math.round((days - (from1904 ? DAYS_1904 : DAYS_1900)) * MILLISECONDS_PER_DAY));
  if (Number.isNaN(moment.getTime())) return null;
  const text = moment.toISOString();
  return text.endsWith("T00:00:00.000Z") ? text.slice(0, 10) : text.slice(0, 19).replace("T", " ");
}

/** What a cell shows, as text. Formulas have their stored result; an error is missing. */
function shownText(text: string, { attributes }: Tag, book: WorkbookParts): string | null {
  switch (attributes["t"]) {
    case "s":
      return book.strings[Number(text)] ?? null;
    case "str":
    case "inlineStr":
      return plainText(text);
    case "b":
      return text.trim() === "1" ? "true" : "false";
    case "e":
      return null;
    case "d":
      return text;
    default: {
      const number = Number(text);
      if (text.trim() === "" || Number.isNaN(number)) return null;
      return book.dates[Number(attributes["s"])] === true
        ? momentText(number, book.from1904)
        : String(number);
    }
  }
}

/** Reads the cells of a sheet in their order, whether or not they say where they are. */
function cellReader(book: WorkbookParts, sheet: SheetReader): XmlReader {
  let line = 0;
  let column = -1;
  let cell: Tag | undefined;
  let text = "";
  let taking = false;
  return {
    open: (tag) => {
      if (tag.name === "row") {
        line = Number(tag.attributes["r"]) || line + 1;
        column = -1;
        sheet.row(line);
      } else if (tag.name === "c") {
        cell = tag;
        column = placeOf(tag.attributes["r"] ?? "")?.column ?? column + 1;
        text = "";
      } else if (cell && (tag.name === "v" || tag.name === "t")) taking = true;
      else if (tag.name === "rPh") taking = false;
    },
    text: (more) => {
      if (taking) text += more;
    },
    close: (name) => {
      if (name === "v" || name === "t") taking = false;
      else if (name === "row") sheet.endRow();
      else if (name === "c" && cell) {
        const value = text === "" ? null : shownText(text, cell, book);
        if (value !== null) sheet.cell(column, value);
        cell = undefined;
      }
    },
  };
}

/** Goes through a sheet once, for what its rows depend on. Problems: workbook_too_large. */
export async function sheetFacts(book: WorkbookParts, sheet: Sheet): Promise<SheetFacts> {
  const merges: Merge[] = [];
  let width = 0;
  let cells = 0;
  const reader = cellReader(book, {
    row: () => undefined,
    cell: (column) => {
      width = Math.max(width, column + 1);
      cells += 1;
      if (width > MOST_COLUMNS)
        throw tooLarge(
          `The sheet “${sheet.name}” has a value in column ${formatNumber(width)}; the maximum is ${formatNumber(MOST_COLUMNS)} columns.`,
        );
      if (cells > MOST_CELLS)
        throw tooLarge(`The sheet “${sheet.name}” has more than ${formatNumber(MOST_CELLS)} cells.`);
    },
    endRow: () => undefined,
  });
  await readAllXml(sheet.part(), {
    ...reader,
    open: (tag) => {
      const merge = tag.name === "mergeCell" ? mergeOf(tag.attributes["ref"] ?? "") : undefined;
      if (merge && merges.push(merge) > MOST_MERGES)
        throw tooLarge(`The sheet “${sheet.name}” has more than ${formatNumber(MOST_MERGES)} merged cells.`);
      reader.open?.(tag);
    },
  });
  return { merges: merges.sort((left, right) => left.top - right.top), width, cells };
}

export interface SheetRow {
  readonly line: number;
  readonly values: (string | null)[];
}

/** Fills merged cells with the value of the first one, row by row. */
class Merges {
  private next = 0;
  private active: { readonly merge: Merge; readonly value: string | null }[] = [];

  constructor(private readonly merges: readonly Merge[]) {}

  fill({ line, values }: SheetRow): void {
    this.active = this.active.filter(({ merge }) => merge.bottom >= line);
    for (; this.next < this.merges.length && this.merges[this.next]!.top <= line; this.next += 1) {
      const merge = this.merges[this.next]!;
      if (merge.bottom >= line)
        this.active.push({ merge, value: merge.top === line ? (values[merge.left] ?? null) : null });
    }
    if (this.active.length > values.length) throw noWorkbook("its merged cells overlap.");
    for (const { merge, value } of this.active)
      values.fill(value, merge.left, Math.min(merge.right + 1, values.length));
  }
}

/** The rows of a sheet that have a value, a piece of the file at a time; memory does not grow with them. */
export async function* sheetRows(
  book: WorkbookParts,
  sheet: Sheet,
  { merges, width }: SheetFacts,
): AsyncGenerator<SheetRow[]> {
  const merged = new Merges(merges);
  let found: SheetRow[] = [];
  let current: SheetRow = { line: 0, values: [] };
  const reader = cellReader(book, {
    row: (line) => {
      current = { line, values: Array.from({ length: width }, () => null) };
    },
    cell: (column, value) => {
      current.values[column] = value;
    },
    endRow: () => {
      merged.fill(current);
      if (current.values.some((value) => value !== null && value.trim() !== "")) found.push(current);
    },
  });
  for await (const _piece of readXml(sheet.part(), reader)) {
    void _piece;
    if (found.length === 0) continue;
    yield found;
    found = [];
  }
}
