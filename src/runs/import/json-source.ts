import { createReadStream } from "node:fs";
import type { FileRow } from "@/core/files/csv-reader";
import type { Misfit } from "@/core/files/look";
import type { Batch, OpenRows } from "./text-source";

const PIECE = 1 << 20;
const SHOWN = 200;

/** A JSON value as the text of a field. */
export function fieldOf(value: unknown): string | null {
  if (value === null || value === undefined) return null;
  if (typeof value === "string") return value;
  return typeof value === "object" ? JSON.stringify(value) : String(value as number | boolean);
}

/**
 * Reads a file with one JSON object per line. Columns are the names of all objects, in the order in which they appear.
 * @param known names already known from an earlier reading; others are then left out
 */
export function openJsonLines(
  file: string,
  known: readonly string[] | undefined,
  signal?: AbortSignal,
): OpenRows & { readonly nested: () => ReadonlySet<string> } {
  const places = new Map<string, number>((known ?? []).map((name, place) => [name, place]));
  const nested = new Set<string>();
  const read = (line: number, text: string): FileRow | Misfit => {
    let value: unknown;
    try {
      value = JSON.parse(text);
    } catch (error) {
      return {
        line,
        reason: `not valid JSON: ${error instanceof Error ? error.message.slice(0, 80) : ""}`,
        text: text.slice(0, SHOWN),
      };
    }
    if (typeof value !== "object" || value === null || Array.isArray(value))
      return { line, reason: "not a JSON object", text: text.slice(0, SHOWN) };
    const values: (string | null)[] = new Array<string | null>(places.size).fill(null);
    for (const [name, field] of Object.entries(value)) {
      if (typeof field === "object" && field !== null) nested.add(name);
      let place = places.get(name);
      if (place === undefined) {
        if (known) continue;
        place = places.size;
        places.set(name, place);
      }
      while (values.length <= place) values.push(null);
      values[place] = fieldOf(field);
    }
    return { line, values };
  };
  async function* batches(): AsyncGenerator<Batch> {
    const decoder = new TextDecoder("utf-8");
    let rest = "";
    let line = 0;
    let bytes = 0;
    const take = (texts: readonly string[]): Batch => {
      const rows: FileRow[] = [];
      const broken: Misfit[] = [];
      for (const text of texts) {
        line += 1;
        if (text.trim() === "") continue;
        const found = read(line, text);
        if ("values" in found) rows.push(found);
        else broken.push(found);
      }
      return { rows, broken, bytes };
    };
    for await (const piece of createReadStream(file, {
      highWaterMark: PIECE,
      ...(signal ? { signal } : {}),
    })) {
      bytes += (piece as Buffer).length;
      const lines = (rest + decoder.decode(piece as Buffer, { stream: true })).split("\n");
      rest = lines.pop() ?? "";
      yield take(lines);
    }
    yield take([rest + decoder.decode()]);
  }
  return { headings: () => [...places.keys()], batches: batches(), nested: () => nested };
}
