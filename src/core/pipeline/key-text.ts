/** A row's key of one or several columns as one text, for addresses: parts parted by "~", which inside a part is marked. */
export const writeKey = (parts: readonly string[]): string =>
  parts.map((part) => part.replaceAll(/[\\~]/g, "\\$&")).join("~");

/** Reads back what {@link writeKey} wrote. */
export function readKey(written: string): readonly string[] {
  const parts = [""];
  for (const [piece] of written.matchAll(/\\[\s\S]|[\s\S]/gu)) {
    if (piece === "~") parts.push("");
    else parts.push(`${parts.pop()!}${piece.length > 1 && piece.startsWith("\\") ? piece.slice(1) : piece}`);
  }
  return parts;
}
