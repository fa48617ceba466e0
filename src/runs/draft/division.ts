import type { JudgedPart } from "@/core/evaluate/judged-part";
import { answerValues, classParts, groupParts, leftOutRows, partSizes } from "@/core/plan/division-counts";
import type { CheckedPlan } from "@/core/plan/plan";
import { BLIND_PART, HOLDOUT_PART } from "@/core/plan/split";
import { rowsQuestion } from "@/core/questions/rows";
import type { Relation } from "@/core/relation/relation";
import { PART_COLUMN } from "@/core/steps/step";
import type { Warehouse } from "@/warehouse/port/warehouse";

/** Rows of a class or a group in a part; null is a missing answer, or a row without a group. */
export interface ValueRows {
  readonly part: JudgedPart;
  readonly value: string | null;
  readonly rows: number;
}

/** How rows are divided, counted before anything is trained. */
export interface DivisionCounts {
  readonly parts: readonly {
    readonly part: JudgedPart;
    readonly rows: number;
    /** Where a column says which rows belong together. */
    readonly groups?: number;
  }[];
  /** For yes and no and for several classes. */
  readonly classes?: readonly ValueRows[];
  /** Values of an answer of which some count as positive, the most frequent first, whether or not they are left out. */
  readonly answers?: readonly { readonly value: string; readonly rows: number }[];
  /** Rows that would train but for an answer that is neither positive nor negative, where both are named. */
  readonly leftOut?: number;
  /** The largest groups. */
  readonly groups?: readonly ValueRows[];
  /** Groups that are not among them. */
  readonly moreGroups: number;
}

/** Groups that are listed, the largest. */
const MOST_GROUPS = 300;
const MOST_CLASSES = 600;
/** Values of the answer that are listed. */
export const MOST_ANSWERS = 1000;

const partOf = (number: unknown): JudgedPart => {
  if (Number(number) === HOLDOUT_PART) return "holdout";
  return Number(number) === BLIND_PART ? "blind" : "training";
};

/** Counts rows, classes and groups of training rows, holdout and blind part, from today's rows. */
export async function countDivision(
  plan: CheckedPlan,
  warehouse: Warehouse,
  runTime: string,
): Promise<DivisionCounts> {
  const { group } = plan.file.roles;
  const read = (relation: Relation): Promise<readonly Readonly<Record<string, unknown>>[]> =>
    warehouse.ask(rowsQuestion(relation, "how rows are divided"), { runTime });
  const valuesOf = async (
    relation: Relation | undefined,
    most: number,
  ): Promise<readonly ValueRows[] | undefined> => {
    if (!relation) return undefined;
    const order = [{ expression: { kind: "column", name: "rows" }, descending: true }] as const;
    const rows = await read({ kind: "limit", input: relation, rows: most, order: [...order] });
    return rows.map((row) => ({
      part: partOf(row[PART_COLUMN]),
      value: (row["value"] ?? null) as string | null,
      rows: Number(row["rows"]),
    }));
  };
  const left = leftOutRows(plan);
  const [sizes, classes, groups, answers, leftOut] = await Promise.all([
    read(partSizes(plan)),
    valuesOf(classParts(plan), MOST_CLASSES),
    valuesOf(group === undefined ? undefined : groupParts(plan, group), MOST_GROUPS),
    valuesOf(answerValues(plan), MOST_ANSWERS),
    left ? read(left) : undefined,
  ]);
  const parts = sizes.map((row) => ({
    part: partOf(row[PART_COLUMN]),
    rows: Number(row["rows"]),
    ...(group === undefined ? {} : { groups: Number(row["groups"]) }),
  }));
  const listed = new Set((groups ?? []).map(({ value }) => value)).size;
  // A group that lies in several parts counts in each of them.
  const all = parts.reduce((sum, { groups: inPart = 0 }) => sum + inPart, 0);
  return {
    parts,
    ...(classes ? { classes } : {}),
    ...(answers
      ? { answers: answers.flatMap(({ value, rows }) => (value === null ? [] : { value, rows })) }
      : {}),
    ...(leftOut ? { leftOut: Number(leftOut[0]?.["rows"] ?? 0) } : {}),
    ...(groups ? { groups } : {}),
    moreGroups: (groups ?? []).length < MOST_GROUPS ? 0 : Math.max(0, all - listed),
  };
}
