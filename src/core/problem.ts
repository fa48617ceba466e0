/** Where in a pipeline file (or an expression inside it) something is wrong. Lines and columns start at 1. */
export interface Location {
  /** Path of keys and indexes into the document, e.g. ["strands", 0, "steps", 2, "where"]. */
  readonly path?: readonly (string | number)[];
  readonly line?: number;
  readonly column?: number;
  /** Name of the step concerned, when there is one. */
  readonly step?: string;
  /** Character offset inside the value found at `path`, for expressions. */
  readonly offset?: number;
}

export type Severity = "error" | "warning";

/** Something a person has to know or act on. Problems are values: they are returned, stored and shown, not thrown. */
export interface Problem {
  readonly code: string;
  readonly severity: Severity;
  /** What is wrong, in plain words. */
  readonly message: string;
  /** What to do next. */
  readonly hint?: string;
  readonly location?: Location;
}

export type Result<T> =
  { readonly ok: true; readonly value: T } | { readonly ok: false; readonly problems: readonly Problem[] };

export const success = <T>(value: T): Result<T> => ({ ok: true, value });

export const failure = (
  ...problems: readonly Problem[]
): { readonly ok: false; readonly problems: readonly Problem[] } => ({
  ok: false,
  problems,
});

/** Makes an error. `message` says what and where; `hint` says what to do. */
export function problem(code: string, message: string, hint?: string, location?: Location): Problem {
  return { code, severity: "error", message, ...(hint ? { hint } : {}), ...(location ? { location } : {}) };
}

/** Makes a warning: the work can go on, but a person should know. */
export function warning(code: string, message: string, hint?: string, location?: Location): Problem {
  return { ...problem(code, message, hint, location), severity: "warning" };
}

/** Adds what is known about the place of a problem, without replacing what it already says. */
export function located(found: Problem, location: Location): Problem {
  return { ...found, location: { ...location, ...found.location } };
}

/**
 * Carries problems through code that can only throw (drivers, callbacks).
 * It is turned back into a value at the first boundary that can hold one.
 */
export class ProblemError extends Error {
  readonly problems: readonly Problem[];
  constructor(...problems: readonly Problem[]) {
    super(problems.map((problem) => problem.message).join("; "));
    this.name = "ProblemError";
    this.problems = problems;
  }
}

/** The value of a result, or a thrown {@link ProblemError}. For code inside a run, where a failure ends the run. */
export function unwrap<T>(result: Result<T>): T {
  if (result.ok) return result.value;
  throw new ProblemError(...result.problems);
}

/** One line for logs and terminals: "12:7 message. Hint". */
export function describeProblem(found: Problem): string {
  const place = found.location?.line
    ? `line ${found.location.line}${found.location.column ? `:${found.location.column}` : ""}: `
    : "";
  return `${place}${found.message}${found.hint ? ` ${found.hint}` : ""}`;
}
