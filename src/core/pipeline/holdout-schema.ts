import { z } from "zod";
import { expressionText } from "../steps/step";

const seed = z.union([z.int(), z.string()]).default(1);
const share = z.number().gt(0).lt(1);
const from = z.string().optional();
const groups = z
  .array(z.union([z.string(), z.number(), z.boolean()]))
  .min(1)
  .optional();
const where = expressionText.optional();
const table = z.string().optional();

/** Which rows are kept from training and judged on, and which of them stay closed until somebody opens them. */
export const holdoutSchema = z.strictObject({
  share: share.default(0.2).describe("Share of rows (or groups) kept for judging."),
  seed,
  by: z
    .enum(["key", "stratified", "group", "time", "named", "condition", "table", "none"])
    .default("key")
    .describe(
      'key: by a hash of the key. stratified: the same, with the same share of every class. group: whole groups. time: rows at or after "from". named: the groups listed under "groups". condition: rows that meet "where". table: the rows of another table with the same columns, through the same steps. none: every row trains; figures come from the folds, or there are none.',
    ),
  from: from.describe("For by: time, the first moment of the holdout, such as 2026-05-01."),
  groups: groups.describe("For by: named, the values of the group column whose rows judge."),
  where: where.describe("For by: condition, what rows that judge meet at the end of the strand."),
  table: table.describe(
    "For by: table, the table whose rows judge, as schema.table; all of them, whatever rows.train says.",
  ),
  blind: z
    .strictObject({
      share: share.optional().describe("Share of rows (or groups) of the blind part, beside the holdout."),
      from: from.describe("The first moment of the blind part; later than that of a holdout by time."),
      groups: groups.describe("Values of the group column whose rows are the blind part."),
      where: where.describe("What rows of the blind part meet at the end of the strand."),
      table: table.describe("The table whose rows are the blind part, as schema.table."),
    })
    .optional()
    .describe(
      "A last part that nothing is trained or judged on until it is opened, once and on record. It is told apart in one of the ways below, whatever the holdout is told apart by.",
    ),
});

/** Parts of the training rows that judge each other. */
export const foldsSchema = z.strictObject({
  count: z.int().min(2).max(50),
  by: z
    .enum(["key", "stratified", "group", "time"])
    .default("key")
    .describe(
      "key: by a hash. stratified: the same share of every class in each fold. group: whole groups. time: each fold is judged by what was learned from the time before it.",
    ),
  seed,
});
