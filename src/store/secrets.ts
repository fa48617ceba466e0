import { createCipheriv, createDecipheriv, randomBytes } from "node:crypto";

const ALGORITHM = "aes-256-gcm";
const NONCE_BYTES = 12;
const TAG_BYTES = 16;

/**
 * Encrypts a value for the database with AES-256-GCM.
 * @param key 32 bytes, kept outside the database
 * @returns base64 of nonce, tag and ciphertext
 */
export function encrypt(value: unknown, key: Buffer): string {
  const nonce = randomBytes(NONCE_BYTES);
  const cipher = createCipheriv(ALGORITHM, key, nonce);
  const body = Buffer.concat([cipher.update(JSON.stringify(value), "utf8"), cipher.final()]);
  return Buffer.concat([nonce, cipher.getAuthTag(), body]).toString("base64");
}

/** Reads back what {@link encrypt} wrote; throws when the key is wrong or the text was changed. */
export function decrypt(text: string, key: Buffer): unknown {
  const bytes = Buffer.from(text, "base64");
  const decipher = createDecipheriv(ALGORITHM, key, bytes.subarray(0, NONCE_BYTES));
  decipher.setAuthTag(bytes.subarray(NONCE_BYTES, NONCE_BYTES + TAG_BYTES));
  return JSON.parse(
    Buffer.concat([decipher.update(bytes.subarray(NONCE_BYTES + TAG_BYTES)), decipher.final()]).toString(
      "utf8",
    ),
  ) as unknown;
}
