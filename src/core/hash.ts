import { createHash } from "node:crypto";

/** JSON with object keys in sorted order, so that equal data has equal text. */
export function canonicalJson(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonicalJson).join(",")}]`;
  if (typeof value === "object" && value !== null) {
    const entries = Object.entries(value)
      .filter(([, value]) => value !== undefined)
      .sort(([left], [right]) => (left < right ? -1 : 1));
    return `{${entries.map(([key, value]) => `${JSON.stringify(key)}:${canonicalJson(value)}`).join(",")}}`;
  }
  return JSON.stringify(value) ?? "null";
}

/** SHA-256 of a text, in hexadecimal. */
export const sha256 = (value: string): string => createHash("sha256").update(value).digest("hex");

/** MD5 of a text, in hexadecimal; the same function PostgreSQL has. Used for splits, not for secrecy. */
export const md5 = (value: string): string => createHash("md5").update(value).digest("hex");
