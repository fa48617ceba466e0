import Papa from "papaparse";
import { classify, Fits } from "./classify";
import type { TextLook } from "./look";

const DELIMITERS = [",", ";", "\t", "|", ":"] as const;
const LINES = 200;

interface Reading {
  readonly look: Pick<TextLook, "delimiter" | "quote">;
  readonly rows: readonly (readonly string[])[];
  readonly score: number;
}

/** How well a delimiter fits: the share of lines with the most common number of fields, and how many fields those are. */
function read(text: string, delimiter: string, quote: string): Reading {
  const parsed = Papa.parse<string[]>(text, {
    delimiter,
    quoteChar: quote === "" ? "\0" : quote,
    preview: LINES,
    skipEmptyLines: true,
  });
  const rows = parsed.data;
  const widths = new Map<number, number>();
  for (const row of rows) widths.set(row.length, (widths.get(row.length) ?? 0) + 1);
  const [width = 1, lines = 0] =
    [...widths].sort((left, right) => right[1] - left[1] || right[0] - left[0])[0] ?? [];
  const errors = parsed.errors.filter((error) => error.type === "Quotes").length;
  return {
    look: { delimiter, quote },
    rows,
    score:
      rows.length === 0 || width < 2
        ? 0
        : lines / rows.length + Math.log2(width) / 100 - errors / rows.length,
  };
}

/** The line break of a text. */
export const newlineOf = (text: string): string =>
  !text.includes("\n") && text.includes("\r") ? "\r" : "\n";

/**
 * Delimiter, quoting and header of delimited text, from its beginning.
 * @param head whole lines
 */
export function lookAtText(head: string): Omit<TextLook, "encoding"> {
  const text = newlineOf(head) === "\r" ? head.replaceAll("\r", "\n") : head;
  const isSingle = !text.includes('"') && /(^|[,;\t|])'[^'\n]*'([,;\t|\r]|$)/m.test(text);
  const quoted = isSingle ? "'" : '"';
  const best = DELIMITERS.map((delimiter) => read(text, delimiter, quoted)).sort(
    (left, right) => right.score - left.score,
  )[0]!;
  const chosen = best.score > 0 ? best : read(text, ",", quoted);
  return { ...chosen.look, header: hasHeader(chosen.rows) };
}

const isBare = (value: string): boolean => {
  const fits = classify(value);
  return (fits & ~Fits.BOOLEAN) === 0;
};

/** Words that say of a number that it is none, and that columns are called by too. */
const NUMBER_WORD = /^[+-]?(nan|na|null|none|inf|infinity)$/i;

/**
 * A first row names columns when all its values are different words, and the rows below look otherwise somewhere.
 * A word such as nan is a name beside other names, when it does not come again below.
 */
function hasHeader(rows: readonly (readonly string[])[]): boolean {
  const [first, ...others] = rows;
  const isName = (value: string, place: number): boolean =>
    isBare(value) || (NUMBER_WORD.test(value.trim()) && !others.some((row) => row[place] === value));
  if (
    !first ||
    first.some((value, place) => value.trim() === "" || !isName(value, place)) ||
    !first.some(isBare) ||
    new Set(first).size !== first.length
  )
    return false;
  if (others.length === 0) return true;
  const typed = first.some(
    (_, place) => others.filter((row) => !isBare(row[place] ?? "")).length > others.length / 2,
  );
  if (typed) return true;
  // All texts: a header is a name, and names do not come again below.
  return (
    first.every((name, place) => !others.some((row) => row[place] === name)) &&
    first.every((name) => name.length <= 40 && !/[.!?]$/.test(name))
  );
}
