import { formatNumber } from "@/core/format/numbers";
import path from "node:path";
import { parseTableName, writeTableName } from "@/core/pipeline/table-name";
import { describeProblem, ProblemError, unwrap } from "@/core/problem";
import type { TableReference } from "@/core/relation/relation";
import { quoteTable } from "@/core/sql/quote";
import type { Context } from "@/runs/context";
import { EXPORT_FORMATS, exportToFile, type ExportFormat } from "@/runs/export/export-rows";
import { tableSource } from "@/runs/export/sources";
import { loadFile } from "@/runs/import/load";
import { lookAtFile } from "@/runs/import/look-at-file";
import { orderOnDemand } from "@/runs/on-demand";
import { openQueue } from "@/runs/queue";
import { print } from "../output";
import { choicesFrom } from "./data";
import { follow } from "./follow";

export interface OnDemandFlags {
  readonly file?: string;
  readonly table?: string;
  readonly keep?: string;
  readonly into?: string;
  readonly to?: string;
  readonly json: boolean;
}

async function drop(context: Context, table: TableReference): Promise<void> {
  const session = await context.warehouse.session();
  try {
    await session.run(
      `DROP TABLE IF EXISTS ${quoteTable(table)}`,
      "drop a table that was needed for a moment",
    );
  } finally {
    session.release();
  }
}

/** Loads a file into a table of its own for as long as it is scored. */
async function tableOfFile(context: Context, file: string): Promise<TableReference> {
  const watch = { onProgress: () => undefined, signal: new AbortController().signal, rejectsFile: "" };
  const look = await lookAtFile(file, path.basename(file));
  const choices = choicesFrom(look, file, {
    append: false,
    replace: false,
    table: `on_demand_${process.pid}_${Date.now()}`,
  });
  return (await loadFile(context.warehouse, file, look, choices, watch)).table;
}

/** Scores a file or a table chosen now, and writes the predictions into a file when asked to. What was made only for that goes again. */
export async function scoreOnDemand(
  context: Context,
  databaseUrl: string,
  name: string,
  flags: OnDemandFlags,
): Promise<void> {
  const format = flags.to === undefined ? undefined : path.extname(flags.to).slice(1).toLowerCase();
  if (format !== undefined && !EXPORT_FORMATS.includes(format as ExportFormat))
    throw new Error(`The file of --to must end in ${EXPORT_FORMATS.map((each) => `.${each}`).join(", ")}.`);
  const loaded = flags.file === undefined ? undefined : await tableOfFile(context, flags.file);
  const boss = await openQueue(databaseUrl, "sender", () => undefined);
  try {
    const run = unwrap(
      await orderOnDemand(context, boss, {
        pipeline: name,
        table: loaded ? writeTableName(loaded) : flags.table!,
        cause: "command line",
        columns: (flags.keep ?? "")
          .split(",")
          .map((each) => each.trim())
          .filter((each) => each !== ""),
        ...(flags.into === undefined ? {} : { into: flags.into }),
      }),
    );
    const ended = await follow(context, run.id, !flags.json);
    if (ended.state !== "done") throw new ProblemError(...ended.problems);
    const { into } = run.options.onDemand!;
    if (format !== undefined)
      await exportToFile(
        context.warehouse,
        await tableSource(context.warehouse, into),
        format as ExportFormat,
        flags.to!,
      );
    const kept = format === undefined || flags.into !== undefined;
    if (!kept) await drop(context, parseTableName(into)!);
    print(
      flags.json,
      {
        run: ended.id,
        rows: ended.rows,
        ...(kept ? { table: into } : {}),
        ...(flags.to === undefined ? {} : { file: flags.to }),
      },
      () =>
        `${formatNumber(ended.rows ?? 0)} rows scored${flags.to === undefined ? "" : `, written into ${flags.to}`}${kept ? `; they are in ${into}` : ""}.`,
    );
  } catch (error) {
    if (error instanceof ProblemError)
      throw new Error(error.problems.map(describeProblem).join("\n"), { cause: error });
    throw error;
  } finally {
    await boss.stop({ graceful: false, wait: false });
    if (loaded) await drop(context, loaded);
  }
}
