import { createReadStream, createWriteStream } from "node:fs";
import { open, rm } from "node:fs/promises";
import path from "node:path";
import { Transform, type Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { createGunzip } from "node:zlib";
import { Open, type File } from "unzipper";
import { formatNumber } from "@/core/format/numbers";
import { problem, ProblemError } from "@/core/problem";

/** A file to import, and the name it came under. */
export interface PackedFile {
  readonly path: string;
  readonly name: string;
}

export interface Unpacked {
  readonly files: readonly PackedFile[];
  /** Names of what is packed and cannot be imported. */
  readonly left: readonly string[];
}

/** Files that can be imported, by the end of their names. */
export const DATA_FILE = /\.(csv|tsv|txt|jsonl|ndjson|parquet|xlsx|xlsm)$/i;
const WORKBOOK = /\.xls[xm]$/i;
const MOST_FILES = 500;

const broken = (name: string): ProblemError =>
  new ProblemError(
    problem("archive_broken", `“${name}” is damaged and cannot be unpacked.`, "Create or download it again."),
  );

const tooLarge = (name: string, most: number): ProblemError =>
  new ProblemError(
    problem(
      "unpacked_too_large",
      `“${name}” unpacks to more than ${formatNumber(most / 2 ** 20)} MB.`,
      "Load its files one by one, or raise RAVLEN_UPLOAD_MB.",
    ),
  );

/** Counts bytes of all files of an archive, and stops at too many. */
function counter(name: string, most: number): () => Transform {
  let bytes = 0;
  return () =>
    new Transform({
      transform(piece: Buffer, _encoding, done) {
        bytes += piece.length;
        done(bytes > most ? tooLarge(name, most) : null, piece);
      },
    });
}

/** Writes what is unpacked into a file; what was not finished is removed. */
async function write(
  source: Readable,
  counted: readonly Transform[],
  file: string,
  name: string,
): Promise<void> {
  try {
    await pipeline([source, ...counted, createWriteStream(file, { mode: 0o600 })]);
  } catch (error) {
    await rm(file, { force: true });
    if (error instanceof ProblemError || (error as { readonly code?: string }).code === "ENOSPC") throw error;
    throw broken(name);
  }
}

async function beginningOf(file: string): Promise<string> {
  const handle = await open(file);
  const head = Buffer.alloc(4);
  const { bytesRead } = await handle.read(head, 0, head.length, 0).finally(() => handle.close());
  return head.subarray(0, bytesRead).toString("latin1");
}

/** Hidden files, and what some systems put into archives beside the data. */
const isBeside = (name: string): boolean =>
  name.split("/").some((part) => part.startsWith(".") || part === "__MACOSX");

async function unzip({ path: file, name }: PackedFile, into: string, most: number): Promise<Unpacked> {
  const directory = await Open.file(file).catch(() => {
    throw broken(name);
  });
  const inside = directory.files.filter((entry: File) => entry.type === "File" && !isBeside(entry.path));
  const wanted = inside.filter((entry: File) => DATA_FILE.test(entry.path));
  if (wanted.length === 0 || wanted.length > MOST_FILES)
    throw new ProblemError(
      problem(
        "archive_files",
        wanted.length === 0
          ? `“${name}” contains no file that can be imported.`
          : `“${name}” holds ${formatNumber(wanted.length)} files; at most ${MOST_FILES} can be imported at once.`,
        wanted.length === 0
          ? "CSV, TSV, JSON Lines, Parquet and Excel files can be imported. An Excel workbook must end in .xlsx."
          : "Pack fewer files.",
      ),
    );
  const counted = counter(name, most);
  const files: PackedFile[] = [];
  for (const [place, entry] of wanted.entries()) {
    const target = `${into}.${place}`;
    try {
      await write(entry.stream(), [counted()], target, name);
    } catch (error) {
      await Promise.all(files.map((done) => rm(done.path, { force: true })));
      throw error;
    }
    files.push({ path: target, name: path.basename(entry.path) });
  }
  const left = inside.filter((entry: File) => !wanted.includes(entry)).map((entry: File) => entry.path);
  return { files, left };
}

/**
 * The files that a file stands for: what is packed in a zip archive, what a gzip file was before, or the file itself. The packed file
 * stays. An Excel workbook is no archive here.
 * @param into where unpacked files lie: the beginning of their paths
 * @param most bytes that may be unpacked
 * Problems: archive_broken, archive_files, unpacked_too_large.
 */
export async function unpack(packed: PackedFile, into: string, most: number): Promise<Unpacked> {
  const { path: file, name } = packed;
  const head = await beginningOf(file);
  if (head.startsWith("PK") && !WORKBOOK.test(name)) return unzip(packed, into, most);
  if (!head.startsWith("\u001f\u008b")) return { files: [packed], left: [] };
  const target = `${into}.0`;
  await write(createReadStream(file), [createGunzip(), counter(name, most)()] as Transform[], target, name);
  return { files: [{ path: target, name: name.replace(/\.gz(ip)?$/i, "") }], left: [] };
}
