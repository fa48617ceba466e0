import { failure, problem, success, type Result } from "../problem";
import { FORMAT } from "./schema";

/** Steps from one format number to the next, in order. Format 1 is the first, so there is none yet. */
const MIGRATIONS: Readonly<Record<number, (raw: Record<string, unknown>) => Record<string, unknown>>> = {};

/** Brings a file of any known older format to the current one; refuses files that are newer or have no format. */
export function migrate(raw: unknown): Result<unknown> {
  if (typeof raw !== "object" || raw === null || Array.isArray(raw)) {
    return failure(
      problem(
        "not_a_pipeline",
        "Not a pipeline file: it must be a YAML mapping.",
        `Start with "ravlen: ${FORMAT}".`,
        { line: 1, column: 1 },
      ),
    );
  }
  let current = raw as Record<string, unknown>;
  const format = current["ravlen"];
  if (typeof format !== "number" || !Number.isInteger(format)) {
    return failure(
      problem("missing_format", "The file has no format number.", `Start with "ravlen: ${FORMAT}".`, {
        line: 1,
        column: 1,
        path: ["ravlen"],
      }),
    );
  }
  if (format > FORMAT || format < 1) {
    return failure(
      problem(
        "unknown_format",
        `Format ${format} is not supported; this version reads up to ${FORMAT}.`,
        "Update Ravlen, or correct the number.",
        { path: ["ravlen"] },
      ),
    );
  }
  for (let step = format; step < FORMAT; step += 1)
    current = { ...(MIGRATIONS[step]?.(current) ?? current), ravlen: step + 1 };
  return success(current);
}
