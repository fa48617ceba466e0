import { isUtf8 } from "node:buffer";
import { createReadStream } from "node:fs";
import { open } from "node:fs/promises";
import { CsvReader, type ReadRows } from "@/core/files/csv-reader";
import { lookAtText, newlineOf } from "@/core/files/text-look";
import type { LookWishes, TextLook } from "@/core/files/look";

const PIECE = 1 << 20;
const HEAD = 1 << 18;

/** Rows read from a file, with how many of its bytes are behind them. */
export interface Batch extends ReadRows {
  readonly bytes: number;
}

export interface OpenRows {
  /** Known as soon as the first batch was read. */
  readonly headings: () => readonly string[];
  readonly batches: AsyncIterable<Batch>;
}

export interface TextFacts {
  readonly look: TextLook;
  readonly newline: string;
  /** Bytes of a byte-order mark. */
  readonly skip: number;
  readonly notes: readonly string[];
}

async function* pieces(file: string, signal?: AbortSignal, start = 0): AsyncGenerator<Buffer> {
  for await (const piece of createReadStream(file, {
    highWaterMark: PIECE,
    start,
    ...(signal ? { signal } : {}),
  }))
    yield piece as Buffer;
}

/** Marks at the beginning of a file that name its encoding. */
function markOf(head: Buffer): { readonly encoding: string; readonly skip: number } | undefined {
  if (head.subarray(0, 3).equals(Buffer.from([0xef, 0xbb, 0xbf]))) return { encoding: "utf-8", skip: 3 };
  if (head[0] === 0xff && head[1] === 0xfe) return { encoding: "utf-16le", skip: 2 };
  if (head[0] === 0xfe && head[1] === 0xff) return { encoding: "utf-16be", skip: 2 };
  return undefined;
}

/** Which encoding a file without a mark is in: all of it is looked at. */
async function guessEncoding(
  file: string,
  signal?: AbortSignal,
): Promise<{ readonly encoding: string; readonly note?: string }> {
  let wrong = 0;
  let right = 0;
  let rest: Buffer = Buffer.alloc(0);
  for await (const piece of pieces(file, signal)) {
    const bytes = rest.length > 0 ? Buffer.concat([rest, piece]) : piece;
    // A character may be cut in two at the end of a piece.
    let end = bytes.length;
    while (end > 0 && end > bytes.length - 4 && (bytes[end - 1]! & 0xc0) === 0x80) end -= 1;
    if (end > 0 && bytes[end - 1]! >= 0xc0) end -= 1;
    const whole = bytes.subarray(0, end);
    rest = bytes.subarray(end);
    if (isUtf8(whole)) continue;
    const text = new TextDecoder("utf-8").decode(whole);
    for (const character of text) {
      if (character === "\ufffd") wrong += 1;
      else if (character > "\u007f") right += 1;
    }
  }
  if (rest.length > 0 && !isUtf8(rest)) wrong += 1;
  if (wrong === 0) return { encoding: "utf-8" };
  if (right > 4 * wrong)
    return {
      encoding: "utf-8",
      note: `${wrong} bytes are not UTF-8: the file mixes encodings. Rows with such bytes are rejected.`,
    };
  return {
    encoding: "windows-1252",
    note: "The file is not UTF-8; it is read as Windows-1252 (Western European).",
  };
}

/** How a text file is to be read. Settings given are kept, the others are found out. */
export async function lookAtTextFile(
  file: string,
  wishes: LookWishes["text"] = {},
  signal?: AbortSignal,
): Promise<TextFacts> {
  const given = Object.fromEntries(
    Object.entries(wishes).filter(([, value]) => value !== undefined),
  ) as Partial<TextLook>;
  const handle = await open(file);
  const head = Buffer.alloc(HEAD);
  const { bytesRead } = await handle.read(head, 0, HEAD, 0).finally(() => handle.close());
  const begin = head.subarray(0, bytesRead);
  const mark = markOf(begin);
  const guess = given.encoding === undefined && !mark ? await guessEncoding(file, signal) : undefined;
  const encoding = given.encoding ?? mark?.encoding ?? guess?.encoding ?? "utf-8";
  const skip = mark && mark.encoding === encoding ? mark.skip : 0;
  const text = new TextDecoder(encoding).decode(begin.subarray(skip));
  const newline = newlineOf(text);
  const lines = bytesRead === HEAD ? text.slice(0, text.lastIndexOf(newline) + 1) : text;
  return {
    look: { ...lookAtText(lines), ...given, encoding },
    newline,
    skip,
    notes: guess?.note ? [guess.note] : [],
  };
}

/** Reads the rows of a delimited file, a piece at a time. */
export function openText(
  file: string,
  facts: Pick<TextFacts, "look" | "newline" | "skip">,
  width: number | undefined,
  signal?: AbortSignal,
): OpenRows {
  const reader = new CsvReader(facts.look, facts.newline);
  let first: readonly string[] | undefined;
  const damaged = facts.look.encoding === "utf-8";
  async function* batches(): AsyncGenerator<Batch> {
    const decoder = new TextDecoder(facts.look.encoding);
    let bytes = facts.skip;
    // Once something could not be decoded, every row from there on is looked at.
    let suspect = false;
    const put = (read: ReadRows): Batch => {
      first ??= read.rows[0]?.values.map((_, place) => `column ${place + 1}`);
      return { ...(suspect ? withoutDamage(read) : read), bytes };
    };
    for await (const piece of pieces(file, signal, facts.skip)) {
      bytes += piece.length;
      const text = decoder.decode(piece, { stream: true });
      suspect = suspect || (damaged && text.includes("\ufffd"));
      yield put(reader.push(text));
    }
    suspect = damaged;
    yield put(reader.push(decoder.decode()));
    yield put(reader.end());
  }
  return {
    headings: () =>
      reader.heading ?? first ?? Array.from({ length: width ?? 0 }, (_, place) => `column ${place + 1}`),
    batches: batches(),
  };
}

/** Rows with bytes that are no UTF-8 are broken: what they mean is not known. */
function withoutDamage(read: ReadRows): ReadRows {
  const bad = read.rows.filter((row) => row.values.some((value) => value?.includes("\ufffd")));
  if (bad.length === 0) return read;
  return {
    rows: read.rows.filter((row) => !bad.includes(row)),
    broken: [
      ...read.broken,
      ...bad.map((row) => ({
        line: row.line,
        reason: "bytes that are not UTF-8",
        text: row.values.join(",").slice(0, 200),
      })),
    ].sort((left, right) => left.line - right.line),
  };
}
