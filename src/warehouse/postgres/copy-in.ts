import { from as copyFrom } from "pg-copy-streams";
import type { Choices } from "@/core/files/look";
import { SERVER_ENCODINGS } from "@/core/files/plain";
import type { TableReference } from "@/core/relation/relation";
import { quoteIdentifier, quoteTable, quoteText } from "./dialect/quote";
import type { RowSink } from "../port/loader";
import type { PostgresSession } from "./session";

const quoted = (columns: readonly string[]): string => columns.map(quoteIdentifier).join(", ");

/** Takes a CSV file as it is, of which an empty field is a missing value. */
export function csvInto(
  session: PostgresSession,
  into: TableReference,
  columns: readonly string[],
  { delimiter, header, encoding }: NonNullable<Choices["text"]>,
): RowSink {
  const names = quoted(columns);
  return session.client.query(
    copyFrom(
      `COPY ${quoteTable(into)} (${names}) FROM STDIN (FORMAT csv, DELIMITER ${quoteText(delimiter)}, HEADER ${header}, NULL '', FORCE_NULL (${names}), ENCODING ${quoteText(SERVER_ENCODINGS[encoding]!)})`,
    ),
  );
}

/** Takes rows as lines of fields that `copyField` (core/files/convert-value) has written, with tabs between them. */
export const linesInto = (
  session: PostgresSession,
  into: TableReference,
  columns: readonly string[],
): RowSink =>
  session.client.query(
    copyFrom(`COPY ${quoteTable(into)} (${quoted(columns)}) FROM STDIN (FORMAT text, ENCODING 'UTF8')`),
  );
