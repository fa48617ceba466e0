import { z } from "zod";
import { sideMistake, sidesInFile, textsOf, type Sides } from "../../target/target-values";
import type { PipelineFile, TargetKind } from "@/core/pipeline/schema";
import { isMoment, isNumber, type ValueType } from "@/core/value-type";

/** A column of the rows at the end of the main strand. */
export interface FinalColumn {
  readonly name: string;
  readonly type: ValueType;
  /** Whether a step has made indicator columns of it, so that it has no values of its own any more. */
  readonly encoded: boolean;
}

/** What the form says of columns, as it is typed. */
export interface RolesDraft {
  readonly key: readonly string[];
  readonly target: string;
  readonly kind: TargetKind;
  /** Positive and negative values; none where the column says by itself what is positive. */
  readonly sides: Sides;
  readonly time: string;
  readonly group: string;
  readonly weight: string;
}

/** The form as the file has it. */
export const rolesOfFile = ({ roles }: PipelineFile): RolesDraft => ({
  key: roles.key,
  target: roles.target.column,
  kind: roles.target.kind,
  sides: { positive: textsOf(roles.target.positive), negative: textsOf(roles.target.negative) },
  time: roles.time ?? "",
  group: roles.group ?? "",
  weight: roles.weight ?? "",
});

const typeOf = (columns: readonly FinalColumn[], name: string): ValueType =>
  columns.find((column) => column.name === name)?.type ?? "other";

/** Whether it has to be said which value counts as positive. */
export const needsPositive = ({ kind, target }: RolesDraft, columns: readonly FinalColumn[]): boolean =>
  kind === "binary" && typeOf(columns, target) !== "boolean";

/** Kinds of answer that a column of a type can have. */
export function kindsFor(type: ValueType): readonly TargetKind[] {
  if (type === "boolean") return ["binary"];
  return isNumber(type) ? ["number", "binary", "classes"] : ["classes", "binary"];
}

/** The form with another column as the answer: of a kind that it can have. */
export function withTarget(draft: RolesDraft, target: string, columns: readonly FinalColumn[]): RolesDraft {
  const kinds = kindsFor(typeOf(columns, target));
  const kind = kinds.includes(draft.kind) ? draft.kind : kinds[0]!;
  const free = (role: "time" | "group" | "weight"): string => (draft[role] === target ? "" : draft[role]);
  return {
    ...draft,
    target,
    kind,
    sides: { positive: [], negative: [] },
    time: free("time"),
    group: free("group"),
    weight: free("weight"),
  };
}

/** Columns that can have a role: moments for the time, numbers for the weight, all but the answer for the others. */
export const columnsFor = (
  role: "time" | "group" | "weight" | "key",
  { target }: RolesDraft,
  columns: readonly FinalColumn[],
): readonly FinalColumn[] =>
  columns.filter(({ name, type, encoded }) => {
    if (name === target) return false;
    if (encoded) return role === "group";
    if (role === "time") return isMoment(type);
    return role !== "weight" || isNumber(type);
  });

/** Both sides as the file says them; of a yes/no column only that "no" is what is looked for. */
function saidSides(draft: RolesDraft, columns: readonly FinalColumn[]): ReturnType<typeof sidesInFile> {
  const { sides, target, kind } = draft;
  if (needsPositive(draft, columns)) return sidesInFile(sides, typeOf(columns, target));
  return kind === "binary" && sides.positive.includes("false") ? { positive: false } : {};
}

/** The roles that the form stands for, as the file says them. */
export function rolesOfDraft(draft: RolesDraft, columns: readonly FinalColumn[]) {
  const { key, target, kind } = draft;
  const said = saidSides(draft, columns);
  return {
    key: [...key],
    target: { column: target, kind, ...said },
    time: draft.time === "" ? null : draft.time,
    group: draft.group === "" ? null : draft.group,
    weight: draft.weight === "" ? null : draft.weight,
  };
}

/** What is missing elsewhere, in words of the form. */
export const roleMistake = ({ key }: RolesDraft): string | undefined =>
  key.length === 0 ? "Choose at least one column that identifies a row." : undefined;

/** What is wrong with each side of the answer, in words of the form. */
export function sideMistakes(
  draft: RolesDraft,
  columns: readonly FinalColumn[],
): Readonly<Partial<Record<keyof Sides, string | undefined>>> {
  if (!needsPositive(draft, columns)) return {};
  const type = typeOf(columns, draft.target);
  return {
    positive: sideMistake("positive", draft.sides, type),
    negative: sideMistake("negative", draft.sides, type),
  };
}

/** What is wrong with the form, by field; sides are told apart. */
export const rolesDraftSchema = (columns: readonly FinalColumn[]) =>
  z.custom<RolesDraft>().superRefine((draft, context) => {
    const sides = sideMistakes(draft, columns);
    const found = [
      [["key"], roleMistake(draft)],
      [["sides", "positive"], sides.positive],
      [["sides", "negative"], sides.negative],
    ] as const;
    for (const [path, message] of found)
      if (message !== undefined) context.addIssue({ code: "custom", path: [...path], message });
  });
