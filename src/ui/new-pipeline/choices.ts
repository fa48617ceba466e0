import type { Algorithm } from "@/core/learn/algorithms";
import { isPipelineName } from "@/core/pipeline/proposal/propose-name";
import type { TargetKind } from "@/core/pipeline/schema";
import { z } from "zod";
import type { Region } from "../regions/region";

/** Stands in the list of columns for a target that an expression computes. */
export const FROM_EXPRESSION = "=";

/** Stands in the list of columns for a target that is drawn as regions. */
export const FROM_REGIONS = "#";

/** What a person has chosen of regions so far. */
export interface RegionChoices {
  readonly x: string;
  readonly y: string;
  /** The column whose values each have a scale of their own; empty when all rows have one. */
  readonly entity: string;
  /** The column by which earlier rows are found; proposed when left out. */
  readonly order?: string;
  readonly regions: readonly Region[];
  readonly otherwise: string;
}
export const NOTHING_DRAWN: RegionChoices = { x: "", y: "", entity: "", regions: [], otherwise: "" };

/** What a person has chosen so far; what is undefined is proposed. */
export interface Choices {
  readonly name: string | undefined;
  readonly question: string;
  readonly table: string;
  readonly key: readonly string[] | undefined;
  /** A column, {@link FROM_EXPRESSION}, {@link FROM_REGIONS}, or nothing yet. */
  readonly target: string;
  readonly expression: string;
  readonly drawn: RegionChoices;
  readonly kind: TargetKind | undefined;
  readonly positive: readonly string[] | undefined;
  readonly negative: readonly string[] | undefined;
  readonly learner: Algorithm | undefined;
  /** Proposed preparations that are left out. */
  readonly without: readonly string[];
}

const AFTER_KIND = { positive: undefined, negative: undefined, learner: undefined };
const AFTER_TARGET = { ...AFTER_KIND, kind: undefined, drawn: NOTHING_DRAWN, without: [] };
const AFTER_TABLE = { ...AFTER_TARGET, key: undefined, target: "", expression: "" };

/** A form that nothing was chosen in but perhaps the table. */
export const firstChoices = (table: string): Choices => ({
  ...AFTER_TABLE,
  name: undefined,
  question: "",
  table,
});

/** What was chosen, with what follows from it: whatever depends on a changed field is proposed again. */
export function withDependents(chosen: Partial<Choices>): Partial<Choices> {
  return {
    ...("kind" in chosen ? AFTER_KIND : {}),
    ...("target" in chosen ? AFTER_TARGET : {}),
    ...("table" in chosen ? AFTER_TABLE : {}),
    ...chosen,
  };
}

/** What is wrong with a pipeline's name, or undefined. */
export function nameMistake(name: string, taken: readonly string[]): string | undefined {
  if (name === "") return "Enter a name.";
  if (!isPipelineName(name))
    return "Use letters, digits, - and _ only, at most 63 characters, starting with a letter or digit.";
  return taken.includes(name) ? `A pipeline named “${name}” already exists.` : undefined;
}

function regionMistake({ x, y, regions, otherwise }: RegionChoices): string | undefined {
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

/**
 * The check of the form by itself; what the table and its values say is checked in findings.ts.
 *
 * @param taken names that pipelines have
 */
export const choicesSchema = (taken: readonly string[]): z.ZodType<Choices> =>
  z.custom<Choices>().superRefine((choices, context) => {
    const refuse = (field: keyof Choices, message: string | undefined): void => {
      if (message !== undefined) context.addIssue({ code: "custom", path: [field], message });
    };
    const { table, target, expression, drawn, key, name } = choices;
    if (table === "") refuse("table", "Choose a table.");
    if (table !== "" && target === "") refuse("target", "Choose the column to predict.");
    if (target === FROM_EXPRESSION && expression.trim() === "")
      refuse("expression", "Enter the expression for the target.");
    if (target === FROM_REGIONS) refuse("drawn", regionMistake(drawn));
    if (key?.length === 0) refuse("key", "Choose the columns that identify one row.");
    if (name !== undefined) refuse("name", nameMistake(name.trim(), taken));
  });
