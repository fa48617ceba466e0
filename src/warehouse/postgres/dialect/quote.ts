import { isUsableIdentifier } from "@/core/names/identifier";

/*
 * The one place where names and values become SQL text.
 * Everything that reaches the warehouse passes through here or through a bound parameter.
 */

/** A quoted identifier. Throws on names that no PostgreSQL object can have; check with {@link isUsableIdentifier} first. */
export function quoteIdentifier(name: string): string {
  if (!isUsableIdentifier(name))
    throw new RangeError(`not a usable identifier: ${JSON.stringify(name.slice(0, 80))}`);
  return `"${name.replaceAll('"', '""')}"`;
}

/** A quoted, schema-qualified name. */
export function quoteTable(table: { readonly schema: string; readonly table: string }): string {
  return `${quoteIdentifier(table.schema)}.${quoteIdentifier(table.table)}`;
}

/** A string literal that means the same whatever `standard_conforming_strings` says. */
export function quoteText(value: string): string {
  if (value.includes("\0")) throw new RangeError("a text value cannot hold a NUL character");
  const escaped = value.replaceAll("'", "''");
  return escaped.includes("\\") ? `E'${escaped.replaceAll("\\", "\\\\")}'` : `'${escaped}'`;
}

/** A double precision constant that PostgreSQL reads back to the same 64 bits. */
export function quoteDouble(value: number): string {
  if (Number.isNaN(value)) return "'NaN'::double precision";
  if (!Number.isFinite(value))
    return value > 0 ? "'Infinity'::double precision" : "'-Infinity'::double precision";
  const text = Object.is(value, -0) ? "0" : String(value);
  return text.startsWith("-") ? `(${text})::double precision` : `${text}::double precision`;
}

/** A number written by a person in an expression, already known to consist of digits, point and exponent. */
export function quoteNumeric(text: string): string {
  if (!/^-?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d+)?$/.test(text))
    throw new RangeError(`not a number: ${text.slice(0, 40)}`);
  return text.startsWith("-") ? `(${text})` : text;
}

/** Text that may stand in an SQL comment: one line, and unable to end the comment. */
export function commentText(text: string): string {
  return text
    .replaceAll(/[\r\n\0]+/g, " ")
    .replaceAll("*/", "* /")
    .replaceAll("/*", "/ *");
}
