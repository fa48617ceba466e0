import { formatNumber } from "@/core/format/numbers";
import { describeProblem, problem, ProblemError, type Problem } from "@/core/problem";
import { statementMinutes } from "@/warehouse/postgres/warehouse";

const DATABASE_GONE = new Set([
  "57P01",
  "57P02",
  "57P03",
  "ECONNREFUSED",
  "ECONNRESET",
  "EPIPE",
  "ETIMEDOUT",
  "08000",
  "08001",
  "08003",
  "08004",
  "08006",
]);

const codeOf = (error: unknown): string | undefined =>
  typeof error === "object" && error !== null && "code" in error ? String(error.code) : undefined;

/** The driver's own error: queries of our own data wrap it in one that only repeats the statement. */
function rootOf(error: unknown): unknown {
  return error instanceof Error && error.cause !== undefined && !(error instanceof ProblemError)
    ? rootOf(error.cause)
    : error;
}

/** Whether the database went away, so that the same work may succeed later. */
export function isConnectionLoss(wrapped: unknown): boolean {
  const error = rootOf(wrapped);
  const code = codeOf(error);
  if (code !== undefined && DATABASE_GONE.has(code)) return true;
  return (
    error instanceof Error &&
    /connection terminated|terminating connection|client has encountered a connection error|timeout exceeded when trying to connect/i.test(
      error.message,
    )
  );
}

/** Deadlock, serialisation, a lock that somebody holds, too many connections: the same work may well succeed in a while. */
const PASSING = new Set(["40P01", "40001", "55P03", "53300"]);

/** Whether what failed can pass by itself, so that trying again later makes sense. */
export function canPass(error: unknown): boolean {
  return isConnectionLoss(error) || PASSING.has(codeOf(rootOf(error)) ?? "");
}

const HINTS: Readonly<Record<string, string>> = {
  "42501": "The warehouse role lacks a privilege; grant it, or check the tables in the pipeline.",
  "53400":
    "Sorting or joining needed more temporary disk than one session may take (temp_file_limit). Use fewer rows or columns, or raise the limit on the warehouse.",
  "53100": "The warehouse's disk is full. Free disk space and run again; nothing was partially written.",
  "57014": "The statement was cancelled.",
  "22012": "A division by zero: guard it with nullif(divisor, 0).",
  "22P02": "A value could not be converted to the target type; check the CAST in the step.",
  "42P01": "A table needed by the run no longer exists.",
  "55P03": "A table is locked by another session; run again later.",
};

/** What a command line says of an error: problems with what to do, else the error's own words. */
export function errorText(error: unknown): string {
  const root = rootOf(error);
  if (error instanceof ProblemError || isConnectionLoss(error) || HINTS[codeOf(root) ?? ""] !== undefined)
    return problemsOf(error).map(describeProblem).join("\n");
  return root instanceof Error ? root.message : String(root);
}

/** What failed, in words for people; the database's own message is kept. */
export function problemsOf(wrapped: unknown): readonly Problem[] {
  const error = rootOf(wrapped);
  if (error instanceof ProblemError) return error.problems;
  if (isConnectionLoss(error))
    return [
      problem(
        "warehouse_lost",
        "The connection to the database was lost.",
        "Run again when it is back. Nothing was partially written.",
      ),
    ];
  const code = codeOf(error);
  const message = error instanceof Error ? error.message : String(error);
  if (code === "57014" && message.includes("statement timeout"))
    return [
      problem(
        "statement_timeout",
        `A statement took longer than ${formatNumber(statementMinutes())} minutes and was cancelled.`,
        "See the statement in the run's record: fewer rows or an index on the join columns may help. Or raise RAVLEN_STATEMENT_MINUTES.",
      ),
    ];
  if (code !== undefined)
    return [
      problem(
        "warehouse_error",
        `The warehouse refused a statement: ${message} (${code}).`,
        HINTS[code] ?? "The statement is in the run's record.",
      ),
    ];
  return [problem("unexpected", `Unexpected error: ${message}.`, "See the log, and please report it.")];
}
