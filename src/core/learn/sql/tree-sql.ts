import { MULTIPLIER, POISSON_THRESHOLDS, seedOffset } from "../../numeric/random";
import { quoteDouble, quoteIdentifier } from "../../sql/quote";
import { DRAW_COLUMN } from "../../steps/step";
import { CUT_ROWS } from "../trees/cuts";
import type { AppliedSplit, HeldRows, RowSample, Strata, TreeLoss, TreeStart } from "../trees/tree-questions";
import { safeExp, TARGET, whereOf, type FrameSource } from "./source";

/**
 * The questions of trees as SQL. A state table holds, per training row, its bins (b0, b1, ...), answer (y), weight (wt), stable
 * random number (draw), scores (s0, ...) and gradients (g0, h0, ...) as whole numbers; it is written anew every round.
 */

const DRAW = quoteIdentifier(DRAW_COLUMN);

/** The hash of {@link mix} in bigints, as a number in [0, 1). */
export function uniformSql(draw: string, seed: number): string {
  const start = `((${draw} * 4294967296)::bigint + ${seedOffset(seed)}) & 4294967295`;
  const round = (value: string): string => `(((${value}) # ((${value}) >> 16)) * ${MULTIPLIER}) & 4294967295`;
  return `(SELECT ((z # (z >> 16)) / 4294967296.0)::double precision FROM (SELECT ${round("y")} AS z FROM (SELECT ${round("x")} AS y FROM (SELECT ${start} AS x) AS a) AS b) AS c)`;
}

function drawnSql(sample: RowSample): string {
  if (sample.kind === "all") return "1";
  const drawn = uniformSql("draw", sample.seed);
  return sample.kind === "share"
    ? `CASE WHEN ${drawn} < ${quoteDouble(sample.share)} THEN 1 ELSE 0 END`
    : `width_bucket(${drawn}, ARRAY[${POISSON_THRESHOLDS.map(quoteDouble).join(",")}])`;
}

/** How often a row is in the sample of a tree. */
export function oftenSql(sample: RowSample, validation: boolean): string {
  const often = drawnSql(sample);
  return validation ? `CASE WHEN held THEN 0 ELSE ${often} END` : often;
}

/** Distinct values of a column, ascending, one more than `most` at the most. */
export function distinctSql(source: FrameSource, column: string, total: number, most: number): string {
  const name = quoteIdentifier(column);
  return `SELECT DISTINCT ${name} AS value FROM ${source.table}${whereOf(source)}${drawn(source, total)} AND ${name} IS NOT NULL ORDER BY 1 LIMIT ${most + 1}`;
}

const drawn = (source: FrameSource, total: number): string =>
  `${source.where === "" ? " WHERE" : " AND"} ${total <= CUT_ROWS ? "true" : `${DRAW} < ${quoteDouble(CUT_ROWS / total)}`}`;

/** Quantiles of a column over the rows that decide cuts. */
export function quantilesSql(
  source: FrameSource,
  column: string,
  total: number,
  shares: readonly number[],
): string {
  return `SELECT percentile_disc(ARRAY[${shares.map(quoteDouble).join(",")}]) WITHIN GROUP (ORDER BY ${quoteIdentifier(column)}) AS quantiles FROM ${source.table}${whereOf(source)}${drawn(source, total)}`;
}

export interface StateColumns {
  readonly numbers: readonly string[];
  readonly categories: readonly string[];
}

/** The stratum of a row, by its target. */
const stratumSql = (cuts: readonly number[]): string =>
  cuts.length === 0 ? "0" : `width_bucket(${TARGET}, ARRAY[${cuts.map(quoteDouble).join(",")}])`;

/** Whether a row is held apart. */
function heldSql({ seed, cuts, bounds }: HeldRows): string {
  const number = uniformSql(DRAW, seed);
  const within = ([from, to]: readonly [number, number]): string =>
    `${number} >= ${quoteDouble(from)} AND ${number} < ${quoteDouble(to)}`;
  return `CASE ${stratumSql(cuts)} ${bounds.map((bound, stratum) => `WHEN ${stratum} THEN ${within(bound)}`).join(" ")} ELSE false END`;
}

/** Values that part the targets, as one array: "cuts". */
export const targetCutsSql = (source: FrameSource, shares: readonly number[]): string =>
  `SELECT percentile_disc(ARRAY[${shares.map(quoteDouble).join(",")}]) WITHIN GROUP (ORDER BY ${TARGET}) AS cuts FROM ${source.table}${whereOf(source)}`;

