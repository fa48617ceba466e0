import { z } from "zod";
import { readShare, writeShare } from "@/core/format/read-share";
import type { PipelineFile } from "@/core/pipeline/schema";
import type { Problem } from "@/core/problem";

type Holdout = PipelineFile["holdout"];
export type HoldoutWay = Holdout["by"];
export type BlindWay = "nothing" | "share" | "from" | "groups" | "where" | "table";
type Scalar = string | number | boolean;

/** What the form says of which rows train and judge, as it is typed. */
export interface DivisionDraft {
  readonly by: HoldoutWay;
  readonly share: string;
  readonly from: string;
  readonly groups: readonly Scalar[];
  readonly where: string;
  readonly table: string;
  readonly seed: string;
  readonly blind: BlindWay;
  readonly blindShare: string;
  readonly blindFrom: string;
  readonly blindGroups: readonly Scalar[];
  readonly blindWhere: string;
  readonly blindTable: string;
  readonly folds: "nothing" | NonNullable<PipelineFile["folds"]>["by"];
  readonly foldCount: string;
}

const blindWayOf = ({ blind }: Holdout): BlindWay =>
  blind
    ? ((["share", "from", "groups", "where", "table"] as const).find((way) => blind[way] !== undefined) ??
      "share")
    : "nothing";

/** The form as the file has it. */
export function draftOfFile({ holdout, folds }: PipelineFile): DivisionDraft {
  const { blind } = holdout;
  return {
    by: holdout.by,
    share: writeShare(holdout.share),
    from: holdout.from ?? "",
    groups: holdout.groups ?? [],
    where: holdout.where ?? "",
    table: holdout.table ?? "",
    seed: String(holdout.seed),
    blind: blindWayOf(holdout),
    blindShare: writeShare(blind?.share ?? 0.1),
    blindFrom: blind?.from ?? "",
    blindGroups: blind?.groups ?? [],
    blindWhere: blind?.where ?? "",
    blindTable: blind?.table ?? "",
    folds: folds?.by ?? "nothing",
    foldCount: String(folds?.count ?? 5),
  };
}

export type DivisionField = keyof DivisionDraft;
/** What is to be typed, by field. */
export type DivisionMistakes = Readonly<Partial<Record<DivisionField, string>>>;

const SHARE_MISTAKE = "Enter a share above 0 and below 100 %, such as 20 % or 0.2.";
const NEEDED: Readonly<
  Partial<Record<HoldoutWay | BlindWay, readonly [held: DivisionField, closed: DivisionField, says: string]>>
> = {
  time: ["from", "blindFrom", "Enter the first day, such as 2026-05-01."],
  from: ["from", "blindFrom", "Enter the first day, such as 2026-06-01."],
  named: ["groups", "blindGroups", "Choose at least one group below."],
  groups: ["groups", "blindGroups", "Choose at least one group below."],
  condition: ["where", "blindWhere", "Enter a condition."],
  where: ["where", "blindWhere", "Enter a condition."],
  table: ["table", "blindTable", "Choose a table."],
};

export const HAS_SHARE: readonly HoldoutWay[] = ["key", "stratified", "group"];

/** What is missing or cannot be read, in words of the form. */
export function mistakesIn(draft: DivisionDraft): DivisionMistakes {
  const mistakes: Partial<Record<DivisionField, string>> = {};
  if (HAS_SHARE.includes(draft.by) && readShare(draft.share) === undefined) mistakes.share = SHARE_MISTAKE;
  if (draft.blind === "share" && readShare(draft.blindShare) === undefined)
    mistakes.blindShare = SHARE_MISTAKE;
  const [held] = NEEDED[draft.by] ?? [];
  if (held && draft[held].length === 0) mistakes[held] = NEEDED[draft.by]![2];
  const [, closed] = NEEDED[draft.blind] ?? [];
  if (closed && draft[closed].length === 0) mistakes[closed] = NEEDED[draft.blind]![2];
  if (draft.seed.trim() === "") mistakes.seed = "Enter a number or a word.";
  const count = Number(draft.foldCount);
  if (draft.folds !== "nothing" && !(Number.isInteger(count) && count >= 2 && count <= 50))
    mistakes.foldCount = "Enter a whole number from 2 to 50.";
  return mistakes;
}

/** The form as it is typed, with what is missing or cannot be read at its fields. */
export const divisionDraftSchema = z.custom<DivisionDraft>().superRefine((draft, context) => {
  for (const [field, message] of Object.entries(mistakesIn(draft)))
    context.addIssue({ code: "custom", path: [field], message });
});

const HELD_FIELDS: readonly DivisionField[] = ["share", "from", "groups", "where", "table", "seed"];
const CLOSED_FIELDS: Readonly<Record<string, DivisionField>> = {
  share: "blindShare",
  from: "blindFrom",
  groups: "blindGroups",
  where: "blindWhere",
  table: "blindTable",
};

/** The field of the form that a problem of the file belongs to; undefined where it belongs to none. */
export function fieldOfProblem({ location }: Problem): DivisionField | undefined {
  const [part, name, inside] = location?.path ?? [];
  if (part === "folds") return name === "count" ? "foldCount" : undefined;
  if (part !== "holdout") return undefined;
  if (name === "blind") return CLOSED_FIELDS[String(inside)];
  return HELD_FIELDS.find((field) => field === name);
}

/** What a person reads of a problem at its field. */
const wordsOf = ({ message, hint }: Problem): string => (hint === undefined ? message : `${message} ${hint}`);

/** Problems of the file at the fields of the form, and those that belong to none. */
export function atFields(problems: readonly Problem[]): {
  readonly mistakes: DivisionMistakes;
  readonly others: readonly Problem[];
} {
  const placed = problems.map((found) => [fieldOfProblem(found), found] as const);
  return {
    mistakes: Object.fromEntries(
      placed.flatMap(([field, found]) => (field === undefined ? [] : [[field, wordsOf(found)]])),
    ),
    others: placed.flatMap(([field, found]) => (field === undefined ? [found] : [])),
  };
}

/** A seed is a number where it reads as one. */
const seedOf = (text: string): number | string =>
  /^-?\d{1,15}$/.test(text.trim()) ? Number(text) : text.trim();

/** The parts of the file that the form stands for; what is as it comes is not written. Only of a draft without mistakes. */
export function partsOfDraft(draft: DivisionDraft): {
  readonly holdout: Readonly<Record<string, unknown>>;
  readonly folds: Readonly<Record<string, unknown>> | null;
} {
  const { by } = draft;
  const told: Readonly<Record<HoldoutWay, Readonly<Record<string, unknown>>>> = {
    key: { share: readShare(draft.share) },
    stratified: { share: readShare(draft.share) },
    group: { share: readShare(draft.share) },
    time: { from: draft.from.trim() },
    named: { groups: draft.groups },
    condition: { where: draft.where.trim() },
    table: { table: draft.table.trim() },
    none: {},
  };
  const closed: Readonly<Record<BlindWay, Readonly<Record<string, unknown>> | undefined>> = {
    nothing: undefined,
    share: { share: readShare(draft.blindShare) },
    from: { from: draft.blindFrom.trim() },
    groups: { groups: draft.blindGroups },
    where: { where: draft.blindWhere.trim() },
    table: { table: draft.blindTable.trim() },
  };
  const blind = closed[draft.blind];
  return {
    holdout: { by, ...told[by], seed: seedOf(draft.seed), ...(blind ? { blind } : {}) },
    folds: draft.folds === "nothing" ? null : { count: Number(draft.foldCount), by: draft.folds },
  };
}
