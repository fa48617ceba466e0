import { hasSqlDetails, loadModule, parseSync } from "libpg-query";
import { failure, problem, success, type Problem, type Result } from "../problem";
import type { Expression } from "./ast";
import { otherSide } from "./sides";
import { convertNode, type RawNode } from "./convert";
import { isTooDeep } from "./nesting";

/** Longest expression accepted, in characters. Longer ones are programs, and belong in the warehouse as views. */
export const MAX_EXPRESSION_LENGTH = 10_000;
const PREFIX = "SELECT ";

/** Loads the SQL grammar. Must be awaited once before {@link parseExpression}; later calls return at once. */
export function loadGrammar(): Promise<void> {
  return loadModule();
}

interface RawSelect {
  readonly targetList?: readonly {
    readonly ResTarget?: { readonly name?: string; readonly val?: RawNode };
  }[];
  readonly [clause: string]: unknown;
}

/**
 * Parses one SQL expression with PostgreSQL's own grammar and keeps only what Ravlen understands.
 * Anything more than one bare expression (a second statement, FROM, a sub-select, an alias) is refused.
 * Errors carry the character offset in `location.offset`.
 * @param other a strand whose columns may be written with its name before them, as in the condition of a join
 */
export function parseExpression(source: string, other?: string): Result<Expression> {
  const refused = (message: string, hint?: string, offset = 0): Result<Expression> =>
    failure(problem("expression_syntax", message, hint, { offset }));
  if (source.trim() === "")
    return refused("The expression is empty.", "Write an SQL expression, such as weight_g / 1000.");
  if (source.length > MAX_EXPRESSION_LENGTH)
    return refused(
      `The expression has ${source.length} characters; at most ${MAX_EXPRESSION_LENGTH} are accepted.`,
      "Split it into several derive steps.",
    );
  if (source.includes("\0")) return refused("The expression contains a NUL character.", "Remove it.");
  let statements: readonly { readonly stmt?: Record<string, unknown> }[];
  try {
    // The line feed keeps a trailing line comment from swallowing anything.
    statements = parseSync(`${PREFIX}${source}\n`).stmts as typeof statements;
  } catch (error) {
    const cursor = hasSqlDetails(error) ? (error.sqlDetails?.cursorPosition ?? PREFIX.length) : PREFIX.length;
    const message = error instanceof Error ? error.message : "syntax error";
    return refused(
      `SQL ${message}.`,
      "Check brackets, quotes and commas near here.",
      Math.max(0, Math.min(source.length, cursor - PREFIX.length)),
    );
  }
  const select = statements[0]?.stmt?.["SelectStmt"] as RawSelect | undefined;
  const onlyExpression =
    statements.length === 1 &&
    select &&
    Object.keys(select).every((key) => ["targetList", "limitOption", "op"].includes(key));
  const targets = select?.targetList ?? [];
  const target = targets[0]?.ResTarget;
  if (!onlyExpression || targets.length !== 1 || !target?.val || target.name !== undefined) {
    return refused(
      "This must be one SQL expression and nothing else.",
      "Remove other statements, commas, FROM and aliases.",
    );
  }
  if (isTooDeep(target.val))
    return refused(
      "The expression is nested too deeply; the limit is about 400 levels.",
      "Split it into several derive steps.",
    );
  const offsets = characterOffsets(source);
  const problems: Problem[] = [];
  const expression = convertNode(target.val, {
    ...(other === undefined
      ? {}
      : {
          qualified: (qualifier: string, name: string) => (qualifier === other ? otherSide(name) : undefined),
        }),
    at: (bytes) => (bytes === undefined ? undefined : offsets(bytes - PREFIX.length)),
    report: (message, offset, hint) =>
      problems.push(problem("expression_unsupported", message, hint, { offset: offset ?? 0 })),
  });
  return problems.length > 0 || expression === undefined ? failure(...problems) : success(expression);
}

/** The grammar counts bytes; people and editors count characters. */
export function characterOffsets(source: string): (bytes: number) => number {
  const decoder = new TextDecoder();
  const bytes = new TextEncoder().encode(source);
  return (offset) => decoder.decode(bytes.subarray(0, Math.max(0, offset))).length;
}