/** Per stratum the numbers that part its rows at shares, as an array: "parts"; NULL for all of them. */
export function strataSql(source: FrameSource, { seed, cuts }: Strata, shares: readonly number[]): string {
  const inner = `SELECT ${stratumSql(cuts)} AS stratum, ${uniformSql(DRAW, seed)} AS number FROM ${source.table}${whereOf(source)}`;
  const places = shares.map((share) => `floor(${quoteDouble(share)} * count(*) + 0.5)::integer + 1`);
  return `SELECT stratum, ARRAY[${places.map((place) => `(array_agg(number ORDER BY number))[${place}]`).join(", ")}] AS parts FROM (${inner}) AS drawn GROUP BY 1`;
}

/** The first state: bins instead of values. */
export function stateSql(
  source: FrameSource,
  state: string,
  columns: StateColumns,
  start: TreeStart,
): string {
  const bins = [
    ...columns.numbers.map((name, index) => {
      const cuts = start.cuts[index]!;
      const bin =
        cuts.length === 0
          ? "1"
          : `1 + width_bucket(${quoteIdentifier(name)}, ARRAY[${[...cuts].map(quoteDouble).join(",")}])`;
      return `CASE WHEN ${quoteIdentifier(name)} IS NULL THEN 0 ELSE ${bin} END::smallint AS b${index}`;
    }),
    ...columns.categories.map(
      (name, index) => `${quoteIdentifier(name)}::integer AS b${columns.numbers.length + index}`,
    ),
  ];
  const held = start.held === undefined ? "" : `, ${heldSql(start.held)} AS held`;
  const scores = start.start.map((value, output) => `${quoteDouble(value)} AS s${output}`).join(", ");
  return `CREATE UNLOGGED TABLE ${state} AS SELECT ${TARGET} AS y, ${source.weight ?? "1::double precision"} AS wt, ${DRAW} AS draw${held}, ${bins.map((bin) => `${bin}`).join(", ")}, ${scores} FROM ${source.table}${whereOf(source)}`;
}

/** Number of the node that a row is in after the splits; -1 nowhere. */
export function nodeSql(splits: readonly AppliedSplit[]): string {
  const byNode = new Map(splits.map((split) => [split.node, split]));
  const visit = (node: number): string => {
    const split = byNode.get(node);
    if (!split) return String(node);
    return `CASE WHEN ${goesLeftSql(split)} THEN ${visit(split.left)} ELSE ${visit(split.right)} END`;
  };
  return visit(0);
}

function goesLeftSql(split: AppliedSplit): string {
  const bin = `b${split.column}`;
  if (split.lastBin !== undefined)
    return split.missingLeft ? `${bin} <= ${split.lastBin}` : `${bin} BETWEEN 1 AND ${split.lastBin}`;
  const codes = [...(split.missingLeft ? [0] : []), ...(split.codes ?? [])];
  return codes.length === 0 ? "false" : `${bin} IN (${codes.join(",")})`;
}

/** A value by node, as CASE. */
function byNode(node: string, nodes: readonly number[], values: readonly number[]): string {
  return `CASE ${node} ${nodes.map((node, index) => `WHEN ${node} THEN ${quoteDouble(values[index]!)}`).join(" ")} ELSE 0::double precision END`;
}

/** What a tree adds to the score of a row. */
export const additionSql = (
  splits: readonly AppliedSplit[],
  nodes: readonly number[],
  values: readonly number[],
): string => byNode(`(${nodeSql(splits)})`, nodes, values);

/** Gradients and curvatures of every output as whole numbers, from y and the scores. */
export function gradientsSql(
  loss: TreeLoss,
  outputs: number,
  scales: { readonly gradient: number; readonly curvature: number },
): string {
  const whole = (value: string, scale: number): string =>
    `floor((${value}) * wt * ${quoteDouble(scale)} + 0.5)`;
  const pair = (output: number, gradient: string, curvature: string): string =>
    `${whole(gradient, scales.gradient)} AS g${output}, ${whole(curvature, scales.curvature)} AS h${output}`;
  switch (loss) {
    case "squared":
      return pair(0, "s0 - y", "1");
    case "absolute":
      return pair(0, "sign(s0 - y)", "1");
    case "gini":
      return pair(0, "1", "1");
    case "logistic": {
      const p = `(1 / (1 + ${safeExp("-s0")}))`;
      return pair(0, `${p} - y`, `${p} * (1 - ${p})`);
    }
    case "softmax": {
      const most = `greatest(${Array.from({ length: outputs }, (_, index) => `s${index}`).join(", ")})`;
      const total = Array.from({ length: outputs }, (_, index) => safeExp(`s${index} - ${most}`)).join(" + ");
      return Array.from({ length: outputs }, (_, output) => {
        const p = `(${safeExp(`s${output} - ${most}`)} / (${total}))`;
        return pair(output, `${p} - CASE WHEN y = ${output} THEN 1 ELSE 0 END`, `2 * ${p} * (1 - ${p})`);
      }).join(", ");
    }
  }
}

