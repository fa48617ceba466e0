/** The longest name, in bytes: PostgreSQL cuts longer ones, so that they would mean another object. */
const IDENTIFIER_BYTES = 63;

/** Whether a name can be that of a column or table: not empty, no NUL, at most 63 bytes of UTF-8. */
export function isUsableIdentifier(name: string): boolean {
  return name.length > 0 && !name.includes("\0") && new TextEncoder().encode(name).length <= IDENTIFIER_BYTES;
}
