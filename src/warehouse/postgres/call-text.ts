import { quoteIdentifier, quoteTable, quoteText } from "./dialect/quote";
import type { GivenValue } from "../port/functions";

const NUMBER = /^-?\d+(\.\d+)?$/;
const NUMERIC = /^(smallint|integer|bigint|numeric|real|double precision)/;

/** A call of a function in SQL that can be run as it stands, one value a line. */
export function callText(
  place: { readonly schema: string; readonly name: string },
  given: readonly GivenValue[],
): string {
  const name = quoteTable({ schema: place.schema, table: place.name });
  const values = given.map(({ name: parameter, type, value }) => {
    const plain = value !== null && NUMERIC.test(type) && NUMBER.test(value);
    const literal = value === null ? "NULL" : quoteText(value);
    return `  ${quoteIdentifier(parameter)} => ${plain ? value : `${literal}::${type}`}`;
  });
  return `SELECT * FROM ${name}(${values.length > 0 ? `\n${values.join(",\n")}\n` : ""});`;
}
