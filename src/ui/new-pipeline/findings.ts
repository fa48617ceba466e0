import { formatCount } from "@/core/format/numbers";
import type { Problem } from "@/core/problem";
import { sideMistake } from "../target/target-values";
import { FROM_EXPRESSION, FROM_REGIONS, nameMistake, type Choices } from "./choices";
import type { Proposal } from "./proposal";

/** Fields of the form, from top to bottom, and last what belongs to none. */
const FIELDS = [
  "table",
  "target",
  "expression",
  "drawn",
  "kind",
  "positive",
  "negative",
  "key",
  "name",
  "other",
] as const;
export type FieldName = (typeof FIELDS)[number];

/** What is missing or wrong at a field. */
export interface Finding {
  readonly words: string;
  /** Whether the pipeline cannot be created before that is changed. */
  readonly stops: boolean;
}
export type Findings = Readonly<Partial<Record<FieldName, Finding>>>;

/** How the key was found to hold; undefined while that is not known. */
export interface KeyState {
  readonly missing: number;
  readonly repeated: number;
}

/** What the server says of what was chosen. */
export interface Reading {
  /** Names that pipelines have. */
  readonly taken: readonly string[];
  readonly key: KeyState | undefined;
  /** What is wrong with the file as it would be made. */
  readonly file: readonly Problem[];
  /** Whether the target's values were read, or why they could not be. */
  readonly values: { readonly state: "read" | "reading" } | { readonly failure: string };
}

/** The field where a problem of the file can be fixed. */
function fieldOf({ code, location }: Problem, { target }: Choices): FieldName {
  if (code === "target_positive") return "positive";
  const [part, ...rest] = location?.path ?? [];
  if (part === "name") return "name";
  if (part === "roles" && rest[0] === "key") return "key";
  if (part === "roles" && rest[0] === "target") return targetField(rest[1]);
  if (part === "strands" && rest[1] === "from") return "table";
  if (part === "strands" && rest[1] === "steps" && rest[2] === 0 && target === FROM_EXPRESSION)
    return "expression";
  if (part === "strands" && rest[1] === "steps" && target === FROM_REGIONS) return "drawn";
  return "other";
}

const targetField = (setting: string | number | undefined): FieldName =>
  setting === "positive" || setting === "negative" ? setting : "target";

/** The first that stops, from the top of the form. */
export const firstStop = (findings: Findings): Finding | undefined =>
  FIELDS.map((field) => findings[field]).find((finding) => finding?.stops);

/**
 * What is still missing or wrong in a new pipeline.
 *
 * @param mistakes what is wrong with the form by itself, by field
 */
export function findingsOf(
  choices: Choices,
  mistakes: Readonly<Partial<Record<string, string>>>,
  proposal: Proposal,
  reading: Reading,
): Findings {
  const findings: Partial<Record<FieldName, Finding>> = {};
  const add = (field: FieldName, words: string | undefined, stops = true): void => {
    if (words !== undefined) findings[field] ??= { words, stops };
  };
  for (const field of FIELDS) add(field, mistakes[field]);
  for (const side of ["positive", "negative"] as const)
    add(side, proposal.sides && sideMistake(side, proposal.sides, proposal.targetType));
  for (const problem of reading.file.filter(({ severity }) => severity === "error"))
    add(fieldOf(problem, choices), `${problem.message} ${problem.hint ?? ""}`.trim());
  if (!findings.drawn) add("target", proposal.trouble);
  const { key, name } = proposal.pipeline;
  if (proposal.key && key.length === 0) add("key", "Choose the columns that identify one row.");
  if (key.length > 0) add("key", keyTrouble(reading.key), false);
  const isEmpty = Object.keys(findings).length === 0;
  // A name that was typed is checked with the form.
  if (choices.name === undefined && (isEmpty || name !== "")) add("name", nameMistake(name, reading.taken));
  if (!isEmpty || findings.name) return findings;
  const { values } = reading;
  if ("failure" in values) {
    add("target", `Its values could not be read. ${values.failure}`, false);
    if (choices.kind === undefined) add("kind", "Choose the kind of target.");
  } else if (values.state === "reading") add("target", "Reading its values …");
  return findings;
}

function keyTrouble(state: KeyState | undefined): string | undefined {
  if (!state) return undefined;
  const { missing, repeated } = state;
  const parts: string[] = [];
  if (repeated > 0)
    parts.push(`${formatCount(repeated, "value")} ${repeated === 1 ? "is" : "are"} shared by several rows`);
  if (missing > 0) parts.push(`${formatCount(missing, "row")} ${missing === 1 ? "has" : "have"} none`);
  if (parts.length === 0) return undefined;
  return (
    `This does not identify one row: ${parts.join(", and ")}. ` +
    "Choose other columns, or remove such rows in the Braid."
  );
}
