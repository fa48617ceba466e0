import { z } from "zod";
import type { Relation } from "../relation/relation";
import type { Question } from "./question";

const levelRows = z.array(z.looseObject({ level: z.string().nullable() }));

/**
 * Values of a column as text; null for a missing one.
 * @param input rows with a column "level"
 * @param most how many at the most
 */
export const levelsQuestion = (
  input: Relation,
  most: number,
  purpose: string,
): Question<readonly (string | null)[]> => ({
  relation: { kind: "limit", input, order: [], rows: most },
  purpose,
  read: (rows) => levelRows.parse(rows).map(({ level }) => level),
});
