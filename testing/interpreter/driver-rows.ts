import { toDouble, writeNumeric, type Numeric } from "./numeric";
import type { Rows } from "./relations";
import { isDouble, isWhole, writeValue, type Type, type Value } from "./values";

const exactNumber = (text: string): number | string =>
  Number.isSafeInteger(Number(text)) || text.includes(".") ? Number(text) : text;

const isNumeric = (value: Value): value is Exclude<Numeric, string> =>
  typeof value === "object" && value !== null && "units" in value;

/** An element of a list, whose type is not known. */
function element(value: Value): unknown {
  if (typeof value === "bigint") return exactNumber(String(value));
  return isNumeric(value) ? toDouble(value) : value;
}

function driverValue(type: Type, value: Value): unknown {
  if (value === null || typeof value === "boolean") return value;
  if (isWhole(type)) return exactNumber(String(value));
  if (type === "numeric")
    return exactNumber(typeof value === "string" ? value : writeNumeric(value as Numeric));
  if (isDouble(type)) return value;
  if (Array.isArray(value)) return value.map((part: Value) => element(part));
  if (type === "unknown") return element(value);
  return writeValue(type, value);
}

/** Rows as the readers of questions take them: counts and figures as numbers, dates and times as texts. */
export const driverRows = ({ columns, rows }: Rows): readonly Readonly<Record<string, unknown>>[] =>
  rows.map((row) =>
    Object.fromEntries(columns.map(({ name, type }, place) => [name, driverValue(type, row[place] ?? null)])),
  );
