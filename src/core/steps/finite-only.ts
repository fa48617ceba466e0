import { problem, ProblemError } from "../problem";

/** Path to the first NaN or Infinity in a value: the names of properties, without positions in arrays. */
function pathToNonFinite(value: unknown): readonly string[] | undefined {
  if (typeof value === "number") return Number.isFinite(value) ? undefined : [];
  if (typeof value !== "object" || value === null) return undefined;
  for (const [name, entry] of Object.entries(value)) {
    const path = pathToNonFinite(entry);
    if (path) return Array.isArray(value) ? path : [name, ...path];
  }
  return undefined;
}

/**
 * Returns what a step learned. Throws the problem not_finite if it contains NaN or Infinity, which would spread to every row.
 * Steps keep learned values by column, below one property of their own.
 * @param step name of the step
 */
export function finiteOnly<Learned>(learned: Learned, step: string): Learned {
  const path = pathToNonFinite(learned);
  if (path === undefined) return learned;
  const [, column] = path;
  const where = column === undefined ? "they contain" : `"${column}" contains`;
  throw new ProblemError(
    problem(
      "not_finite",
      `The step "${step}" cannot learn from the training rows: ${where} NaN or Infinity.`,
      "Filter those rows, or derive a finite value, before this step.",
    ),
  );
}
