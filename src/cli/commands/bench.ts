import { formatNumber } from "@/core/format/numbers";
import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import type { Command } from "commander";
import { columnsOfText, print } from "../output";
import { buildPages } from "../services/build";
import { say } from "../services/installation";
import { freePort } from "../services/ports";
import { adminLogin, startPostgres, stopPostgres } from "../services/postgres";

const BENCH_DATABASE_PORT = 54700;
const MOST_AMOUNT = 1_000_000;

function amountOf(flag: string, text: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 1 || value > MOST_AMOUNT)
    throw new Error(`--${flag} ${text} is not a whole number from 1 to ${formatNumber(MOST_AMOUNT)}.`);
  return value;
}

interface PageFlags {
  readonly tables: string;
  readonly pipelines: string;
  readonly runs: string;
  readonly part?: string;
  readonly json: boolean;
}

/** bench pages: how long pages take to open where there is a lot. */
function addPages(bench: Command): void {
  bench
    .command("pages")
    .option("--tables <n>", "tables of the warehouse", "2000")
    .option("--pipelines <n>", "pipelines, each with several versions", "200")
    .option("--runs <n>", "finished runs", "20000")
    .option("--part <part>", "addresses, clicks, finding or braid; all if omitted")
    .option("--json", "print JSON", false)
    .description(
      "measure how long pages, links, the command box and the Braid take, in a separate installation",
    )
    .action(async (options: PageFlags) => {
      const amounts = {
        tables: amountOf("tables", options.tables),
        pipelines: amountOf("pipelines", options.pipelines),
        runs: amountOf("runs", options.runs),
      };
      process.env["RAVLEN_LOG"] ??= "silent";
      await buildPages(process.cwd(), say);
      const { benchPages, PARTS } = await import("../../../bench/pages/run");
      const { isKept } = await import("../../../bench/pages/limits");
      const parts = PARTS.filter((part) => options.part === undefined || part === options.part);
      if (parts.length === 0) throw new Error(`--part ${options.part} is none of ${PARTS.join(", ")}.`);
      const measures = await benchPages(amounts, parts, say);
      print(options.json, { ...amounts, measures }, () =>
        columnsOfText([
          ["measured", "value", "limit", "machine slower by", ""],
          ...measures.map((measure) => [
            measure.what,
            `${formatNumber(Math.round(measure.value))} ${measure.unit}`,
            `${formatNumber(measure.limit)} ${measure.unit}`,
            measure.slowness === undefined
              ? ""
              : `${formatNumber(Math.round(measure.slowness * 10) / 10)} times`,
            isKept(measure) ? "" : "over",
          ]),
        ]),
      );
      if (!measures.every(isKept)) process.exitCode = 1;
    });
}

/** bench and faults: how long the work takes against yardsticks measured beside it, and what is left after faults, on databases of their own. */
export function addBenchCommand(program: Command): void {
  const bench = program.command("bench");
  addPages(bench);
  bench
    .option("--rows <n>", "rows of the generated frame", "1000000")
    .option("--rounds <n>", "number of rounds; the median counts", "3")
    .option("--file <MB>", "size of the CSV file that is imported", "120")
    .option("--only <part>", "frame or import; both if omitted")
    .option("--json", "print JSON", false)
    .description("measure work relative to reference tasks, as ratios")
    .action(async (options: { rows: string; rounds: string; file: string; only?: string; json: boolean }) => {
      const [rows, rounds] = [Number(options.rows), Number(options.rounds)];
      if (!Number.isInteger(rows) || rows < 1000)
        throw new Error(`--rows ${options.rows} is not a whole number of at least 1,000.`);
      if (!Number.isInteger(rounds) || rounds < 1)
        throw new Error(`--rounds ${options.rounds} is not a whole number of at least 1.`);
      // Loaded only now: the log of the runs would stand between the lines of the result.
      process.env["RAVLEN_LOG"] ??= "silent";
      const { runBench } = await import("../../../bench/run");
      const { benchImport } = await import("../../../bench/import");
      const home = mkdtempSync(path.join(tmpdir(), "ravlen-bench-"));
      chmodSync(home, 0o711);
      const { port, folder } = await startPostgres(home, () => freePort(BENCH_DATABASE_PORT), say);
      try {
        const admin = adminLogin(home, port);
        const results = [
          ...(options.only === "import" ? [] : await runBench(admin, rows, rounds, say)),
          ...(options.only === "frame" ? [] : await benchImport(admin, Number(options.file), rounds, say)),
        ];
        print(options.json, { rows, rounds, results }, () =>
          columnsOfText([
            ["work", "against", "ratio", "at most"],
            ...results.map((result) => [
              result.work,
              result.against,
              formatNumber(result.ratio),
              formatNumber(result.most),
            ]),
          ]),
        );
      } finally {
        stopPostgres(folder);
        rmSync(path.dirname(folder.data), { recursive: true, force: true });
        rmSync(home, { recursive: true, force: true });
      }
    });
  program
    .command("faults")
    .option("--rows <n>", "rows of the large delivery; 0 skips it", "5000000")
    .option(
      "--only <fault>",
      "killed, restarted, web, workers, locked, changed, disk, together, cancelled, clock, minutely, still, silent, twins, retired, arrival, receiver, modes or many",
    )
    .option("--minutes <n>", "duration of the every-minute schedule", "4")
    .option("--json", "print JSON", false)
    .description("inject every fault in a separate installation, and count lost and duplicate keys")
    .action(async (options: { rows: string; minutes: string; only?: string; json: boolean }) => {
      const rows = Number(options.rows);
      if (!Number.isInteger(rows) || rows < 0)
        throw new Error(`--rows ${options.rows} is not a whole number.`);
      const minutes = Number(options.minutes);
      if (!(minutes > 0)) throw new Error(`--minutes ${options.minutes} is not a number of minutes.`);
      process.env["RAVLEN_LOG"] ??= "silent";
      const { runFaults } = await import("../../../bench/faults");
      const { results, large } = await runFaults({ rows, minutes }, options.only, say);
      print(options.json, { results, large }, () =>
        [
          columnsOfText([
            ["fault", "ended", "lost", "doubled", "ledger", "scratch"],
            ...results.map((result) => [
              result.fault,
              result.ended,
              String(result.lost),
              String(result.doubled),
              result.ledger ? "agrees" : "DISAGREES",
              String(result.scratch),
            ]),
          ]),
          ...(large === undefined ? [] : [large]),
        ].join("\n"),
      );
      if (
        results.some(
          (result) => result.lost + result.doubled + result.scratch > 0 || !result.ledger || !result.held,
        )
      )
        process.exitCode = 1;
    });
}
