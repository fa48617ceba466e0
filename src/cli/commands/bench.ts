import { chmodSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import type { Command } from "commander";
import { columnsOfText, print } from "../output";
import { say } from "../services/installation";
import { freePort } from "../services/ports";
import { adminLogin, startPostgres, stopPostgres } from "../services/postgres";

const BENCH_DATABASE_PORT = 54700;

/** bench: how long the work takes against yardsticks measured beside it, on a database of its own. */
export function addBenchCommand(program: Command): void {
  program.command("bench").option("--rows <n>", "rows of the generated frame", "1000000").option("--rounds <n>", "how often everything is measured; the median counts", "3").option("--file <MB>", "size of the CSV file that is imported", "120").option("--only <part>", "frame or import; both when left out").option("--json", "print JSON", false)
    .description("measure the work against yardsticks, as ratios")
    .action(async (options: { rows: string; rounds: string; file: string; only?: string; json: boolean }) => {
      const [rows, rounds] = [Number(options.rows), Number(options.rounds)];
      if (!Number.isInteger(rows) || rows < 1000) throw new Error(`--rows ${options.rows} is not a whole number of at least 1,000.`);
      if (!Number.isInteger(rounds) || rounds < 1) throw new Error(`--rounds ${options.rounds} is not a whole number of at least 1.`);
      // Loaded only now: the log of the runs would stand between the lines of the result.
      process.env["RAVLEN_LOG"] ??= "silent";
      const { runBench } = await import("../../../bench/run");
      const { benchImport } = await import("../../../bench/import");
      const home = mkdtempSync(path.join(tmpdir(), "ravlen-bench-"));
      chmodSync(home, 0o711);
      const { port, folder } = await startPostgres(home, () => freePort(BENCH_DATABASE_PORT), say);
      try {
        const admin = adminLogin(home, port);
        const results = [...(options.only === "import" ? [] : await runBench(admin, rows, rounds, say)), ...(options.only === "frame" ? [] : await benchImport(admin, Number(options.file), rounds, say))];
        print(options.json, { rows, rounds, results }, () => columnsOfText([["work", "against", "ratio", "at most"], ...results.map((each) => [each.work, each.against, each.ratio.toFixed(2), each.most?.toFixed(1) ?? ""])]));
      } finally {
        stopPostgres(folder);
        rmSync(path.dirname(folder.data), { recursive: true, force: true });
        rmSync(home, { recursive: true, force: true });
      }
    });
}
