import { createWriteStream } from "node:fs";
import { mkdir, rm } from "node:fs/promises";
import path from "node:path";
import { Readable, Transform } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { ReadableStream } from "node:stream/web";
import { formatNumber } from "@/core/format/numbers";
import { problem, ProblemError } from "@/core/problem";

/** Largest file that is taken from a browser, in bytes. */
export const mostBytes = (): number => 2 ** 20 * (Number(process.env["RAVLEN_UPLOAD_MB"]) || 4096);

const tooLarge = (): ProblemError =>
  new ProblemError(
    problem(
      "upload_too_large",
      `The file is larger than ${formatNumber(mostBytes() / 2 ** 20)} MB, the upload limit.`,
      "Load it from the command line: ./ravlen import FILE. Or raise RAVLEN_UPLOAD_MB.",
    ),
  );

/**
 * Writes the body of a request into a file, a piece at a time. What was not finished is removed. @returns its bytes
 * Problems: upload_too_large.
 */
export async function keepUpload(request: Request, file: string): Promise<number> {
  const most = mostBytes();
  if (Number(request.headers.get("content-length") ?? 0) > most) throw tooLarge();
  let bytes = 0;
  const counted = new Transform({
    transform(piece: Buffer, _encoding, done) {
      bytes += piece.length;
      done(bytes > most ? tooLarge() : null, piece);
    },
  });
  try {
    await mkdir(path.dirname(file), { recursive: true, mode: 0o700 });
    await pipeline(
      Readable.fromWeb(request.body as ReadableStream),
      counted,
      createWriteStream(file, { mode: 0o600 }),
    );
    return bytes;
  } catch (error) {
    await rm(file, { force: true });
    throw error;
  }
}
