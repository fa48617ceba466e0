import { sql, type SQL, type SQLWrapper } from "drizzle-orm";

/** Whether any of some columns contains each of the words that were typed, in capitals or not; everything when nothing was. */
export function containsWords(words: string, columns: readonly SQLWrapper[]): SQL | undefined {
  const parts = words.split(/\s+/).filter((part) => part !== "");
  if (parts.length === 0) return undefined;
  const text = sql`lower(concat_ws(' ', ${sql.join([...columns], sql`, `)}))`;
  return sql.join(
    parts.map((part) => sql`strpos(${text}, lower(${part})) > 0`),
    sql` AND `,
  );
}
