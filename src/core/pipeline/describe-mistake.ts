import type { z } from "zod";

/** Kinds of values in words of the file. */
const KINDS: Readonly<Record<string, string>> = {
  string: "a text",
  number: "a number",
  int: "a whole number",
  boolean: "true or false",
  array: "a list",
  object: "a mapping",
  record: "a mapping",
};

function kindOf(value: unknown): string {
  if (value === null) return "empty";
  return KINDS[Array.isArray(value) ? "array" : typeof value] ?? typeof value;
}

/** What a bound counts, for values that are no numbers: one, and several. */
const COUNTED: Readonly<Record<string, readonly [one: string, several: string]>> = {
  string: ["character", "characters"],
  array: ["entry", "entries"],
};

function describeBound(bound: string, limit: unknown, origin: string): string {
  const counted = COUNTED[origin];
  if (counted === undefined) return ` must be ${bound} ${String(limit)}`;
  if (bound === "at least" && limit === 1 && origin === "string") return " must not be empty";
  return ` must have ${bound} ${String(limit)} ${counted[limit === 1 ? 0 : 1]}`;
}

/** A value as a person recognises it: numbers as they are, of anything else what it is. */
function describeValue(value: unknown): string {
  return typeof value === "number" ? String(value) : kindOf(value);
}

/** What is wrong with a value by the schema, in words that follow its name: ` must be at least 0`. */
export function describeMistake(issue: z.core.$ZodIssue, value: unknown): string {
  switch (issue.code) {
    case "invalid_value":
      return ` cannot be ${JSON.stringify(value)}`;
    case "invalid_type":
      return ` must be ${KINDS[issue.expected] ?? issue.expected}, not ${describeValue(value)}`;
    case "too_small":
      return describeBound(issue.inclusive === false ? "more than" : "at least", issue.minimum, issue.origin);
    case "too_big":
      return describeBound(issue.inclusive === false ? "less than" : "at most", issue.maximum, issue.origin);
    case "invalid_union":
      return typeof value === "object" ? " is not valid here" : ` cannot be ${JSON.stringify(value)}`;
    default:
      return `: ${issue.message}`;
  }
}
