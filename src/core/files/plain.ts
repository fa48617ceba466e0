import { Fits } from "./classify";
import type { Choices, FileLook, LoadedType } from "./look";

/** Masks of values that PostgreSQL reads as a type just as they stand in the file. */
const AS_THEY_STAND: Readonly<Partial<Record<LoadedType, number>>> = {
  smallint: Fits.INTEGER,
  integer: Fits.INTEGER,
  bigint: Fits.INTEGER | Fits.BIGINT,
  numeric: Fits.INTEGER | Fits.BIGINT | Fits.HUGE | Fits.DECIMAL_POINT | Fits.EXPONENT,
  "double precision": Fits.INTEGER | Fits.BIGINT | Fits.DECIMAL_POINT | Fits.EXPONENT | Fits.INFINITE,
  date: Fits.ISO,
  timestamp: Fits.ISO,
  timestamptz: Fits.ISO,
  time: Fits.TIME,
};

/** Spellings of yes and no that PostgreSQL knows. */
const SERVER_BOOLEANS: ReadonlySet<string> = new Set([
  "true",
  "t",
  "yes",
  "y",
  "on",
  "1",
  "false",
  "f",
  "no",
  "n",
  "off",
  "0",
]);

/** Encodings of text files that PostgreSQL converts by itself, by our names for them. */
export const SERVER_ENCODINGS: Readonly<Record<string, string>> = {
  "utf-8": "UTF8",
  "windows-1252": "WIN1252",
  "iso-8859-2": "LATIN2",
  "iso-8859-15": "LATIN9",
  "windows-1250": "WIN1250",
  "windows-1251": "WIN1251",
};

/**
 * Whether a delimited file can be given to the database byte by byte: every row has the right width, every value
 * stands as PostgreSQL reads it, and nothing but an empty value is missing. Else rows are read and written again.
 */
export function isPlain(look: FileLook, choices: Choices): boolean {
  const { text } = choices;
  if (
    look.format !== "csv" ||
    !text ||
    look.broken > 0 ||
    look.newline !== "\n" ||
    text.quote !== '"' ||
    !(text.encoding in SERVER_ENCODINGS) ||
    text.delimiter.charCodeAt(0) > 127
  )
    return false;
  // A file that is now read otherwise than it was looked at has no findings that count.
  const found = look.choices.text;
  if (
    !found ||
    found.delimiter !== text.delimiter ||
    found.quote !== text.quote ||
    found.header !== text.header ||
    found.encoding !== text.encoding
  )
    return false;
  const inOrder =
    choices.columns.length === look.findings.length &&
    choices.columns.every((column, place) => column.take && column.place === place);
  if (!inOrder || !choices.values.missing.includes("")) return false;
  return choices.columns.every((column, place) => {
    const masks = look.findings[place]!.masks;
    const marked = choices.values.missing.length > 1 && masks.some(([mask]) => (mask & Fits.MARKER) !== 0);
    if (marked || column.type === "jsonb") return false;
    if (column.type === "boolean")
      return (
        look.findings[place]!.values?.every((value) => SERVER_BOOLEANS.has(value.trim().toLowerCase())) ??
        false
      );
    const allowed = AS_THEY_STAND[column.type];
    if (allowed === undefined)
      return (
        column.type === "text" &&
        !masks.some(([mask]) => (mask & Fits.MARKER) !== 0 && choices.values.missing.length > 1)
      );
    // A date with a time behind it is no plain date, and zeros in front are dropped as PostgreSQL would drop them.
    return masks.every(
      ([mask]) =>
        (mask & Fits.EMPTY) !== 0 ||
        ((mask & allowed) !== 0 &&
          (mask & Fits.MARKER) === 0 &&
          (column.type !== "date" || (mask & Fits.TIMED) === 0)),
    );
  });
}
