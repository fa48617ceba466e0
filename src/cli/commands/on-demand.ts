import path from "node:path";
import { contractChoices } from "@/core/files/contract-choices";
import { formatNumber } from "@/core/format/numbers";
import { parseTableName, writeTableName } from "@/core/pipeline/table-name";
import type { OnDemandContract } from "@/core/plan/on-demand";
import { describeProblem, ProblemError, unwrap } from "@/core/problem";
import type { TableReference } from "@/core/relation/relation";
import type { Context } from "@/runs/context";
import { EXPORT_FORMATS, exportToFile, type ExportFormat } from "@/runs/export/export-rows";
import { tableSource } from "@/runs/export/sources";
import { loadFile, type Loaded } from "@/runs/import/load";
import { lookAtFile } from "@/runs/import/look-at-file";
import { contractOnDemand, orderOnDemand } from "@/runs/on-demand";
import { describeAnswers } from "@/runs/on-demand-rows";
import { openQueue } from "@/runs/queue";
import { runRecord, type RunRow } from "@/store/runs";
import { describeMisfits, print } from "../output";
import { follow } from "./follow";

export interface OnDemandFlags {
  readonly file?: string;
  readonly table?: string;
  readonly keep?: string;
  readonly into?: string;
  readonly to?: string;
  readonly rejects?: string;
  readonly allUnseen?: string;
  readonly json: boolean;
}

async function drop(context: Context, table: TableReference): Promise<void> {
  const session = await context.warehouse.session();
  try {
    await session.drop(table, "drop a temporary table");
  } finally {
    session.release();
  }
}

/** Exit code when rows of the file were rejected and the others were scored. */
const EXIT_REJECTS = 3;

/** Loads a file into a table of its own for as long as it is scored: the columns of the contract, in its types. */
async function tableOfFile(
  context: Context,
  file: string,
  contract: OnDemandContract,
  rejects: string | undefined,
): Promise<Loaded> {
  const watch = {
    onProgress: () => undefined,
    signal: new AbortController().signal,
    rejectsFile: rejects ?? "",
  };
  const look = await lookAtFile(file, path.basename(file), { text: { header: true } });
  const choices = unwrap(contractChoices(look, contract));
  return loadFile(
    context.warehouse,
    file,
    look,
    { ...choices, table: `on_demand_${process.pid}_${Date.now()}`, mode: "new", misfits: "reject" },
    watch,
  );
}

/** Says which rows of the file are left out, and why. */
function tellRejects({ rejected, misfits }: Loaded, rejects: string | undefined): void {
  if (rejected === 0) return;
  process.exitCode = EXIT_REJECTS;
  const where = rejects === undefined ? "--rejects FILE writes all of them" : `all are in ${rejects}`;
  process.stderr.write(
    `${formatNumber(rejected)} row${rejected === 1 ? " does" : "s do"} not fit and ${rejected === 1 ? "is" : "are"} not scored; ${where}.\n${describeMisfits(misfits, rejected)}`,
  );
}

const namesOf = (list: string | undefined): readonly string[] =>
  (list ?? "")
    .split(",")
    .map((name) => name.trim())
    .filter((name) => name !== "");

/** Checks flags before anything is loaded. */
function checkFlags(flags: OnDemandFlags): void {
  const format = flags.to === undefined ? undefined : path.extname(flags.to).slice(1).toLowerCase();
  if (format !== undefined && !EXPORT_FORMATS.includes(format as ExportFormat))
    throw new Error(
      `The file for --to must end in ${EXPORT_FORMATS.map((ending) => `.${ending}`).join(", ")}.`,
    );
  if (flags.allUnseen !== undefined && flags.allUnseen !== "stop" && flags.allUnseen !== "warn")
    throw new Error("--all-unseen is stop or warn.");
}

/** Scores a file or a table chosen now, and writes the predictions into a file when asked to. What was made only for that goes again. */
export async function scoreOnDemand(
  context: Context,
  databaseUrl: string,
  name: string,
  flags: OnDemandFlags,
): Promise<void> {
  checkFlags(flags);
  const columns = namesOf(flags.keep);
  let loaded: Loaded | undefined;
  const boss = await openQueue(databaseUrl, "sender", () => undefined);
  try {
    if (flags.file !== undefined) {
      const contract = unwrap(await contractOnDemand(context, { pipeline: name, columns }));
      loaded = await tableOfFile(context, flags.file, contract, flags.rejects);
      tellRejects(loaded, flags.rejects);
      if (loaded.rows === 0 && loaded.rejected > 0)
        return print(
          flags.json,
          { rows: 0, rejected: loaded.rejected, rejects: loaded.misfits },
          () => `No row of ${flags.file!} is valid, so none was scored.`,
        );
    }
    const run = unwrap(
      await orderOnDemand(context, boss, {
        pipeline: name,
        table: loaded ? writeTableName(loaded.table) : flags.table!,
        cause: "command line",
        columns,
        ...(flags.into === undefined ? {} : { into: flags.into }),
        ...(flags.allUnseen === undefined ? {} : { allUnseen: flags.allUnseen as "stop" | "warn" }),
      }),
    );
    const ended = await follow(context, run.id, !flags.json);
    if (ended.state !== "done") throw new ProblemError(...ended.problems);
    await tellResult(context, ended, flags, loaded);
  } catch (error) {
    if (error instanceof ProblemError)
      throw new Error(error.problems.map(describeProblem).join("\n"), { cause: error });
    throw error;
  } finally {
    await boss.stop({ graceful: false, wait: false });
    if (loaded) await drop(context, loaded.table);
  }
}

/** Writes the predictions where they are wanted, and says what came of the run. */
async function tellResult(
  context: Context,
  run: RunRow,
  flags: OnDemandFlags,
  loaded: Loaded | undefined,
): Promise<void> {
  const { into } = run.options.onDemand!;
  if (flags.to !== undefined) {
    const format = path.extname(flags.to).slice(1).toLowerCase() as ExportFormat;
    await exportToFile(context.warehouse, await tableSource(context.warehouse, into), format, flags.to);
  }
  const kept = flags.to === undefined || flags.into !== undefined;
  if (!kept) await drop(context, parseTableName(into)!);
  const { log } = await runRecord(context.store.db, run.id);
  print(
    flags.json,
    {
      run: run.id,
      rows: run.rows,
      ...(kept ? { table: into } : {}),
      ...(flags.to === undefined ? {} : { file: flags.to }),
      ...(run.answers ? { answers: run.answers } : {}),
      warnings: log.filter((line) => line.level === "warning").map((line) => line.message),
      ...(loaded ? { rejected: loaded.rejected, rejects: loaded.misfits } : {}),
    },
    () =>
      [
        `${formatNumber(run.rows ?? 0)} rows scored${flags.to === undefined ? "" : `, written into ${flags.to}`}${kept ? `; they are in ${into}` : ""}.`,
        ...(run.answers ? [`${describeAnswers(run.answers)}.`] : []),
      ].join("\n"),
  );
}
