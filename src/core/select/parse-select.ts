import { hasSqlDetails, parseSync } from "libpg-query";
import { isTooDeep } from "../expression/nesting";
import { characterOffsets, MAX_EXPRESSION_LENGTH } from "../expression/parse";
import { failure, problem, success, type Problem, type Result } from "../problem";
import type { Relation } from "../relation/relation";
import { convertSelect, type SelectContext } from "./convert-select";

/** The name by which a SELECT reads the rows of its own strand so far. */
export const SO_FAR = "strand";

/**
 * Parses a SELECT of one's own and turns it into a relation over named sources. Nothing but what Ravlen understands
 * gets through: one SELECT, over strands only, read-only by construction.
 * @param source the rows behind a name after FROM
 */
export function parseSelect(
  text: string,
  source: SelectContext["source"],
  sourceNames: readonly string[],
): Result<Relation> {
  const refused = (message: string, hint?: string, offset = 0): Result<Relation> =>
    failure(problem("select_syntax", message, hint, { offset }));
  if (text.trim() === "")
    return refused("The SELECT is empty.", `Write, for example: SELECT * FROM ${SO_FAR}`);
  if (text.length > MAX_EXPRESSION_LENGTH)
    return refused(
      `The SELECT has ${text.length} characters; at most ${MAX_EXPRESSION_LENGTH} are accepted.`,
      "Split it into several steps.",
    );
  if (text.includes("\0")) return refused("The SELECT contains a NUL character.", "Remove it.");
  let statements: readonly { readonly stmt?: Record<string, unknown> }[];
  try {
    statements = parseSync(`${text}\n`).stmts as typeof statements;
  } catch (error) {
    const cursor = hasSqlDetails(error) ? (error.sqlDetails?.cursorPosition ?? 0) : 0;
    return refused(
      `SQL ${error instanceof Error ? error.message : "syntax error"}.`,
      "Check brackets, quotes and commas near here.",
      Math.max(0, Math.min(text.length, cursor)),
    );
  }
  const select = statements[0]?.stmt?.["SelectStmt"] as Readonly<Record<string, unknown>> | undefined;
  if (statements.length !== 1 || !select)
    return refused("This must be one SELECT and nothing else.", "Other statements are never run.");
  if (isTooDeep(select))
    return refused(
      "The SELECT is nested too deeply; the limit is about 400 levels.",
      "Split it into several steps.",
    );
  const offsets = characterOffsets(text);
  const problems: Problem[] = [];
  const relation = convertSelect(select, {
    source,
    sourceNames,
    at: (bytes) => (bytes === undefined || bytes < 0 ? undefined : offsets(bytes)),
    report: (message, offset, hint) =>
      problems.push(problem("select_unsupported", message, hint, { offset: offset ?? 0 })),
  });
  if (problems.length > 0 || !relation)
    return problems.length > 0 ? failure(...problems) : refused("This SELECT is not supported.");
  return success(relation);
}
