import { binary, call, cast, column, double, integer, text, when, type Expression } from "../expression/ast";
import { digestOf, fractionOf, SEPARATOR } from "../expression/digest";
import { md5 } from "../hash";
import type { PipelineFile } from "../pipeline/schema";
import { fence, outputColumns, project, withColumns, type Relation } from "../relation/relation";
import { DRAW_COLUMN, PART_COLUMN } from "../steps/step";

/** Sides of the holdout, as stored in the frame. */
export const TRAINING_PART = 0;
export const HOLDOUT_PART = 1;

/** Digest of the columns that decide membership, prefixed with the seed; the same in SQL and in {@link drawOf}. */
const digest = (file: PipelineFile, names: readonly string[]): Expression => digestOf(file.holdout.seed, names.map((name) => column(name)));

/** The digest that {@link withSplit} computes once a row; it goes no further. */
const DIGEST = "ravlen_digest";

/** 0 for training rows, 1 for holdout rows. Depends on the key, group or time of the row alone, never on other rows. */
function partExpression(file: PipelineFile): Expression {
  const { holdout, roles } = file;
  const byGroup = holdout.by === "group" && roles.group !== undefined;
  const held = holdout.by === "time" && roles.time !== undefined
    ? binary(column(roles.time), ">=", cast(text(holdout.from ?? ""), "timestamptz"))
    : binary(fractionOf(byGroup ? digest(file, [roles.group!]) : column(DIGEST), 1), "<", double(holdout.share));
  return cast(when(held, integer(HOLDOUT_PART), integer(TRAINING_PART)), "smallint");
}

/** Rows with two more columns: on which side of the holdout they are, and a number in [0, 1) for samples that are the same every time. */
export function withSplit(rows: Relation, file: PipelineFile): Relation {
  const digested = fence(withColumns(rows, [{ name: DIGEST, expression: digest(file, file.roles.key) }]));
  return project(digested, [
    ...outputColumns(rows).map((name) => ({ name, expression: column(name) })),
    { name: PART_COLUMN, expression: partExpression(file) },
    // Other digits of the same digest than those that decide the side.
    { name: DRAW_COLUMN, expression: cast(fractionOf(column(DIGEST), 9), "double precision") },
  ]);
}

/** The fold of a training row, from 0, by its stable random number. */
export const foldExpression = (folds: number): Expression => cast(call("floor", binary(column(DRAW_COLUMN), "*", integer(folds))), "integer");

/**
 * The number in [0, 1) that decides on which side a row falls, as the SQL computes it.
 * @param seed the holdout's seed
 * @param values texts of the key (or group) columns as PostgreSQL casts them; NULL counts as empty
 */
export function drawOf(seed: string | number, values: readonly (string | null)[]): number {
  const hash = md5(`${seed}${values.map((value) => `${SEPARATOR}${value ?? ""}`).join("")}`);
  return Number.parseInt(hash.slice(0, 8), 16) / 4294967296;
}
