import type { z } from "zod";
import { failure, problem, success, type Result } from "@/core/problem";

/** What was expected in a place, in a few words. */
const EXPECTED: Readonly<Record<string, string>> = {
  string: "a text",
  number: "a number",
  int: "a whole number",
  boolean: "yes or no",
  array: "a list",
  tuple: "a list",
  object: "named values",
  record: "named values",
};

function complaint(issue: z.core.$ZodIssue): string {
  switch (issue.code) {
    case "invalid_type":
      return `must be ${EXPECTED[issue.expected] ?? "something else"}`;
    case "too_big":
      return issue.origin === "string" ? "is too long" : "is too large";
    case "too_small":
      return issue.origin === "string" ? "is too short" : "is too small";
    case "invalid_value":
      return `must be one of: ${issue.values.map(String).join(", ")}`;
    case "unrecognized_keys":
      return "has unexpected fields";
    case "custom":
      return `cannot be used: ${issue.message}`;
    default:
      return "is not valid";
  }
}

/**
 * Reads what came from outside.
 * Problems: bad_request, which names the first places that are wrong.
 */
export function readInput<Schema extends z.ZodType>(
  schema: Schema,
  given: unknown,
): Result<z.output<Schema>> {
  const read = schema.safeParse(given);
  if (read.success) return success(read.data);
  return failure(
    ...read.error.issues.slice(0, 3).map((issue) => {
      const place = issue.path.filter((key) => typeof key === "string").join(".");
      return problem(
        "bad_request",
        `${place === "" ? "The request" : `“${place.slice(0, 60)}”`} ${complaint(issue)}.`,
        "Reload the page.",
      );
    }),
  );
}
