import { readdirSync, readFileSync, statSync } from "node:fs";
import path from "node:path";
import { columnNames } from "@/core/files/propose";
import type { Choices, ColumnLook, FileLook } from "@/core/files/look";
import { readTableDefinitions, type TableDefinition } from "@/core/files/table-definition";
import { problem, ProblemError, unwrap } from "@/core/problem";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { loadInto, type LoadWatch } from "./load";
import { lookAtFile } from "./look-at-file";

const DATA = /\.(csv|tsv|jsonl|ndjson|parquet|xlsx)$/i;

export interface LoadedTable {
  readonly table: string;
  readonly rows: number;
  readonly rejected: number;
  readonly file: string | undefined;
}

/** Makes the tables that a file of CREATE TABLE statements defines, all of them or none. */
export async function defineTables(warehouse: Warehouse, text: string): Promise<readonly TableDefinition[]> {
  const tables = unwrap(readTableDefinitions(text));
  const session = await warehouse.session();
  try {
    await session.loader.load(async (load) => {
      await load.define(tables);
      await load.addReferences(tables);
    });
  } finally {
    session.release();
  }
  return tables;
}

/**
 * Loads a folder as a whole: a file of CREATE TABLE statements, and a data file for each table, named like it. One
 * transaction: every table with all its rows and references, or nothing.
 */
export async function loadFolder(
  warehouse: Warehouse,
  folder: string,
  misfits: Choices["misfits"],
  watch: LoadWatch,
): Promise<readonly LoadedTable[]> {
  const names = readdirSync(folder).filter((text) => statSync(path.join(folder, text)).isFile());
  const definitions = names.filter((name) => name.toLowerCase().endsWith(".sql"));
  if (definitions.length !== 1)
    throw new ProblemError(
      problem(
        "no_definitions",
        `The folder has ${definitions.length} .sql files; exactly one with CREATE TABLE statements is needed.`,
        "Put it next to the data files.",
      ),
    );
  const tables = unwrap(readTableDefinitions(readFileSync(path.join(folder, definitions[0]!), "utf8")));
  const files = new Map(
    names.filter((name) => DATA.test(name)).map((name) => [name.replace(DATA, ""), path.join(folder, name)]),
  );
  const stray = [...files.keys()].find((key) => !tables.some((table) => table.name === key));
  if (stray !== undefined)
    throw new ProblemError(
      problem(
        "stray_file",
        `The data file "${path.basename(files.get(stray)!)}" matches no defined table.`,
        `Defined: ${tables.map((table) => table.name).join(", ")}.`,
      ),
    );
  const plans: {
    readonly table: TableDefinition;
    readonly file: string;
    readonly look: FileLook;
    readonly choices: Choices;
  }[] = [];
  for (const table of tables) {
    const file = files.get(table.name);
    if (file === undefined) continue;
    const look = await lookAtFile(file, path.basename(file), {}, undefined, watch.signal);
    plans.push({
      table,
      file,
      look,
      choices: choicesFor(table, look, `${warehouse.config.importSchema}.${table.name}`, misfits),
    });
  }
  const session = await warehouse.session();
  let broken = true;
  try {
    const loaded = await session.loader.load(async (load) => {
      await load.define(tables);
      const done: LoadedTable[] = tables
        .filter((table) => !files.has(table.name))
        .map((table) => ({ table: table.name, rows: 0, rejected: 0, file: undefined }));
      for (const { table, file, look, choices } of plans) {
        const { rows, rejected } = await loadInto(
          load,
          file,
          look,
          choices,
          { schema: warehouse.config.importSchema, table: table.name },
          { ...watch, rejectsFile: `${watch.rejectsFile}.${table.name}.csv` },
        );
        done.push({ table: table.name, rows, rejected, file: path.basename(file) });
      }
      await load.addReferences(tables);
      return done;
    });
    broken = false;
    return loaded;
  } finally {
    session.release(broken);
  }
}

/** Columns of the file by their names, with the types that the table declares. */
function choicesFor(
  table: TableDefinition,
  look: FileLook,
  target: string,
  misfits: Choices["misfits"],
): Choices {
  const found = columnNames(look.findings.map((finding) => finding.source));
  const columns = look.choices.columns.map((oneColumn, place): ColumnLook => {
    const declared = table.columns.find(
      (column) => column.name === look.findings[place]!.source || column.name === found[place],
    );
    return declared
      ? { ...oneColumn, name: declared.name, type: declared.type, take: true }
      : { ...oneColumn, take: false };
  });
  if (!columns.some((column) => column.take))
    throw new ProblemError(
      problem(
        "columns_do_not_fit",
        `No column of the file for "${table.name}" matches a column of the table.`,
        `The table has: ${table.columns.map((column) => column.name).join(", ")}.`,
      ),
    );
  return { ...look.choices, columns, key: [], table: target, mode: "append", misfits };
}
