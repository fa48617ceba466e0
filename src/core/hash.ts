import { createHash } from "node:crypto";
import { stringify } from "safe-stable-stringify";

/** JSON with object keys in sorted order, so that equal data has equal text. */
export const canonicalJson = (value: unknown): string => stringify(value) ?? "null";

/** SHA-256 of a text, in hexadecimal. */
export const sha256 = (value: string): string => createHash("sha256").update(value).digest("hex");

/** MD5 of a text, in hexadecimal; the same function PostgreSQL has. Used for splits, not for secrecy. */
export const md5 = (value: string): string => createHash("md5").update(value).digest("hex");
