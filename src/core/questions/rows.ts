import { z } from "zod";
import type { Relation } from "../relation/relation";
import type { Question } from "./question";

/** A row whose columns are only known to whoever asked. */
export type AnyRow = Readonly<Record<string, unknown>>;

const anyRows = z.array(z.record(z.string(), z.unknown()));

/** Rows as they are, for readers of their own. */
export const rowsQuestion = (relation: Relation, purpose: string): Question<readonly AnyRow[]> => ({
  relation,
  purpose,
  read: (rows) => anyRows.parse(rows),
});

/**
 * The first rows as they are.
 * @param most how many at the most
 */
export const someRowsQuestion = (
  input: Relation,
  most: number,
  purpose: string,
): Question<readonly AnyRow[]> => rowsQuestion({ kind: "limit", input, order: [], rows: most }, purpose);
