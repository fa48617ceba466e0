import { formatNumber } from "@/core/format/numbers";
import { mkdtempSync, readFileSync, rmSync, statSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import type { Command } from "commander";
import type { Choices, FileLook } from "@/core/files/look";
import { columnNames } from "@/core/files/propose";
import { readDefinitions } from "@/core/files/table-definition";
import { valueNotes } from "@/core/files/value-notes";
import { describeProblem, unwrap } from "@/core/problem";
import { checkText } from "@/runs/check-file";
import type { Context } from "@/runs/context";
import {
  EXPORT_FORMATS,
  exportToFile,
  type ExportFormat,
  type ExportSource,
} from "@/runs/export/export-rows";
import { stepSource, tableSource } from "@/runs/export/sources";
import { defineTables, loadFolder } from "@/runs/import/folder";
import { loadFile, MisfitError } from "@/runs/import/load";
import { lookAtFile } from "@/runs/import/look-at-file";
import { unpack, type PackedFile } from "@/runs/import/unpack";
import { findPipeline, newestVersion } from "@/store/pipelines";
import { describeMisfits, print } from "../output";
import { withContext } from "./client";

interface ImportFlags {
  readonly json: boolean;
  readonly table?: string;
  readonly append: boolean;
  readonly replace: boolean;
  readonly look: boolean;
  readonly rejects?: string;
  readonly key?: string;
  readonly delimiter?: string;
  readonly encoding?: string;
  readonly sheet?: string;
  readonly types?: string;
  readonly settings?: string;
}

/** A line on the terminal that shows how far long work is; nothing when nobody looks. */
function progressLine(bytes: number, verb: string): (done: number, rows: number) => void {
  const started = Date.now();
  let last = 0;
  return (done, rows) => {
    const now = Date.now();
    if (!process.stderr.isTTY || now - last < 200) return;
    last = now;
    const seconds = (now - started) / 1000;
    const left = done > 0 ? (seconds * (bytes - done)) / done : 0;
    process.stderr.write(
      `\r${verb} ${Math.round((100 * done) / Math.max(1, bytes))} %, ${formatNumber(rows)} rows, ${formatNumber(Math.round(rows / Math.max(0.1, seconds)))} a second, ${Math.round(left)} s left   `,
    );
  };
}

const endLine = (): void => void (process.stderr.isTTY && process.stderr.write("\r\u001b[K"));

function modeOf({ append, replace }: Pick<ImportFlags, "append" | "replace">): Choices["mode"] {
  if (append) return "append";
  return replace ? "replace" : "new";
}

/** How a file is loaded, as its look proposes and the flags say. */
export function choicesFrom(
  look: FileLook,
  file: string,
  flags: Pick<ImportFlags, "table" | "append" | "replace" | "rejects" | "key" | "types" | "settings">,
): Choices {
  const given =
    flags.settings === undefined
      ? {}
      : (JSON.parse(readFileSync(flags.settings, "utf8")) as Partial<Choices>);
  const types = new Map(
    (flags.types ?? "")
      .split(",")
      .filter((part) => part.includes(":"))
      .map((part) => [part.slice(0, part.lastIndexOf(":")), part.slice(part.lastIndexOf(":") + 1)]),
  );
  const columns = look.choices.columns.map((column) => ({
    ...column,
    type: (types.get(column.name) ?? column.type) as typeof column.type,
  }));
  return {
    ...look.choices,
    columns,
    table: flags.table ?? columnNames([path.basename(file).replace(/\.[^.]*$/, "")])[0]!,
    mode: modeOf(flags),
    misfits: flags.rejects === undefined ? "stop" : "reject",
    key: flags.key === undefined ? look.choices.key : flags.key.split(",").filter((part) => part !== ""),
    ...given,
  };
}

function tellLook(look: FileLook): string {
  const lines = look.choices.columns.map((column, place) => {
    const found = look.findings[place]!;
    return `  ${column.name.padEnd(28)} ${column.type.padEnd(17)} ${String(found.missing).padStart(9)} missing ${found.misfits > 0 ? `${found.misfits} do not fit ` : ""}${found.hints.join("; ")}`;
  });
  const { text } = look.choices;
  return [
    `${look.format}, ${formatNumber(look.rows)} rows${text ? `, delimiter ${JSON.stringify(text.delimiter)}, quote ${JSON.stringify(text.quote)}, ${text.header ? "with" : "without"} header, ${text.encoding}` : ""}, decimal mark "${look.choices.values.decimal}", key ${look.choices.key.join(", ") || "none"}`,
    ...look.notes,
    ...lines,
    ...valueNotes(look, look.choices),
    ...(look.broken > 0
      ? [
          `${look.broken} rows cannot be read:`,
          ...look.brokenRows.slice(0, 10).map((brokenRow) => `  line ${brokenRow.line}: ${brokenRow.reason}`),
        ]
      : []),
  ].join("\n");
}

async function importCommand(context: Context, file: string, flags: ImportFlags): Promise<void> {
  const stop = new AbortController();
  process.once("SIGINT", () => stop.abort());
  if (statSync(file).isDirectory()) {
    const loaded = await loadFolder(
      context.warehouse,
      file,
      flags.rejects === undefined ? "stop" : "reject",
      { onProgress: () => undefined, signal: stop.signal, rejectsFile: flags.rejects ?? "" },
    );
    return print(flags.json, loaded, () =>
      loaded
        .map(
          (table) =>
            `${context.warehouse.config.importSchema}.${table.table}: ${formatNumber(table.rows)} rows${table.file ? ` from ${table.file}` : ", no data file"}${table.rejected > 0 ? `, ${table.rejected} rejected` : ""}`,
        )
        .join("\n"),
    );
  }
  if (file.toLowerCase().endsWith(".sql")) {
    const text = readFileSync(file, "utf8");
    const tables = await defineTables(context.warehouse, text);
    for (const found of readDefinitions(text).left) process.stderr.write(`${describeProblem(found)}\n`);
    return print(
      flags.json,
      tables,
      () =>
        `Created ${tables.map((table) => `${context.warehouse.config.importSchema}.${table.name}`).join(", ")}.`,
    );
  }
  const folder = mkdtempSync(path.join(tmpdir(), "ravlen-unpacked-"));
  try {
    const { files, left } = await unpack(
      { path: file, name: path.basename(file) },
      path.join(folder, "file"),
      Infinity,
    );
    if (left.length > 0) process.stderr.write(`Not taken from the archive: ${left.join(", ")}\n`);
    if (files.length > 1 && flags.table !== undefined)
      throw new Error(
        `${file} holds ${files.length} files; omit --table, so that each becomes its own table.`,
      );
    for (const found of files) await importOne(context, found, flags, stop);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Looks at one file and loads it. */
async function importOne(
  context: Context,
  { path: file, name }: PackedFile,
  flags: ImportFlags,
  stop: AbortController,
): Promise<void> {
  const { size } = statSync(file);
  const wishes = {
    ...(flags.delimiter || flags.encoding
      ? {
          text: {
            ...(flags.delimiter ? { delimiter: flags.delimiter === "tab" ? "\t" : flags.delimiter } : {}),
            ...(flags.encoding ? { encoding: flags.encoding } : {}),
          },
        }
      : {}),
    ...(flags.sheet ? { sheet: flags.sheet } : {}),
  };
  const look = await lookAtFile(file, name, wishes, progressLine(size, "looking"), stop.signal);
  endLine();
  if (flags.look) return print(flags.json, look, () => tellLook(look));
  try {
    const choices = choicesFrom(look, name, flags);
    const loaded = await loadFile(context.warehouse, file, look, choices, {
      onProgress: progressLine(size, "loading"),
      signal: stop.signal,
      rejectsFile: flags.rejects ?? "",
    });
    endLine();
    print(
      flags.json,
      { ...loaded, notes: valueNotes(look, choices) },
      () =>
        `Loaded ${formatNumber(loaded.rows)} rows into ${loaded.table.schema}.${loaded.table.table}.${loaded.rejected > 0 ? ` ${loaded.rejected} rows did not fit; they are in ${flags.rejects ?? ""}.` : ""}${valueNotes(
          look,
          choices,
        )
          .map((note) => `\n${note}`)
          .join("")}`,
    );
  } catch (error) {
    endLine();
    if (error instanceof MisfitError && !flags.json) process.stderr.write(describeMisfits(error.misfits));
    throw error;
  }
}

/** A source by its name: schema.table, or pipeline:strand or pipeline:strand:steps. */
async function sourceOf(context: Context, name: string): Promise<ExportSource> {
  const [pipelineName = "", strand, steps] = name.split(":");
  if (strand === undefined) return tableSource(context.warehouse, name);
  const pipeline = await findPipeline(context.store.db, pipelineName);
  const version = pipeline && (await newestVersion(context.store.db, pipeline.id));
  if (!version) throw new Error(`There is no pipeline "${pipelineName}".`);
  const plan = unwrap(await checkText(version.text, context.warehouse));
  const found = plan.strands.find((oneStrand) => oneStrand.name === strand);
  if (!found)
    throw new Error(
      `"${pipelineName}" has no strand "${strand}"; it has ${plan.strands.map((strand) => strand.name).join(", ")}.`,
    );
  return stepSource(
    plan,
    context.warehouse,
    strand,
    steps === undefined ? found.steps.length : Number(steps),
    (await context.now()).toISOString(),
  );
}

/** import and export: files into tables, and rows into files. */
export function addDataCommands(program: Command): void {
  program
    .command("import")
    .argument(
      "<file>",
      "CSV, TSV, JSON Lines, Parquet, xlsx; a .sql file with CREATE TABLE statements; or a folder with such a file and data files",
    )
    .option("--table <name>", "table to load into; the file's name by default")
    .option("--append", "append to the table", false)
    .option("--replace", "replace the table", false)
    .option("--look", "only analyse the file", false)
    .option(
      "--rejects <file>",
      "write invalid rows here and load the rest; without this option they stop the load",
    )
    .option("--key <columns>", "key columns, separated by commas; empty for none")
    .option("--types <list>", "column:type, separated by commas")
    .option("--delimiter <character>", "or: tab")
    .option("--encoding <name>", "such as windows-1252")
    .option("--sheet <name>", "sheet of a workbook")
    .option("--settings <file>", "JSON as in choices of --look --json, with corrections")
    .option("--json", "print JSON", false)
    .description("load a file into a table of the warehouse")
    .action(async (file: string, flags: ImportFlags) =>
      withContext((context) => importCommand(context, file, flags)),
    );

  program
    .command("export")
    .argument("<source>", "schema.table, or pipeline:strand, or pipeline:strand:N for the rows after N steps")
    .requiredOption("--to <file>", "file to write; the extension sets the format: .csv, .jsonl, .parquet")
    .option("--exact", "CSV: do not escape texts that look like formulas", false)
    .option("--json", "print JSON", false)
    .description("write a table, a prediction table or the rows of a step into a file")
    .action(async (source: string, flags: { to: string; exact: boolean; json: boolean }) =>
      withContext(async (context) => {
        const format = path.extname(flags.to).slice(1).toLowerCase();
        if (!EXPORT_FORMATS.includes(format as ExportFormat))
          throw new Error(
            `The file must end in ${EXPORT_FORMATS.map((exportFormat) => `.${exportFormat}`).join(", ")}.`,
          );
        await exportToFile(
          context.warehouse,
          { ...(await sourceOf(context, source)), exact: flags.exact },
          format as ExportFormat,
          flags.to,
        );
        const bytes = statSync(flags.to).size;
        print(
          flags.json,
          { file: flags.to, bytes },
          () => `Wrote ${flags.to}, ${formatNumber(bytes)} bytes.`,
        );
      }),
    );
}
