import type { PostgresWarehouse } from "./warehouse";

const INVALID_PATTERN = "2201B";

/** What PostgreSQL has against a regular expression, in its words; undefined when it takes it. */
export async function badPattern(warehouse: PostgresWarehouse, pattern: string): Promise<string | undefined> {
  try {
    await warehouse.read("SELECT regexp_match('', $1)", [pattern]);
    return undefined;
  } catch (error) {
    const { code, message } = error as { readonly code?: string; readonly message: string };
    if (code !== INVALID_PATTERN) throw error;
    return message.replace(/^invalid regular expression: /, "");
  }
}
