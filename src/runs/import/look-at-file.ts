import { open, stat } from "node:fs/promises";
import { ColumnEvidence } from "@/core/files/evidence";
import type { FileFormat, FileLook, LoadedType, LookWishes, Misfit, TextLook } from "@/core/files/look";
import { proposeColumns } from "@/core/files/propose";
import { problem, ProblemError } from "@/core/problem";
import { openWorkbook } from "./workbook-source";
import { openJsonLines } from "./json-source";
import { openParquet } from "./parquet-source";
import { lookAtTextFile, openText, type OpenRows, type TextFacts } from "./text-source";

const MOST_SHOWN = 100;
const SAMPLE = 12;
const MOST_COLUMNS = 1600;

/** The format of a file, from its first bytes and its name. Anything that cannot be read is refused with what it is. */
export async function formatOf(file: string, name: string): Promise<FileFormat> {
  const handle = await open(file);
  const head = Buffer.alloc(4096);
  const { bytesRead } = await handle.read(head, 0, head.length, 0).finally(() => handle.close());
  if (bytesRead === 0)
    throw new ProblemError(
      problem("empty_file", "The file is empty.", "Choose another file, or create it again."),
    );
  const begin = head.subarray(0, bytesRead);
  if (begin.subarray(0, 4).toString("latin1") === "PAR1") return "parquet";
  const extension = /\.([a-z0-9]+)$/i.exec(name)?.[1]?.toLowerCase() ?? "";
  if (begin.subarray(0, 2).toString("latin1") === "PK") {
    if (extension === "xlsx" || extension === "xlsm") return "excel";
    throw new ProblemError(
      problem(
        "is_an_archive",
        `“${name}” is a zip archive, despite its name.`,
        "Unpack it, and import the file inside. An Excel workbook must end in .xlsx.",
      ),
    );
  }
  if (begin[0] === 0x1f && begin[1] === 0x8b)
    throw new ProblemError(
      problem("is_an_archive", `“${name}” is compressed with gzip.`, "Unpack it first: gunzip FILE."),
    );
  if (begin[0] === 0xd0 && begin[1] === 0xcf)
    throw new ProblemError(
      problem(
        "old_workbook",
        `“${name}” is an Excel workbook of the old kind (xls).`,
        "Save it as xlsx or CSV.",
      ),
    );
  const wide = (begin[0] === 0xff && begin[1] === 0xfe) || (begin[0] === 0xfe && begin[1] === 0xff);
  if (begin.includes(0) && !wide)
    throw new ProblemError(
      problem(
        "binary_file",
        `“${name}” is not a text file: it contains NUL bytes.`,
        "CSV, TSV, JSON Lines, Parquet and Excel (xlsx) can be imported.",
      ),
    );
  const text = begin.toString("utf8").trimStart();
  return extension === "jsonl" ||
    extension === "ndjson" ||
    (text.startsWith("{") && extension !== "csv" && extension !== "tsv")
    ? "jsonl"
    : "csv";
}

interface Opened {
  readonly rows: OpenRows;
  readonly facts?: TextFacts;
  readonly declared?: (headings: readonly string[]) => readonly (LoadedType | undefined)[];
  readonly sheets?: readonly string[];
  readonly sheet?: string;
}

async function openForLook(
  file: string,
  format: FileFormat,
  wishes: LookWishes,
  signal?: AbortSignal,
): Promise<Opened> {
  switch (format) {
    case "csv": {
      const facts = await lookAtTextFile(file, wishes.text, signal);
      return { rows: openText(file, facts, undefined, signal), facts };
    }
    case "jsonl": {
      const rows = openJsonLines(file, undefined, signal);
      return {
        rows,
        declared: (headings) => headings.map((name) => (rows.nested().has(name) ? "jsonb" : undefined)),
      };
    }
    case "parquet": {
      const rows = await openParquet(file);
      return { rows, declared: () => rows.declared };
    }
    case "excel": {
      const rows = await openWorkbook(file, wishes.sheet);
      return { rows, sheets: rows.sheets, sheet: rows.sheet };
    }
  }
}

