import { FENCE } from "../../sql/fence";
import { hidden } from "../../sql/hidden";
import { quoteIdentifier } from "../../sql/quote";
import type { Design } from "../linear/design";
import { predictorSql, printed, shifted } from "./predictor";
import { FEW_LEVELS } from "./slope-sql";
import {
  ANSWER,
  chunks,
  LOSS,
  MOST_RESULTS,
  safeExp,
  TARGET,
  TIMES,
  whereOf,
  type FrameSource,
} from "./source";

export interface ClassStatement {
  readonly sql: string;
  readonly places: readonly { readonly result: string; readonly output: number; readonly position: number }[];
  /** For grouped statements: the category whose codes the rows carry; s0, s1, ... are the sums by output. */
  readonly category?: number;
  readonly withLoss: boolean;
}

/** Names beside the user's features: the largest predictor of a row, the sum of exponentials, and by class predictor and residual. */
const [LARGEST, TOTAL] = [hidden("largest"), hidden("total")];
const predictorName = (output: number): string => hidden(`eta_${output}`);
const residualName = (output: number): string => hidden(`residual_${output}`);

/**
 * Rows with their multinomial loss and residuals (probability minus 1 in the row's own class), for every class but
 * the first, whose predictor is 0. Fenced twice: predictors once a row, then their largest and the sum of exponentials.
 */
function classResiduals(
  source: FrameSource,
  design: Design,
  coefficients: Float64Array,
  outputs: number,
): string {
  const size = design.terms.length;
  const kept = [...design.numbers, ...design.categories.map((category) => category.column)]
    .map((number) => `, ${quoteIdentifier(number)}`)
    .join("");
  const classes = Array.from({ length: outputs }, (_, index) => index + 1);
  const etas = classes.map(predictorName);
  const predictors = classes.map(
    (oneClass) =>
      `${predictorSql(design, coefficients.subarray((oneClass - 1) * size, oneClass * size), source.scaled)} AS ${predictorName(oneClass)}`,
  );
  const weight = source.weight === undefined ? "" : `, ${TIMES}`;
  const weighted = source.weight === undefined ? "" : `, ${source.weight} AS ${TIMES}`;
  const first = `SELECT ${TARGET}::integer AS ${ANSWER}, ${predictors.join(", ")}${weighted}${kept}, ${FENCE} FROM ${source.table}${whereOf(source)}`;
  const second = `SELECT *, greatest(0::double precision, ${etas.join(", ")}) AS ${LARGEST} FROM (${first}) AS predicted`;
  const third = `SELECT ${ANSWER}, ${LARGEST}${weight}, ${safeExp(`-${LARGEST}`)} + ${etas.map((eta) => safeExp(`${eta} - ${LARGEST}`)).join(" + ")} AS ${TOTAL}, ${etas.join(", ")}${kept}, ${FENCE} FROM (${second}) AS largest`;
  const times = (value: string): string => (source.weight === undefined ? value : `(${value}) * ${TIMES}`);
  const own = `CASE ${ANSWER} ${classes.map((oneClass) => `WHEN ${oneClass} THEN ${predictorName(oneClass)}`).join(" ")} ELSE 0 END`;
  const residuals = classes.map(
    (oneClass) =>
      `${times(`${safeExp(`${predictorName(oneClass)} - ${LARGEST}`)} / ${TOTAL} - CASE WHEN ${ANSWER} = ${oneClass} THEN 1 ELSE 0 END`)} AS ${residualName(oneClass)}`,
  );
  return `(SELECT ${times(`${LARGEST} + ln(${TOTAL}) - ${own}`)} AS ${LOSS}${weight}, ${residuals.join(", ")}${kept}, ${FENCE} FROM (${third}) AS totals) AS rows_at`;
}

/** Loss and gradient of the multinomial log loss over the source's rows. `outputs` is the number of classes less one. */
export function classSlopeSql(
  source: FrameSource,
  design: Design,
  coefficients: Float64Array,
  outputs: number,
): readonly ClassStatement[] {
  const rows = classResiduals(source, design, coefficients, outputs);
  const sums: { sql: string; output: number; position: number }[] = [];
  for (let output = 0; output < outputs; output += 1) {
    const r = residualName(output + 1);
    sums.push({ sql: `sum(${r})`, output, position: 0 });
    design.numbers.forEach((_, index) =>
      sums.push({
        sql: `sum(${r} * (${printed(shifted(design, index + 1, source.scaled))}))`,
        output,
        position: index + 1,
      }),
    );
    for (const category of design.categories) {
      if (category.levels.length > FEW_LEVELS) continue;
      category.positions.forEach((position, code) => {
        if (position >= 0)
          sums.push({
            sql: `sum(${r}) FILTER (WHERE ${quoteIdentifier(category.column)} = ${code})`,
            output,
            position,
          });
      });
    }
  }
  const statements = chunks(sums, MOST_RESULTS - 2).map((part, index): ClassStatement => ({
    sql: `SELECT ${source.weight === undefined ? "count(*)::double precision" : `sum(${TIMES})`} AS rows, sum(${LOSS}) AS loss, ${part.map((item, place) => `${item.sql} AS s${place}`).join(", ")} FROM ${rows}`,
    places: part.map((item, place) => ({
      result: `s${place}`,
      output: item.output,
      position: item.position,
    })),
    withLoss: index === 0,
  }));
  const grouped = design.categories.flatMap((category, index): ClassStatement[] =>
    category.levels.length <= FEW_LEVELS
      ? []
      : [
          {
            sql: `SELECT ${quoteIdentifier(category.column)} AS code, ${Array.from({ length: outputs }, (_, output) => `sum(${residualName(output + 1)}) AS s${output}`).join(", ")} FROM ${rows} GROUP BY 1`,
            places: [],
            category: index,
            withLoss: false,
          },
        ],
  );
  return [...statements, ...grouped];
}
