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
  share: share.default(0.2).describe("Share of rows (or groups) held out for evaluation."),
  seed,
  by: z
    .enum(["key", "stratified", "group", "time", "named", "condition", "table", "none"])
    .default("key")
    .describe(
      'key: by a hash of the key. stratified: the same, stratified by class. group: whole groups. time: rows at or after "from". named: the groups listed under "groups". condition: rows that meet "where". table: the rows of another table with the same columns, through the same steps. none: all rows are used for training; metrics come from the folds, if any.',
    ),
  from: from.describe("For by: time, the start of the holdout, such as 2026-05-01."),
  groups: groups.describe("For by: named, the values of the group column that are held out."),
  where: where.describe("For by: condition, what evaluated rows meet at the end of the strand."),
  table: table.describe(
    "For by: table, the holdout table, as schema.table; all its rows, regardless of rows.train.",
  ),
  blind: z
    .strictObject({
      share: share
        .optional()
        .describe("Share of rows (or groups) of the blind holdout, in addition to the holdout."),
      from: from.describe("The start of the blind holdout; later than that of a holdout by time."),
      groups: groups.describe("Values of the group column for the blind holdout."),
      where: where.describe("Condition for rows of the blind holdout at the end of the strand."),
      table: table.describe("The table of the blind holdout, as schema.table."),
    })
    .optional()
    .describe(
      "A final holdout that is not used until it is opened, once and on record. Selected in one of the ways below, independently of the holdout.",
    ),
});

/** Parts of the training rows that judge each other. */
export const foldsSchema = z.strictObject({
  count: z.int().min(2).max(50),
  by: z
    .enum(["key", "stratified", "group", "time"])
    .default("key")
    .describe(
      "key: by a hash. stratified: the same share of every class in each fold. group: whole groups. time: each fold is evaluated by a model trained on the time before it.",
    ),
  seed,
});
