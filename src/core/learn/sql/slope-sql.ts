import { FENCE } from "../../sql/fence";
import { quoteDouble, quoteIdentifier } from "../../sql/quote";
import type { Design } from "../linear/design";
import type { LinearLoss } from "../questions";
import { offsetOf, printed, residualsSql, shifted } from "./predictor";
import { chunks, CURVATURE, LOSS, MOST_RESULTS, RESIDUAL, TIMES, type FrameSource } from "./source";

/** Levels of a category up to which their gradients are taken as filtered sums beside the others, in one pass. */
export const FEW_LEVELS = 32;

export interface SlopeStatement {
  readonly sql: string;
  /** Puts an answer row's numbers into the gradient (raw scale, offsets applied). */
  readonly places: readonly { readonly result: string; readonly position: number }[];
  /** For grouped statements: the category whose codes the rows carry. */
  readonly category?: number;
  readonly withLoss: boolean;
}

const rowsSql = (source: FrameSource): string =>
  source.weight === undefined ? "count(*)::double precision" : `sum(${TIMES})`;

/** Loss and gradient over the source's rows: one statement, and one more for each category of many levels. */
export function slopeSql(
  source: FrameSource,
  design: Design,
  coefficients: Float64Array,
  loss: LinearLoss,
): readonly SlopeStatement[] {
  const sums: { sql: string; position: number }[] = design.numbers.map((_, index) => ({
    sql: `sum(${RESIDUAL} * (${printed(shifted(design, index + 1, source.scaled))}))`,
    position: index + 1,
  }));
  for (const category of design.categories) {
    if (category.levels.length > FEW_LEVELS) continue;
    category.positions.forEach((position, code) => {
      if (position >= 0)
        sums.push({
          sql: `sum(${RESIDUAL}) FILTER (WHERE ${quoteIdentifier(category.column)} = ${code})`,
          position,
        });
    });
  }
  const rows = residualsSql(source, design, coefficients, loss, false);
  const head = `SELECT ${rowsSql(source)} AS rows, sum(${LOSS}) AS loss, sum(${RESIDUAL}) AS g0`;
  const statements = chunks(sums, MOST_RESULTS - 3).map((part, index): SlopeStatement => ({
    sql: `${head}${part.map((item, place) => `, ${item.sql} AS s${place}`).join("")} FROM ${rows}`,
    places: part.map((item, place) => ({ result: `s${place}`, position: item.position })),
    withLoss: index === 0,
  }));
  const bare: SlopeStatement = { sql: `${head} FROM ${rows}`, places: [], withLoss: true };
  const grouped = design.categories.flatMap((category, index): SlopeStatement[] =>
    category.levels.length <= FEW_LEVELS
      ? []
      : [
          {
            sql: `SELECT ${quoteIdentifier(category.column)} AS code, sum(${RESIDUAL}) AS s0 FROM ${rows} GROUP BY 1`,
            places: [],
            category: index,
            withLoss: false,
          },
        ],
  );
  return [...(statements.length > 0 ? statements : [bare]), ...grouped];
}

/** Turns the sums that {@link slopeSql} asks for into the gradient on the solver's scale. */
export function scaleGradient(design: Design, scaled: boolean, raw: Float64Array): Float64Array {
  return raw.map((value, index) => {
    if (index === 0 || (scaled && design.terms[index]!.kind === "number")) return value;
    return (value - (design.centres[index]! - offsetOf(design, index)) * raw[0]!) / design.spreads[index]!;
  });
}

export interface CrossStatement {
  readonly sql: string;
  readonly kind: "numbers" | "level" | "levels";
  /** For "numbers": which element of the Hessian each result is. */
  readonly pairs: readonly (readonly [number, number])[];
  readonly categories: readonly number[];
  readonly withSlope: boolean;
}

/**
 * Loss, gradient and all second derivatives, over the scaled sample or over the frame: cross products of numbers,
 * sums by code for categories, and counts of code pairs for two categories. Never a column per level.
 */
export function curvatureSql(
  source: FrameSource,
  design: Design,
  coefficients: Float64Array,
  loss: LinearLoss,
): readonly CrossStatement[] {
  const names = design.numbers.map(quoteIdentifier);
  const categories = design.categories.map((category) => quoteIdentifier(category.column));
  const rows = residualsSql(source, design, coefficients, loss, true);
  // Over the frame the change of scale happens inside the statement, so that products of far-off means keep their digits.
  const value = (value: number): string => {
    const fill = design.fills[value];
    return fill === undefined ? names[value]! : `coalesce(${names[value]!}, ${quoteDouble(fill)})`;
  };
  const scaled = names.map((name, index) =>
    source.scaled
      ? name
      : `((${value(index)} - ${quoteDouble(design.centres[index + 1]!)}) / ${quoteDouble(design.spreads[index + 1]!)})`,
  );
  const weight = source.weight === undefined ? "" : `, ${TIMES}`;
  const inner = source.scaled
    ? rows
    : `(SELECT ${RESIDUAL}, ${LOSS}, ${CURVATURE}${weight}${scaled.map((text, index) => `, ${text} AS ${names[index]!}`).join("")}${categories.map((category) => `, ${category}`).join("")}, ${FENCE} FROM ${rows}) AS scaled_rows`;
  const pairs: (readonly [number, number])[] = [];
  for (let i = 1; i <= names.length; i += 1) for (let j = 1; j <= i; j += 1) pairs.push([i, j]);
  const slope = `${rowsSql(source)} AS rows, sum(${LOSS}) AS loss, sum(${RESIDUAL}) AS g0, sum(${CURVATURE}) AS w0${names.map((name, index) => `, sum(${RESIDUAL} * ${name}) AS g${index + 1}, sum(${CURVATURE} * ${name}) AS w${index + 1}`).join("")}`;
  // A few columns need one statement for everything, many a statement of their own for the slope.
  const together = pairs.length + 2 * names.length + 4 <= MOST_RESULTS;
  const products = chunks(pairs, MOST_RESULTS).map((part): CrossStatement => ({
    sql: `SELECT ${together ? `${slope}, ` : ""}${part.map(([i, j], place) => `sum(${CURVATURE} * ${names[i - 1]!} * ${names[j - 1]!}) AS h${place}`).join(", ")} FROM ${inner}`,
    kind: "numbers",
    pairs: part,
    categories: [],
    withSlope: together,
  }));
  const byLevel = categories.map((name, index): CrossStatement => ({
    sql: `SELECT ${name} AS code, sum(${RESIDUAL}) AS r, sum(${CURVATURE}) AS w${names.map((name, place) => `, sum(${CURVATURE} * ${name}) AS w${place + 1}`).join("")} FROM ${inner} GROUP BY 1`,
    kind: "level",
    pairs: [],
    categories: [index],
    withSlope: false,
  }));
  const byLevels = categories.flatMap((left, i) =>
    categories.slice(0, i).map((right, j): CrossStatement => ({
      sql: `SELECT ${left} AS code, ${right} AS other, sum(${CURVATURE}) AS w FROM ${inner} GROUP BY 1, 2`,
      kind: "levels",
      pairs: [],
      categories: [i, j],
      withSlope: false,
    })),
  );
  const alone: CrossStatement = {
    sql: `SELECT ${slope} FROM ${inner}`,
    kind: "numbers",
    pairs: [],
    categories: [],
    withSlope: true,
  };
  return [...(together && products.length > 0 ? [] : [alone]), ...products, ...byLevel, ...byLevels];
}
