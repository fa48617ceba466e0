import { formatNumber } from "@/core/format/numbers";
import type { Misfit } from "@/core/files/look";
import { describeProblem, type Problem } from "@/core/problem";

/** Prints a result: as JSON for scripts, or by `human` for people. */
export function print(json: boolean, value: unknown, human: () => string): void {
  process.stdout.write(`${json ? JSON.stringify(value, null, 2) : human()}\n`);
}

/** Prints problems and marks the command as failed when there is an error among them. */
export function printProblems(json: boolean, problems: readonly Problem[], file?: string): void {
  const failed = problems.some((problem) => problem.severity === "error");
  if (failed) process.exitCode = 1;
  if (json) process.stdout.write(`${JSON.stringify({ ok: !failed, problems }, null, 2)}\n`);
  else
    for (const problem of problems)
      process.stderr.write(`${file ? `${file}: ` : ""}${problem.severity}: ${describeProblem(problem)}\n`);
}

/** Rows of a file that are told one by one. */
const MOST_TOLD = 20;

/** Rows of a file that do not fit, one by one up to so many, and how many more there are. */
export function describeMisfits(misfits: readonly Misfit[], all: number = misfits.length): string {
  const told = misfits.slice(0, MOST_TOLD).map((found) => `  line ${found.line}: ${found.reason}\n`);
  const left = all - told.length;
  return told.join("") + (left > 0 ? `  and ${formatNumber(left)} more\n` : "");
}

/** Columns of text, lined up; numbers to the right. */
export function columnsOfText(rows: readonly (readonly string[])[]): string {
  const widths = (rows[0] ?? []).map((_, index) => Math.max(...rows.map((row) => row[index]?.length ?? 0)));
  const numeric = (value: string): boolean => /^[\d.,%-]+$/.test(value);
  return rows
    .map((row, line) =>
      row
        .map((value, index) =>
          line > 0 && numeric(value) ? value.padStart(widths[index]!) : value.padEnd(widths[index]!),
        )
        .join("  ")
        .trimEnd(),
    )
    .join("\n");
}
