import { hidden } from "../names/hidden";
import {
  binary,
  call,
  cast,
  column,
  countRows,
  double,
  integer,
  isNotNull,
  NULL,
  text,
  when,
  type Expression,
} from "../expression/ast";
import { digestOf, fractionOf, SEPARATOR } from "../expression/digest";
import { md5 } from "../hash";
import type { PipelineFile } from "../pipeline/schema";
import {
  fence,
  filter,
  outputColumns,
  project,
  withColumns,
  type NamedExpression,
  type Relation,
} from "../relation/relation";
import { DRAW_COLUMN, FOLD_COLUMN, PART_COLUMN } from "../steps/step";
import { PlanBuilder, type BuildOptions } from "./build";
import type { CheckedPlan } from "./plan";

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

/** The part of a row that comes from a table whose rows judge; NULL for all others. */
const ORIGIN = hidden("origin");

/** Folds beside a holdout: made as it is, or of whole groups where it is made of some; else at random. */
const FOLDS_BESIDE: Readonly<
  Record<PipelineFile["holdout"]["by"], NonNullable<PipelineFile["folds"]>["by"]>
> = {
  key: "key",
  stratified: "stratified",
  group: "group",
  time: "time",
  named: "group",
  condition: "key",
  table: "key",
  none: "key",
};

/** How rows are put into folds when the file does not say: as the holdout is. */
export function foldsOf(file: PipelineFile): NonNullable<PipelineFile["folds"]> {
  return file.folds ?? { count: 5, by: FOLDS_BESIDE[file.holdout.by], seed: 1 };
}

const HASHED: readonly string[] = ["key", "stratified", "group"];

/** Where a row lies in [0, 1) for the parts that are shares of rows or groups. */
function placeOf({ holdout, roles }: PipelineFile): Expression {
  if (holdout.by === "stratified") return column(PLACE);
  const group = wholeGroup({ holdout, roles });
  return fractionOf(group === undefined ? column(DIGEST) : digest(holdout.seed, [group]), 1);
}

const since = (time: string, moment: string): Expression =>
  binary(column(time), ">=", cast(text(moment), "timestamptz"));

/** The column whose rows stay together: rows of one group are drawn together when chance is estimated. */
export const wholeGroup = ({
  holdout,
  roles,
}: Pick<PipelineFile, "holdout" | "roles">): string | undefined =>
  holdout.by === "group" || holdout.by === "named" ? roles.group : undefined;

/** The table whose rows judge, where they are not rows of the main strand. */
export const judgingTableOf = ({ holdout }: Pick<PipelineFile, "holdout">): string | undefined =>
  holdout.by === "table" ? holdout.table : undefined;

/** Whether a row is in the holdout; undefined where no row of the main strand is. */
function heldOut({ file, division }: CheckedPlan): Expression | undefined {
  const { holdout, roles } = file;
  if (HASHED.includes(holdout.by)) return binary(placeOf(file), "<", double(holdout.share));
  if (holdout.by === "time" && roles.time !== undefined) return since(roles.time, holdout.from ?? "");
  return division.held;
}

/** Whether a row is in the blind part. */
function closed({ file, division }: CheckedPlan): Expression | undefined {
  const { holdout, roles } = file;
  const { blind } = holdout;
  if (blind?.from !== undefined && roles.time !== undefined) return since(roles.time, blind.from);
  if (blind?.share === undefined) return division.closed;
  // The blind part lies behind the holdout, so that opening or adding it moves no row of the holdout.
  const low = HASHED.includes(holdout.by) ? holdout.share : 0;
  return {
    kind: "between",
    operand: placeOf(file),
    low: double(low),
    high: double(low + blind.share),
    negated: false,
  };
}

/** 0 for training rows, 1 for holdout rows, 2 for blind rows. But for stratified holdouts it depends on the row's own values alone. */
function partExpression(plan: CheckedPlan): Expression {
  const parts = [
    [closed(plan), BLIND_PART],
    [heldOut(plan), HOLDOUT_PART],
  ] as const;
  const branches = parts.flatMap(([condition, part]) =>
    condition ? [{ when: condition, then: integer(part) }] : [],
  );
  const own: Expression =
    branches.length === 0
      ? integer(TRAINING_PART)
      : { kind: "case", branches, otherwise: integer(TRAINING_PART) };
  return cast(
    plan.division.tables.length === 0 ? own : when(isNotNull(column(ORIGIN)), column(ORIGIN), own),
    "smallint",
  );
}

const window = (name: string, by: readonly Expression[], order: readonly Expression[]): Expression => ({
  kind: "window",
  call: name === "count" ? countRows : call(name),
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

/** Rows of a table that judges: all of them, but for answers that are neither positive nor negative. */
const judgingRows = (rows: Relation, { sides }: CheckedPlan): Relation =>
  sides ? filter(rows, sides.named) : rows;

/**
 * Rows that train or judge, before or after the steps: of the main strand those that the file trains on, and all rows of tables that
 * judge, which go through the same steps.
 */
export function dividedRows(plan: CheckedPlan, options: BuildOptions): Relation {
  const builder = new PlanBuilder(plan);
  const own = filter(builder.main(options), plan.train);
  const { tables } = plan.division;
  if (tables.length === 0) return own;
  const from = (rows: Relation, part: Expression): Relation =>
    withColumns(rows, [{ name: ORIGIN, expression: cast(part, "smallint") }]);
  return {
    kind: "union",
    inputs: [
      from(own, NULL),
      ...tables.map((judging) =>
        from(
          judgingRows(builder.mainOf(judging, options), plan),
          integer(judging.part === "blind" ? BLIND_PART : HOLDOUT_PART),
        ),
      ),
    ],
  };
}

/**
 * Rows with further columns: on which side of the holdout they are, a number in [0, 1) for samples that are the same every
 * time, and, on request, their fold.
 * @param rows those of {@link dividedRows}
 */
export function withSplit(rows: Relation, plan: CheckedPlan, folds: boolean): Relation {
  const { file } = plan;
  const named = (names: readonly string[]): readonly NamedExpression[] =>
    names.map((name) => ({ name, expression: column(name) }));
  const own = named(outputColumns(rows).filter((name) => name !== ORIGIN));
  const origin = outputColumns(rows).includes(ORIGIN) ? [ORIGIN] : [];
  const digested = fence(
    withColumns(rows, [{ name: DIGEST, expression: digest(file.holdout.seed, file.roles.key) }]),
  );
  // Other digits of the same digest than those that decide the side.
  const draw: NamedExpression = {
    name: DRAW_COLUMN,
    expression: cast(fractionOf(column(DIGEST), 9), "double precision"),
  };
  const part: NamedExpression = { name: PART_COLUMN, expression: partExpression(plan) };
  const stratified = file.holdout.by === "stratified";
  if (!stratified && !folds) return project(digested, [...own, part, draw]);
  const drawn = fence(
    project(digested, [...own, draw, ...named([DIGEST]), ...(stratified ? named(origin) : [part])]),
  );
  const among = [...origin, file.roles.target.column].map((name) => column(name));
  const placed = stratified
    ? fence(withColumns(drawn, [{ name: PLACE, expression: placeAmong(among) }]))
    : drawn;
  const parted = stratified ? fence(withColumns(placed, [part])) : placed;
  return project(parted, [
    ...own,
    ...named([PART_COLUMN, DRAW_COLUMN]),
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
