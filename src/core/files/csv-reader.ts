import Papa from "papaparse";
import type { Misfit, TextLook } from "./look";

/** A row of a file with the line it begins on, from 1. */
export interface FileRow {
  readonly line: number;
  readonly values: readonly (string | null)[];
}

export interface ReadRows {
  readonly rows: readonly FileRow[];
  readonly broken: readonly Misfit[];
}

/** An open quote that is not closed within so many characters is taken for a mistake of its line. */
const MOST_OPEN = 16_000_000;
const SHOWN = 200;

interface Line {
  readonly number: number;
  readonly text: string;
}

/**
 * Reads delimited text piece by piece. A line on which a quote stays open is joined with those after it; when that
 * makes no row of the right width, only that line is broken, and reading goes on with the next. So one stray quote
 * costs one row, not the rest of the file.
 */
export class CsvReader {
  /** The header, once it was read. */
  heading: readonly string[] | undefined;
  private width: number | undefined;
  private rest = "";
  private line = 0;
  private open: Line[] = [];
  private openLength = 0;

  constructor(
    private readonly look: TextLook,
    private readonly newline = "\n",
  ) {}

  push(piece: string): ReadRows {
    const text = this.rest + piece;
    const lines = text.split(this.newline);
    this.rest = lines.pop() ?? "";
    return this.take(lines);
  }

  end(): ReadRows {
    const last = this.rest;
    this.rest = "";
    const read = this.take(last === "" ? [] : [last]);
    const rows = [...read.rows];
    const broken = [...read.broken];
    while (this.open.length > 0) {
      const again = this.giveUpOpen();
      rows.push(...again.rows);
      broken.push(...again.broken);
    }
    return { rows, broken };
  }

  private take(texts: string[]): ReadRows {
    const first = this.line + 1;
    this.line += texts.length;
    for (let at = 0; at < texts.length; at += 1) {
      const text = texts[at]!;
      if (text.charCodeAt(text.length - 1) === 13) texts[at] = text.slice(0, -1);
    }
    // Most pieces hold no open quote at all, and are one run of single lines.
    return this.open.length === 0 && !texts.some((text) => text === "" || this.isOdd(text))
      ? this.parse(texts, (index) => first + index)
      : this.feed(texts.map((text, index) => ({ number: first + index, text })));
  }

  private feed(lines: readonly Line[]): ReadRows {
    const rows: FileRow[] = [];
    const broken: Misfit[] = [];
    let single: Line[] = [];
    const add = (read: ReadRows): void => {
      for (const row of read.rows) rows.push(row);
      for (const misfit of read.broken) broken.push(misfit);
    };
    const flush = (): void => {
      const run = single;
      single = [];
      if (run.length > 0)
        add(
          this.parse(
            run.map((line) => line.text),
            (index) => run[index]!.number,
          ),
        );
    };
    for (const line of lines) {
      const odd = this.isOdd(line.text);
      if (this.open.length === 0) {
        if (odd) {
          flush();
          this.open = [line];
          this.openLength = line.text.length;
        } else if (line.text !== "") single.push(line);
        continue;
      }
      this.open.push(line);
      this.openLength += line.text.length + 1;
      if (odd) add(this.closeOpen());
      else if (this.openLength > MOST_OPEN) add(this.giveUpOpen());
    }
    flush();
    return { rows, broken };
  }

  private isOdd(text: string): boolean {
    const { quote } = this.look;
    if (quote === "") return false;
    let odd = false;
    for (let at = text.indexOf(quote); at >= 0; at = text.indexOf(quote, at + 1)) odd = !odd;
    return odd;
  }

  /** The open lines became whole: one row, or a broken line and others to read again. */
  private closeOpen(): ReadRows {
    const [first] = this.open;
    const read = this.parse([this.open.map((line) => line.text).join("\n")], () => first!.number, true);
    if (read.broken.length > 0) return this.giveUpOpen();
    this.open = [];
    return read;
  }

  private giveUpOpen(): ReadRows {
    const [first, ...others] = this.open;
    this.open = [];
    const read = this.feed(others);
    return {
      rows: read.rows,
      broken: [
        {
          line: first!.number,
          reason: "a quote is not closed",
          text: first!.text.slice(0, SHOWN),
        },
        ...read.broken,
      ],
    };
  }

  /** Reads rows, one for each text. */
  private parse(texts: readonly string[], lineOf: (index: number) => number, whole = false): ReadRows {
    if (texts.length === 0) return { rows: [], broken: [] };
    const { delimiter, quote } = this.look;
    const options = {
      delimiter,
      newline: "\n" as const,
      ...(quote === "" ? { quoteChar: "\0" } : { quoteChar: quote }),
      skipEmptyLines: false,
    };
    const parsed = Papa.parse<string[]>(texts.join("\n"), options);
    const wrong = new Map(
      parsed.errors
        .filter((error) => error.type === "Quotes")
        .map((error) => [error.row ?? 0, "a quote in the middle of a value"]),
    );
    const shifted = parsed.data.length !== texts.length;
    // Quotes that do not pair up can shift rows against lines: then each line is read by itself.
    if (!whole && shifted && texts.length > 1) {
      const reads = texts.map((text, index) => this.parse([text], () => lineOf(index)));
      return { rows: reads.flatMap((name) => name.rows), broken: reads.flatMap((name) => name.broken) };
    }
    const rows: FileRow[] = [];
    const broken: Misfit[] = [];
    for (let index = 0; index < texts.length; index += 1) {
      const values = parsed.data[index] ?? [];
      const reason = wrong.get(index) ?? (shifted ? "unbalanced quotes" : this.misfitOf(values));
      if (reason === undefined) rows.push({ line: lineOf(index), values });
      else if (reason !== "header")
        broken.push({ line: lineOf(index), reason, text: texts[index]!.slice(0, SHOWN) });
    }
    return { rows, broken };
  }

  private misfitOf(values: readonly string[]): string | undefined {
    if (this.width === undefined) {
      this.width = values.length;
      if (this.look.header) {
        this.heading = values;
        return "header";
      }
    }
    if (values.length !== this.width)
      return `${values.length} value${values.length === 1 ? "" : "s"} where ${this.width} are expected`;
    if (
      this.heading &&
      values.length > 1 &&
      values[0] === this.heading[0] &&
      values.every((value, index) => value === this.heading?.[index])
    )
      return "the header row repeated";
    return undefined;
  }
}
