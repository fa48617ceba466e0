import { createReadStream } from "node:fs";
import { createWriteStream } from "node:fs";
import { once } from "node:events";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { converterOf, copyField } from "@/core/files/convert-value";
import type { Choices, FileLook, Misfit } from "@/core/files/look";
import { isPlain } from "@/core/files/plain";
import { parseTableName, writeTableName } from "@/core/pipeline/table-name";
import { problem, ProblemError } from "@/core/problem";
import type { TableReference } from "@/core/relation/relation";
import { isUsableIdentifier } from "@/core/names/identifier";
import { failureOf } from "@/warehouse/engines";
import type { Load } from "@/warehouse/port/loader";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { openRows } from "./look-at-file";

const MOST_MISFITS = 100;
const MOST_COLUMNS = 1600;
/** Rows are handed to the database in pieces of about so many characters. */
const PIECE = 1 << 18;

export interface LoadWatch {
  readonly onProgress: (bytes: number, rows: number, rejected: number) => void;
  readonly signal: AbortSignal;
  /** Where rows that do not fit are written, as CSV: line, reason, text; nowhere when it is empty. */
  readonly rejectsFile: string;
}

export interface Loaded {
  readonly table: TableReference;
  readonly rows: number;
  readonly rejected: number;
  readonly misfits: readonly Misfit[];
  /** Whether the file went to the database as it is. */
  readonly plain: boolean;
}

/** Stops a load at rows that do not fit; the first of them come along. */
export class MisfitError extends ProblemError {
  constructor(readonly misfits: readonly Misfit[]) {
    super(
      problem(
        "rows_do_not_fit",
        `${misfits.length >= MOST_MISFITS ? `At least ${misfits.length}` : misfits.length} row${misfits.length === 1 ? " does" : "s do"} not fit; the first is line ${misfits[0]?.line ?? 0}: ${misfits[0]?.reason ?? ""}.`,
        "Nothing was loaded. Correct the settings or the file, or load the rest and save rejects to a file.",
      ),
    );
  }
}

/**
 * Loads a file that was looked at into a table, in one transaction: all of it is there afterwards, or nothing.
 * Memory does not grow with the file.
 */
export async function loadFile(
  warehouse: Warehouse,
  file: string,
  look: FileLook,
  choices: Choices,
  watch: LoadWatch,
): Promise<Loaded> {
  const target = checkChoices(warehouse, choices);
  const session = await warehouse.session();
  // A statement that waits on the database hears of the cancel from another connection.
  const cancel = (): void => void session.cancel().catch(() => undefined);
  watch.signal.addEventListener("abort", cancel);
  let broken = true;
  try {
    const plain = isPlain(look, choices);
    const attempt = (asItIs: boolean): Promise<Loaded> =>
      session.loader.load(async (load) => {
        const into = await load.prepare(target, choices);
        const counted = asItIs
          ? await copyAsItIs(load, file, look, choices, into, watch)
          : await loadInto(load, file, look, choices, into, watch);
        watch.signal.throwIfAborted();
        await load.finish(target, into, choices);
        return { table: target, plain: asItIs, ...counted };
      });
    // Where the warehouse reads the file differently than expected, the rows are read here and named one by one.
    const loaded = await attempt(plain).catch((error: unknown) =>
      plain && failureOf(error)?.kind === "bad_value" ? attempt(false) : Promise.reject(error as Error),
    );
    broken = false;
    await session.analyze(target, "statistics of the loaded table");
    return loaded;
  } finally {
    watch.signal.removeEventListener("abort", cancel);
    session.release(broken);
  }
}

function checkChoices(warehouse: Warehouse, choices: Choices): TableReference {
  const { importSchema } = warehouse.config;
  const target = parseTableName(
    choices.table.includes(".") ? choices.table : `${importSchema}.${choices.table}`,
  );
  const refuse = (code: string, message: string, hint: string): never => {
    throw new ProblemError(problem(code, message, hint));
  };
  if (!target || !isUsableIdentifier(target.table))
    return refuse(
      "bad_name",
      `“${choices.table}” is not a valid table name.`,
      "Write a name, or schema.name.",
    );
  if (target.schema !== importSchema)
    return refuse(
      "import_schema",
      `Files can only be loaded into the schema "${importSchema}"; this says "${writeTableName(target)}".`,
      `Write ${importSchema}.${target.table}.`,
    );
  const taken = choices.columns.filter((column) => column.take);
  if (taken.length === 0) return refuse("no_columns", "No column is selected.", "Select at least one.");
  if (taken.length > MOST_COLUMNS)
    return refuse(
      "too_many_columns",
      `${taken.length} columns are selected, but a table can have at most ${MOST_COLUMNS}.`,
      "Deselect some.",
    );
  const names = new Set<string>();
  for (const { name } of taken) {
    if (!isUsableIdentifier(name))
      return refuse(
        "bad_name",
        `“${name.slice(0, 70)}” is not a valid column name: at most 63 bytes.`,
        "Choose a shorter name.",
      );
    if (names.has(name))
      return refuse("duplicate_column", `Two columns are named "${name}".`, "Rename one of them.");
    names.add(name);
  }
  const missing = choices.key.find((name) => !names.has(name));
  return missing === undefined
    ? target
    : refuse(
        "unknown_column",
        `The key contains a column "${missing}" that is not selected.`,
        "Select it, or choose another key.",
      );
}

