import { formatNumber } from "@/core/format/numbers";
import { describeProblem, problem, ProblemError, type Problem } from "@/core/problem";
import { failureOf } from "@/warehouse/engines";
import type { WarehouseFailure } from "@/warehouse/port/engine";
import { statementMinutes } from "@/warehouse/statement-time";

/** The driver's own error: queries of our own data wrap it in one that only repeats the statement. */
function rootOf(error: unknown): unknown {
  return error instanceof Error && error.cause !== undefined && !(error instanceof ProblemError)
    ? rootOf(error.cause)
    : error;
}

/** Whether the database went away, so that the same work may succeed later. */
export const isConnectionLoss = (error: unknown): boolean =>
  failureOf(rootOf(error))?.kind === "connection_lost";

/** Whether what failed can pass by itself, so that trying again later makes sense. */
export function canPass(error: unknown): boolean {
  const kind = failureOf(rootOf(error))?.kind;
  return kind === "connection_lost" || kind === "busy";
}

/** What a command line says of an error: problems with what to do, else the error's own words. */
export function errorText(error: unknown): string {
  const root = rootOf(error);
  const failure = failureOf(root);
  if (error instanceof ProblemError || failure?.kind === "connection_lost" || failure?.hint !== undefined)
    return problemsOf(error).map(describeProblem).join("\n");
  return root instanceof Error ? root.message : String(root);
}

/** A failure of the database in words for people; its own message is kept. */
function problemOfFailure({ kind, code, message, hint }: WarehouseFailure): Problem {
  if (kind === "connection_lost")
    return problem(
      "warehouse_lost",
      "The connection to the database was lost.",
      "Run again when it is back. Nothing was partially written.",
    );
  if (kind === "timeout")
    return problem(
      "statement_timeout",
      `A statement took longer than ${formatNumber(statementMinutes())} minutes and was cancelled.`,
      "See the statement in the run's record: fewer rows or an index on the join columns may help. Or raise RAVLEN_STATEMENT_MINUTES.",
    );
  return problem(
    "warehouse_error",
    `The warehouse refused a statement: ${message} (${code}).`,
    hint ?? "The statement is in the run's record.",
  );
}

/** What failed, in words for people. */
export function problemsOf(wrapped: unknown): readonly Problem[] {
  const error = rootOf(wrapped);
  if (error instanceof ProblemError) return error.problems;
  const failure = failureOf(error);
  if (failure) return [problemOfFailure(failure)];
  const message = error instanceof Error ? error.message : String(error);
  return [problem("unexpected", `Unexpected error: ${message}.`, "See the log, and please report it.")];
}
