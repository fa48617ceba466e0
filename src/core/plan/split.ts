import { hidden } from "../sql/hidden";
import { binary, call, cast, column, double, integer, text, when, type Expression } from "../expression/ast";
import { digestOf, fractionOf, SEPARATOR } from "../expression/digest";
import { md5 } from "../hash";
import type { PipelineFile } from "../pipeline/schema";
import {
  fence,
  outputColumns,
  project,
  withColumns,
  type NamedExpression,
  type Relation,
} from "../relation/relation";
import { DRAW_COLUMN, FOLD_COLUMN, PART_COLUMN } from "../steps/step";

/** Sides of the holdout, as stored in the frame. */
export const TRAINING_PART = 0;
export const HOLDOUT_PART = 1;
/** The part that stays closed until somebody opens it. */
export const BLIND_PART = 2;
/** Training rows of the fold that is judged, in the frame of that fold. */
export const FOLD_PART = 3;

/** Digest of the columns that decide membership, prefixed with the seed; the same in SQL and in {@link drawOf}. */
const digest = (seed: string | number, names: readonly string[]): Expression =>
  digestOf(
    seed,
    names.map((name) => column(name)),
  );

/** The digest that {@link withSplit} computes once a row; it goes no further. */
const DIGEST = hidden("digest");
/** The row's place among the rows of its class, in [0, 1); for stratified holdouts. */
const PLACE = hidden("place");

/** How rows are put into folds when the file does not say: as the holdout is. */
export function foldsOf(file: PipelineFile): NonNullable<PipelineFile["folds"]> {
  return file.folds ?? { count: 5, by: file.holdout.by, seed: 1 };
}

/** 0 for training rows, 1 for holdout rows, 2 for blind rows. But for stratified holdouts it depends on the row's own key, group or time alone. */
function partExpression(file: PipelineFile): Expression {
  const { holdout, roles } = file;
  if (holdout.by === "time" && roles.time !== undefined) {
    const since = (moment: string): Expression =>
      binary(column(roles.time!), ">=", cast(text(moment), "timestamptz"));
    const held = when(since(holdout.from ?? ""), integer(HOLDOUT_PART), integer(TRAINING_PART));
    return cast(
      holdout.blind?.from === undefined ? held : when(since(holdout.blind.from), integer(BLIND_PART), held),
      "smallint",
    );
  }
  const byGroup = holdout.by === "group" && roles.group !== undefined;
  const place =
    holdout.by === "stratified"
      ? column(PLACE)
      : fractionOf(byGroup ? digest(holdout.seed, [roles.group!]) : column(DIGEST), 1);
  const blind = holdout.blind?.share;
  // The blind part lies behind the holdout, so that opening or adding it moves no row of the holdout.
  const beyond =
    blind === undefined
      ? undefined
      : {
          kind: "between" as const,
          operand: place,
          low: double(holdout.share),
          high: double(holdout.share + blind),
          negated: false,
        };
  return cast(
    when(
      binary(place, "<", double(holdout.share)),
      integer(HOLDOUT_PART),
      beyond ? when(beyond, integer(BLIND_PART), integer(TRAINING_PART)) : integer(TRAINING_PART),
    ),
    "smallint",
  );
}

const window = (name: string, by: readonly Expression[], order: readonly Expression[]): Expression => ({
  kind: "window",
  call: name === "count" ? { ...call("count"), star: true } : call(name),
  by,
  order: order.map((expression) => ({ expression })),
});

/** Place of a row among those with the same values, by its random number: (place - 1) / all of them. */
const placeAmong = (by: readonly Expression[]): Expression =>
  binary(
    cast(
      binary(window("row_number", by, [column(DRAW_COLUMN), column(DIGEST)]), "-", integer(1)),
      "double precision",
    ),
    "/",
    cast(window("count", by, []), "double precision"),
  );

/** The fold of a row, from 0. Forward in time fold 0 is only ever learned from. */
function foldExpression(file: PipelineFile): Expression {
  const { roles } = file;
  const { by, count, seed } = foldsOf(file);
  const part = column(PART_COLUMN);
  const nth = (place: Expression, folds: number): Expression =>
    cast(call("floor", binary(place, "*", integer(folds))), "smallint");
  if (by === "stratified") return nth(placeAmong([part, column(roles.target.column)]), count);
  if (by === "time" && roles.time !== undefined) {
    const rank = cast(
      binary(window("rank", [part], [column(roles.time)]), "-", integer(1)),
      "double precision",
    );
    return nth(binary(rank, "/", cast(window("count", [part], []), "double precision")), count + 1);
  }
  // Groups are dealt out in the order of their digests, so that no fold stays empty when there are few of them.
  if (by === "group" && roles.group !== undefined)
    return cast(
      binary(
        binary(window("dense_rank", [part], [digest(`folds ${seed}`, [roles.group])]), "-", integer(1)),
        "%",
        integer(count),
      ),
      "smallint",
    );
  return nth(
    seed === 1 ? fractionOf(column(DIGEST), 17) : fractionOf(digest(`folds ${seed}`, roles.key), 1),
    count,
  );
}

/**
 * Rows with further columns: on which side of the holdout they are, a number in [0, 1) for samples that are the same every
 * time, and, on request, their fold.
 */
export function withSplit(rows: Relation, file: PipelineFile, folds: boolean): Relation {
  const own = outputColumns(rows).map((name): NamedExpression => ({ name, expression: column(name) }));
  const digested = fence(
    withColumns(rows, [{ name: DIGEST, expression: digest(file.holdout.seed, file.roles.key) }]),
  );
  // Other digits of the same digest than those that decide the side.
  const draw: NamedExpression = {
    name: DRAW_COLUMN,
    expression: cast(fractionOf(column(DIGEST), 9), "double precision"),
  };
  const part: NamedExpression = { name: PART_COLUMN, expression: partExpression(file) };
  const stratified = file.holdout.by === "stratified";
  if (!stratified && !folds) return project(digested, [...own, part, draw]);
  const keep = (names: readonly string[]): readonly NamedExpression[] =>
    names.map((name) => ({ name, expression: column(name) }));
  const drawn = fence(project(digested, [...own, draw, ...keep([DIGEST]), ...(stratified ? [] : [part])]));
  const placed = stratified
    ? fence(withColumns(drawn, [{ name: PLACE, expression: placeAmong([column(file.roles.target.column)]) }]))
    : drawn;
  const parted = stratified ? fence(withColumns(placed, [part])) : placed;
  return project(parted, [
    ...own,
    ...keep([PART_COLUMN, DRAW_COLUMN]),
    ...(folds ? [{ name: FOLD_COLUMN, expression: foldExpression(file) }] : []),
  ]);
}

/**
 * The number in [0, 1) that decides on which side a row falls, as the SQL computes it.
 * @param seed the holdout's seed
 * @param values texts of the key (or group) columns as PostgreSQL casts them; NULL counts as empty
 */
export function drawOf(seed: string | number, values: readonly (string | null)[]): number {
  const hash = md5(`${seed}${values.map((value) => `${SEPARATOR}${value ?? ""}`).join("")}`);
  return Number.parseInt(hash.slice(0, 8), 16) / 4294967296;
}