/** Hands the bytes of the file to the warehouse. */
async function copyAsItIs(
  load: Load,
  file: string,
  look: FileLook,
  choices: Choices,
  into: TableReference,
  watch: LoadWatch,
): Promise<Pick<Loaded, "rows" | "rejected" | "misfits">> {
  const text = choices.text!;
  const columns = choices.columns.map((column) => column.name);
  const stream = load.csvInto(into, columns, text);
  let bytes = look.skip ?? 0;
  const source = createReadStream(file, { start: look.skip ?? 0, highWaterMark: 1 << 18 });
  source.on("data", (piece) => {
    bytes += piece.length;
    watch.onProgress(bytes, Math.round((look.rows * bytes) / Math.max(1, look.bytes)), 0);
  });
  await pipeline(source, stream, { signal: watch.signal });
  return { rows: stream.rowCount ?? 0, rejected: 0, misfits: [] };
}

/** Reads, converts and writes every row; rows that do not fit stop the load or go to the file of rejects. */
export async function loadInto(
  load: Load,
  file: string,
  look: FileLook,
  choices: Choices,
  into: TableReference,
  watch: LoadWatch,
): Promise<Pick<Loaded, "rows" | "rejected" | "misfits">> {
  const taken = choices.columns.filter((column) => column.take);
  const converters = taken.map((column) => ({
    place: column.place,
    name: column.name,
    convert: converterOf(column, choices.values),
  }));
  const misfits: Misfit[] = [];
  const rejects = new RejectsFile(watch.rejectsFile);
  let rows = 0;
  let rejected = 0;
  const stop = choices.misfits === "stop";
  const opened = await openRows(file, look, choices, watch.signal);
  const reject = async (found: Misfit): Promise<void> => {
    rejected += 1;
    if (misfits.length < MOST_MISFITS) misfits.push(found);
    if (stop && misfits.length >= MOST_MISFITS) throw new MisfitError(misfits);
    if (!stop) await rejects.add(found);
  };
  async function* lines(): AsyncGenerator<string> {
    let piece = "";
    for await (const batch of opened.batches) {
      const broken = [...batch.broken];
      for (const row of batch.rows) {
        while (broken[0] && broken[0].line < row.line) await reject(broken.shift()!);
        const fields: string[] = [];
        let wrong: string | undefined;
        for (const { place, name, convert } of converters) {
          const value = convert(row.values[place] ?? null);
          if (typeof value === "object" && value !== null) {
            wrong = `${name}: ${value.misfit}`;
            break;
          }
          fields.push(copyField(value));
        }
        if (wrong !== undefined) {
          await reject({
            line: row.line,
            reason: wrong,
            text: row.values
              .map((value) => value ?? "")
              .join(choices.text?.delimiter ?? ",")
              .slice(0, 500),
          });
          continue;
        }
        rows += 1;
        piece += `${fields.join("\t")}\n`;
        if (piece.length > PIECE) {
          yield piece;
          piece = "";
        }
      }
      for (const found of broken) await reject(found);
      watch.onProgress(batch.bytes, rows, rejected);
    }
    if (piece !== "") yield piece;
    if (stop && misfits.length > 0) throw new MisfitError(misfits);
  }
  try {
    const columns = taken.map((column) => column.name);
    const stream = load.linesInto(into, columns);
    await pipeline(Readable.from(lines(), { objectMode: true, highWaterMark: 2 }), stream, {
      signal: watch.signal,
    });
  } finally {
    await rejects.close();
  }
  return { rows, rejected, misfits };
}

/** Rows that were left out, as a CSV file; made only when there are any. */
class RejectsFile {
  private stream: ReturnType<typeof createWriteStream> | undefined;

  constructor(private readonly path: string) {}

  async add(found: Misfit): Promise<void> {
    if (this.path === "") return;
    if (!this.stream) {
      this.stream = createWriteStream(this.path);
      this.stream.write("line,reason,text\n");
    }
    const quote = (text: string): string => `"${text.replaceAll('"', '""')}"`;
    if (!this.stream.write(`${found.line},${quote(found.reason)},${quote(found.text)}\n`))
      await once(this.stream, "drain");
  }

  async close(): Promise<void> {
    const { stream } = this;
    if (!stream) return;
    stream.end();
    await once(stream, "finish");
  }
}
