import type { TableReference } from "../relation/relation";

/**
 * Reads "schema.table" as SQL would: parts may be in double quotes (doubled inside), so names with dots,
 * spaces and capitals can be written. Unquoted parts are taken literally, capitals included.
 * Gives undefined when the text is not exactly two parts.
 */
export function parseTableName(text: string): TableReference | undefined {
  const match = /^\s*(?:"((?:[^"]|"")+)"|([^".]+))\s*\.\s*(?:"((?:[^"]|"")+)"|([^".]+))\s*$/.exec(text);
  if (!match) return undefined;
  const schema = match[1]?.replaceAll('""', '"') ?? match[2]?.trim();
  const table = match[3]?.replaceAll('""', '"') ?? match[4]?.trim();
  return schema && table ? { schema, table } : undefined;
}

/** Writes a table so that {@link parseTableName} reads it back. */
export function writeTableName(source: TableReference): string {
  const part = (name: string): string => (/^[^".\s]+$/.test(name) ? name : `"${name.replaceAll('"', '""')}"`);
  return `${part(source.schema)}.${part(source.table)}`;
}
