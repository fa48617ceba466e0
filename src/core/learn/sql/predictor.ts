import { binary, call, column, double, sumOf, type Expression } from "../../expression/ast";
import { printExpression } from "../../expression/print";
import { FENCE } from "../../sql/fence";
import { quoteDouble, quoteIdentifier } from "../../sql/quote";
import { DRAW_COLUMN } from "../../steps/step";
import { WEIGHT_COLUMN } from "../../plan/frame-columns";
import type { Design } from "../linear/design";
import type { LinearLoss } from "../questions";
import {
  ANSWER,
  CURVATURE,
  LOSS,
  PREDICTOR,
  RESIDUAL,
  TARGET,
  TIMES,
  whereOf,
  type FrameSource,
} from "./source";

const context = { runTime: "1970-01-01T00:00:00Z" };
/** Centre a column in SQL only where its mean would cost digits. */
const FAR_FROM_ZERO = 100;

export const printed = (expression: Expression): string => printExpression(expression, context);

/** A number column of the frame, with what stands in for a missing value. */
function filled(design: Design, index: number, scaled: boolean): Expression {
  const name = column(design.numbers[index - 1]!);
  const fill = design.fills[index - 1];
  return scaled || fill === undefined ? name : call("coalesce", name, double(fill));
}

/** Copies the fixed sample into a table of its own, with numbers already on the solver's scale. */
export function sampleSql(source: FrameSource, sample: string, design: Design, share: number): string {
  const numbers = design.numbers.map(
    (name, index) =>
      `(${printed(filled(design, index + 1, false))} - ${quoteDouble(design.centres[index + 1]!)}) / ${quoteDouble(design.spreads[index + 1]!)} AS ${quoteIdentifier(name)}`,
  );
  const items = [
    TARGET,
    ...(source.weight === undefined ? [] : [`${source.weight} AS ${quoteIdentifier(WEIGHT_COLUMN)}`]),
    ...numbers,
    ...design.categories.map((category) => quoteIdentifier(category.column)),
  ];
  const drawn =
    share >= 1
      ? ""
      : `${source.where === "" ? " WHERE" : " AND"} ${quoteIdentifier(DRAW_COLUMN)} < ${quoteDouble(share)}`;
  return `CREATE UNLOGGED TABLE ${sample} AS SELECT ${items.join(", ")} FROM ${source.table}${whereOf(source)}${drawn}`;
}

/** What is subtracted from a column inside the statement: nothing, unless its mean is far from zero. */
export function offsetOf(design: Design, index: number): number {
  const centre = design.centres[index]!;
  return Math.abs(centre) > FAR_FROM_ZERO * design.spreads[index]! ? centre : 0;
}

/** A number column as the sums read it: filled, and shifted towards zero when it lies far off. */
export function shifted(design: Design, index: number, scaled: boolean): Expression {
  const offset = scaled ? 0 : offsetOf(design, index);
  const value = filled(design, index, scaled);
  return offset === 0 ? value : binary(value, "-", double(offset));
}

/** Linear predictor at coefficients on the solver's scale, over the frame's raw columns or the sample's scaled ones. */
export function predictorSql(design: Design, coefficients: Float64Array, scaled: boolean): string {
  let intercept = coefficients[0]!;
  const terms = design.numbers.map((_, position) => {
    const index = position + 1;
    if (scaled) return binary(double(coefficients[index]!), "*", filled(design, index, true));
    const slope = coefficients[index]! / design.spreads[index]!;
    intercept -= slope * (design.centres[index]! - offsetOf(design, index));
    return binary(double(slope), "*", shifted(design, index, false));
  });
  const numbers = printed(sumOf([double(intercept), ...terms]));
  const levels = design.categories.map((category) => {
    const values = category.positions
      .slice(1)
      .map((position) => (position < 0 ? "0" : String(coefficients[position]! / design.spreads[position]!)));
    return `coalesce((ARRAY[${values.join(",")}]::double precision[])[${quoteIdentifier(category.column)}], 0)`;
  });
  return [numbers, ...levels].join(" + ");
}

