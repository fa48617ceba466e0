import type { OrderEntry } from "./controls";

export const list = (value: unknown): readonly string[] => (Array.isArray(value) ? value.map(String) : []);
export const record = (value: unknown): Readonly<Record<string, unknown>> =>
  typeof value === "object" && value !== null && !Array.isArray(value)
    ? (value as Readonly<Record<string, unknown>>)
    : {};
export const words = (value: unknown): string =>
  typeof value === "string" || typeof value === "number" || typeof value === "boolean" ? String(value) : "";
/** An empty list of something that may be left out is left out. */
export const orAbsent = <T>(values: readonly T[]): readonly T[] | undefined =>
  values.length === 0 ? undefined : values;

/** A number, or the text that is none, for the checker to say so. */
export function asNumber(text: string): number | string {
  const value = Number(text);
  return Number.isNaN(value) ? text : value;
}

/** A text that is a number or yes/no becomes one; anything else stays a text. */
export function asConstant(text: string): string | number | boolean | undefined {
  if (text === "") return undefined;
  if (text === "true" || text === "false") return text === "true";
  return /^-?\d+(\.\d+)?$/.test(text.trim()) ? Number(text) : text;
}

export const orders = (value: unknown): readonly OrderEntry[] =>
  (Array.isArray(value) ? value : []).map((entry: unknown) =>
    typeof entry === "string"
      ? { column: entry, descending: false }
      : { column: words(record(entry)["column"]), descending: record(entry)["descending"] === true },
  );
