import { z } from "zod";
import type { Relation } from "../relation/relation";

/** A question to a warehouse: the rows that answer it, and what they say. */
export interface Question<Answer> {
  readonly relation: Relation;
  /** What it is for, for the record of the run. */
  readonly purpose: string;
  /** Reads the rows of the answer; throws when they are not of the expected form. */
  readonly read: (rows: readonly unknown[]) => Answer;
}

/** A double precision value of an answer, infinite values and NaN too. */
export const doubleValue = z.custom<number>((value) => typeof value === "number", "not a number");

/** The only row of an answer. */
export function onlyRow<Row>(rows: readonly unknown[], schema: z.ZodType<Row>): Row {
  return z.tuple([schema]).parse(rows)[0];
}
