/** Every kind of warehouse takes names of so many bytes; where one cuts longer names, they would mean another object. */
const IDENTIFIER_BYTES = 63;

/** Whether a name can be that of a column or table: not empty, no NUL, at most 63 bytes of UTF-8. */
export function isUsableIdentifier(name: string): boolean {
  return name.length > 0 && !name.includes("\0") && new TextEncoder().encode(name).length <= IDENTIFIER_BYTES;
}
