import { problem, ProblemError } from "../problem";

/** Where in a value there is a number that is none (NaN) or has no end (Infinity): its keys, from the outside in. */
function pathToEndless(value: unknown): readonly string[] | undefined {
  if (typeof value === "number") return Number.isFinite(value) ? undefined : [];
  if (typeof value !== "object" || value === null) return undefined;
  for (const [key, entry] of Object.entries(value)) {
    const path = pathToEndless(entry);
    if (path) return [key, ...path];
  }
  return undefined;
}

/**
 * What a step learned, if all its numbers are finite. Throws a problem that names the place otherwise: a NaN among the
 * training rows would spread to every row.
 * @param step what the step is called
 */
export function finiteOnly<Learned>(learned: Learned, step: string): Learned {
  const path = pathToEndless(learned);
  if (path === undefined) return learned;
  const columns = path.filter((key) => !/^\d+$/.test(key)).slice(1);
  throw new ProblemError(
    problem(
      "not_finite",
      `The step "${step}" cannot learn from the training rows: ${columns.length > 0 ? `"${columns[0]}" contains` : "they contain"} NaN or Infinity.`,
      "Filter those rows, or derive a finite value, before this step.",
    ),
  );
}