/** Residual (the loss's slope in eta), loss and curvature in eta, as SQL over y and eta. */
function lossSql(
  loss: LinearLoss,
  design: Design,
): { readonly first: string; readonly residual: string; readonly loss: string; readonly curvature: string } {
  // Written with tanh and exp(-|eta|), which can neither overflow nor underflow.
  const [y, eta] = [ANSWER, PREDICTOR];
  const e = `exp(-least(abs(${eta}), 700::double precision))`;
  switch (loss) {
    case "logistic":
      return {
        first: TARGET,
        residual: `0.5::double precision * tanh(0.5::double precision * ${eta}) + 0.5::double precision - ${y}`,
        loss: `greatest(${eta}, 0::double precision) + ln(1 + ${e}) - ${y} * ${eta}`,
        curvature: `${e} / ((1 + ${e}) * (1 + ${e}))`,
      };
    case "squared": {
      const { centre, spread } = design.target;
      return {
        first:
          centre === 0 && spread === 1
            ? TARGET
            : `(${TARGET} - ${quoteDouble(centre)}) / ${quoteDouble(spread)}`,
        residual: `${eta} - ${y}`,
        loss: `0.5::double precision * (${eta} - ${y}) * (${eta} - ${y})`,
        curvature: "1::double precision",
      };
    }
    case "squared_hinge": {
      const short = `greatest(0::double precision, 1 - ${y} * ${eta})`;
      return {
        first: `2 * ${TARGET} - 1`,
        residual: `-${y} * ${short}`,
        loss: `0.5::double precision * ${short} * ${short}`,
        curvature: `CASE WHEN ${y} * ${eta} < 1 THEN 1 ELSE 0 END::double precision`,
      };
    }
  }
}

/**
 * Rows with their residual, loss and, on request, curvature, each times the row's weight, and the weight itself. Fenced, so that
 * the predictor is computed once a row, and the residual once for all sums.
 */
export function residualsSql(
  source: FrameSource,
  design: Design,
  coefficients: Float64Array,
  loss: LinearLoss,
  curved: boolean,
): string {
  const names = [...design.numbers, ...design.categories.map((category) => category.column)].map(
    quoteIdentifier,
  );
  const kept = names.map((name) => `, ${name}`).join("");
  const { weight } = source;
  const sql = lossSql(loss, design);
  const first = `SELECT ${sql.first} AS ${ANSWER}, ${predictorSql(design, coefficients, source.scaled)} AS ${PREDICTOR}${weight === undefined ? "" : `, ${weight} AS ${TIMES}`}${kept}, ${FENCE} FROM ${source.table}${whereOf(source)}`;
  const times = (value: string): string => (weight === undefined ? value : `(${value}) * ${TIMES}`);
  return `(SELECT ${times(sql.residual)} AS ${RESIDUAL}, ${times(sql.loss)} AS ${LOSS}${weight === undefined ? "" : `, ${TIMES}`}${curved ? `, ${times(sql.curvature)} AS ${CURVATURE}` : ""}${kept}, ${FENCE} FROM (${first}) AS predicted) AS rows_at`;
}

/** Rows by their margin, rounded to 1/1000 and kept within ±30, with the weight of each answer. */
export function marginsSql(source: FrameSource, design: Design, coefficients: Float64Array): string {
  const weight = source.weight ?? "1::double precision";
  const inner = `SELECT round(greatest(-30::double precision, least(30::double precision, ${predictorSql(design, coefficients, source.scaled)})) * 1000) / 1000 AS margin, ${TARGET} AS y, ${weight} AS wt FROM ${source.table}${whereOf(source)}`;
  return `SELECT margin, coalesce(sum(wt) FILTER (WHERE y = 1), 0) AS positives, coalesce(sum(wt) FILTER (WHERE y = 0), 0) AS negatives FROM (${inner}) AS margins GROUP BY 1 ORDER BY 1`;
}