/** Opens the rows of a file as a look at it decided. */
export async function openRows(
  file: string,
  look: FileLook,
  choices: { readonly text?: TextLook | undefined; readonly sheet?: string | undefined },
  signal?: AbortSignal,
): Promise<OpenRows> {
  switch (look.format) {
    case "csv":
      return openText(
        file,
        { look: choices.text!, newline: look.newline ?? "\n", skip: look.skip ?? 0 },
        look.findings.length,
        signal,
      );
    case "jsonl":
      return openJsonLines(
        file,
        look.findings.map((finding) => finding.source),
        signal,
      );
    case "parquet":
      return openParquet(file);
    case "excel":
      return openWorkbook(file, choices.sheet);
  }
}

/**
 * Looks at all of a file: how it is written, which columns it has, what each could be, and which rows cannot be read.
 * Memory does not grow with the rows.
 * @param onProgress called with bytes and rows seen so far
 */
export async function lookAtFile(
  file: string,
  name: string,
  wishes: LookWishes = {},
  onProgress: (bytes: number, rows: number) => void = () => undefined,
  signal?: AbortSignal,
): Promise<FileLook> {
  const format = await formatOf(file, name);
  const { size } = await stat(file);
  const opened = await openForLook(file, format, wishes, signal);
  const evidence: ColumnEvidence[] = [];
  const sample: (readonly (string | null)[])[] = [];
  const brokenRows: Misfit[] = [];
  let broken = 0;
  let rows = 0;
  for await (const batch of opened.rows.batches) {
    for (const row of batch.rows) {
      while (evidence.length < row.values.length) {
        const fresh = new ColumnEvidence();
        // A column that appears late was missing in all rows before.
        fresh.rows = rows;
        fresh.missing = rows;
        evidence.push(fresh);
      }
      for (let place = 0; place < evidence.length; place += 1)
        evidence[place]!.add(row.values[place] ?? null);
      rows += 1;
      if (sample.length < SAMPLE) sample.push(row.values.map((value) => value?.slice(0, 80) ?? null));
    }
    broken += batch.broken.length;
    brokenRows.push(...batch.broken.slice(0, MOST_SHOWN - brokenRows.length));
    onProgress(batch.bytes, rows);
    signal?.throwIfAborted();
  }
  const headings = opened.rows.headings();
  while (evidence.length < headings.length) evidence.push(new ColumnEvidence());
  if (evidence.length === 0)
    throw new ProblemError(
      problem("no_columns", `“${name}” has no rows and no header.`, "Choose another file, or another sheet."),
    );
  const declared = opened.declared?.(headings);
  const { columns, findings, values, key } = proposeColumns(
    evidence.map((evidence, place) => ({
      source: headings[place] ?? `column ${place + 1}`,
      evidence: evidence,
      declared: declared?.[place],
    })),
  );
  const wide = columns.length > MOST_COLUMNS;
  return {
    format,
    bytes: size,
    rows,
    findings,
    broken,
    brokenRows,
    sample,
    ...(opened.sheets ? { sheets: opened.sheets } : {}),
    choices: {
      columns: wide
        ? columns.map((column) => ({ ...column, take: column.place < MOST_COLUMNS - 1 }))
        : [...columns],
      key: [...key],
      values,
      ...(opened.facts ? { text: opened.facts.look } : {}),
      ...(opened.sheet === undefined ? {} : { sheet: opened.sheet }),
    },
    notes: [
      ...(opened.facts?.notes ?? []),
      ...(wide
        ? [
            `The file has ${columns.length} columns, but a table can have at most ${MOST_COLUMNS}: columns after ${MOST_COLUMNS - 1} are skipped.`,
          ]
        : []),
      ...(rows === 0 ? ["The file has a header, but no rows."] : []),
    ],
    ...(opened.facts ? { newline: opened.facts.newline, skip: opened.facts.skip } : {}),
  };
}
