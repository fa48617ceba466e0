import { sideMistake } from "../answer/answer-values";
import { isPipelineName } from "@/core/pipeline/proposal/propose-name";
import type { Problem } from "@/core/problem";
import { formatCount } from "@/core/format/numbers";
import { FROM_EXPRESSION, FROM_REGIONS, type Beginning, type Wishes } from "./wishes";

/** Fields of the form for a new pipeline. */
export type FieldName =
  "table" | "answer" | "expression" | "drawn" | "positive" | "negative" | "key" | "kind" | "name";

/** What is to be said or changed at a field. */
export interface FieldProblem {
  readonly words: string;
  /** Whether the pipeline cannot be made before that. */
  readonly stops: boolean;
}

/** What is still to be said or changed, by the field where it can be. */
export type FieldProblems = ReadonlyMap<FieldName | "other", FieldProblem>;

/** How the wished key was found to hold; undefined while that is not known. */
export interface KeyState {
  readonly missing: number;
  readonly repeated: number;
}

/** The field where a problem of the file can be mended. */
function fieldOf({ code, location }: Problem, wishes: Wishes): FieldName | "other" {
  if (code === "target_positive") return "positive";
  const [part, ...rest] = location?.path ?? [];
  if (part === "name") return "name";
  if (part === "roles" && rest[0] === "key") return "key";
  if (part === "roles" && rest[0] === "target") return targetField(rest[1]);
  if (part === "strands" && rest[1] === "from") return "table";
  if (part === "strands" && rest[1] === "steps" && rest[2] === 0 && wishes.answer === FROM_EXPRESSION)
    return "expression";
  if (part === "strands" && rest[1] === "steps" && wishes.answer === FROM_REGIONS) return "drawn";
  return "other";
}

const targetField = (setting: string | number | undefined): FieldName =>
  setting === "positive" || setting === "negative" ? setting : "answer";

/** What was found out about what a person said. */
export interface Findings {
  /** Names that pipelines have. */
  readonly taken: readonly string[];
  readonly key: KeyState | undefined;
  /** What is wrong with the file as it would be made. */
  readonly file: readonly Problem[];
  /** Whether the answer's values were looked at, or why they could not be. */
  readonly answer: "known" | "awaited" | (string & {});
}

/** What is still to be said, or has to be changed, before the pipeline can be made. */
export function fieldProblems(wishes: Wishes, beginning: Beginning, found: Findings): FieldProblems {
  const problems = new Map<FieldName | "other", FieldProblem>();
  const say = (field: FieldName | "other", words: string | undefined, stops = true): void => {
    if (words !== undefined && !problems.has(field)) problems.set(field, { words, stops });
  };
  const { name, key } = beginning.pipeline;
  if (wishes.table === "") say("table", "Choose a table.");
  else if (wishes.answer === "") say("answer", "Choose the column to predict.");
  if (wishes.answer === FROM_EXPRESSION && wishes.expression.trim() === "")
    say("expression", "Enter the expression for the target.");
  if (wishes.answer === FROM_REGIONS) say("drawn", drawnTrouble(wishes.drawn));
  for (const side of ["positive", "negative"] as const)
    say(side, beginning.sides && sideMistake(side, beginning.sides, beginning.answerType));
  for (const each of found.file.filter(({ severity }) => severity === "error"))
    say(fieldOf(each, wishes), `${each.message} ${each.hint ?? ""}`.trim());
  if (!problems.has("drawn")) say("answer", beginning.trouble);
  if (wishes.table !== "" && key.length === 0) say("key", "Choose the columns that identify one row.");
  if (key.length > 0) say("key", keyTrouble(found.key), false);
  if (problems.size === 0 || name !== "") say("name", nameTrouble(name, found.taken));
  if (problems.size > 0 || found.answer === "known") return problems;
  if (found.answer === "awaited") say("answer", "Reading its values …");
  else {
    say("answer", `Its values could not be read. ${found.answer}`, false);
    if (wishes.kind === undefined) say("kind", "Choose the kind of target.");
  }
  return problems;
}

function drawnTrouble({ x, y, regions, otherwise }: Wishes["drawn"]): string | undefined {
  if (x === "" || y === "") return "Choose both columns.";
  if (x === y) return "Choose two different columns.";
  if (regions.length === 0) return "Draw a region and enter its label.";
  const labels = new Set([
    ...regions.map(({ label }) => label),
    ...(otherwise.trim() === "" ? [] : [otherwise]),
  ]);
  return labels.size < 2
    ? "At least two labels are needed: draw another region, or label the rest."
    : undefined;
}

function nameTrouble(name: string, taken: readonly string[]): string | undefined {
  if (name === "") return "Enter a name.";
  if (!isPipelineName(name))
    return "Use letters, digits, - and _ only, at most 63 characters, starting with a letter or digit.";
  return taken.includes(name) ? `A pipeline named “${name}” already exists.` : undefined;
}

function keyTrouble(state: KeyState | undefined): string | undefined {
  if (!state) return undefined;
  const { missing, repeated } = state;
  const parts = [
    ...(repeated > 0
      ? [`${formatCount(repeated, "value")} ${repeated === 1 ? "is" : "are"} shared by several rows`]
      : []),
    ...(missing > 0 ? [`${formatCount(missing, "row")} ${missing === 1 ? "has" : "have"} none`] : []),
  ];
  return parts.length === 0
    ? undefined
    : `This does not identify one row: ${parts.join(", and ")}. Choose other columns, or remove such rows in the Braid.`;
}