/** Columns of the state that stay as they are. */
export function keptSql(columns: number, held: boolean): string {
  return [
    "y",
    "wt",
    "draw",
    ...(held ? ["held"] : []),
    ...Array.from({ length: columns }, (_, index) => `b${index}`),
  ].join(", ");
}

/** Sums by node and bin of one column. */
export function histogramSql(
  state: string,
  splits: readonly AppliedSplit[],
  column: number,
  nodes: readonly number[],
  output: number,
  often: string,
  gini: number,
): string {
  const inner = `SELECT ${nodeSql(splits)} AS node, b${column} AS bin, y, g${output} AS g, h${output} AS h, ${often} AS often FROM ${state}`;
  return `SELECT node, bin, ${sumsSql(gini)} FROM (${inner}) AS rows_at WHERE node IN (${nodes.join(",")}) GROUP BY 1, 2`;
}

function sumsSql(gini: number): string {
  const rows = "count(*) FILTER (WHERE often > 0)::double precision";
  if (gini === 0) return `sum(g * often) AS x0, sum(h * often) AS x1, ${rows} AS x2`;
  return `${Array.from({ length: gini }, (_, index) => `coalesce(sum(g * often) FILTER (WHERE y = ${index}), 0) AS x${index}`).join(", ")}, ${rows} AS x${gini}`;
}

/** Sums over all rows that take part. */
export const rootSql = (state: string, output: number, often: string, gini: number): string =>
  `SELECT ${sumsSql(gini)} FROM (SELECT y, g${output} AS g, h${output} AS h, ${often} AS often FROM ${state}) AS rows_at`;

/** The weighted median of y - s0 in each node. */
export function mediansSql(state: string, splits: readonly AppliedSplit[], often: string): string {
  const inner = `SELECT ${nodeSql(splits)} AS node, y - s0 AS rest, wt, ${often} AS often FROM ${state}`;
  return `SELECT node, min(rest) AS median FROM (SELECT node, rest, sum(wt) OVER (PARTITION BY node ORDER BY rest) AS before, sum(wt) OVER (PARTITION BY node) AS total FROM (${inner}) AS rows_at WHERE often > 0) AS ordered WHERE before >= total / 2 GROUP BY 1`;
}

/** Mean loss at the scores so far, by whether rows are held apart. */
export function lossesSql(state: string, loss: TreeLoss, outputs: number, held: boolean): string {
  const scores = Array.from({ length: outputs }, (_, index) => `s${index}`);
  const most = `greatest(${scores.join(", ")})`;
  const total = scores.map((score) => safeExp(`${score} - ${most}`)).join(" + ");
  const own = `CASE y ${scores.map((score, output) => `WHEN ${output} THEN ${score}`).join(" ")} END`;
  const one = {
    squared: "(y - s0) * (y - s0)",
    absolute: "abs(y - s0)",
    gini: "0::double precision",
    logistic: "greatest(s0, 0::double precision) + ln(1 + exp(-least(abs(s0), 700))) - y * s0",
    softmax: `ln(${total}) + ${most} - ${own}`,
  }[loss];
  return `SELECT ${held ? "held" : "false"} AS held, sum((${one}) * wt) / nullif(sum(wt), 0) AS loss FROM ${state} GROUP BY 1`;
}

/** Adds the votes of a tree for rows that its sample left out: v0, v1, ... and their number. */
export function votesSql(
  splits: readonly AppliedSplit[],
  nodes: readonly number[],
  values: readonly (readonly number[])[],
  outputs: number,
  often: string,
): string {
  const node = `(${nodeSql(splits)})`;
  const out = `(${often}) = 0`;
  const sums = Array.from(
    { length: outputs },
    (_, output) =>
      `v${output} + CASE WHEN ${out} THEN ${byNode(
        node,
        nodes,
        values.map((value) => value[output]!),
      )} ELSE 0 END AS v${output}`,
  );
  return `${sums.join(", ")}, voted + CASE WHEN ${out} THEN 1 ELSE 0 END AS voted`;
}

/** Mean loss of the mean vote. */
export function outOfBagSql(state: string, outputs: number, kind: "gini" | "binary" | "number"): string {
  const share = (output: number): string => `v${output} / voted`;
  const own = `CASE y ${Array.from({ length: outputs }, (_, output) => `WHEN ${output} THEN ${share(output)}`).join(" ")} END`;
  const likely = kind === "gini" ? own : `CASE WHEN y = 1 THEN ${share(0)} ELSE 1 - ${share(0)} END`;
  const one = kind === "number" ? `(y - ${share(0)}) * (y - ${share(0)})` : `-ln(greatest(${likely}, 1e-15))`;
  return `SELECT sum((${one}) * wt) / nullif(sum(wt), 0) AS loss, count(*)::double precision AS rows FROM ${state} WHERE voted > 0`;
}
