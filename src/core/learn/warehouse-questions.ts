import { column, double, sumOf, binary, type Expression } from "../expression/ast";
import { printExpression } from "../expression/print";
import { TARGET_COLUMN } from "../plan/frame";
import { TRAINING_PART } from "../plan/split";
import { FENCE } from "../sql/fence";
import { quoteDouble, quoteIdentifier } from "../sql/quote";
import { DRAW_COLUMN, PART_COLUMN } from "../steps/step";
import type { Design } from "./design";

/**
 * The learner's questions as SQL over a training frame. Each statement yields sums over rows and nothing else.
 * `frame` is an already quoted table name; columns are quoted here.
 */

const TARGET = quoteIdentifier(TARGET_COLUMN);
const TRAINING = `${quoteIdentifier(PART_COLUMN)} = ${TRAINING_PART}`;
/** PostgreSQL allows 1,664 result columns; stay below. */
const MOST_RESULTS = 1600;
/** Levels of a category up to which their gradients are taken as filtered sums beside the others, in one pass. */
const FEW_LEVELS = 32;
/** Centre a column in SQL only where its mean would cost digits. */
const FAR_FROM_ZERO = 100;

export function chunks<T>(items: readonly T[], size: number): readonly (readonly T[])[] {
  return Array.from({ length: Math.ceil(items.length / size) }, (_, index) => items.slice(index * size, (index + 1) * size));
}

/**
 * Rows, positives and unanswered rows; and per number column the values present, their mean and population deviation
 * (n, m, d followed by the position). One statement, or more when there are many columns; the counts come with the first.
 */
export function summarySql(frame: string, columns: readonly string[]): readonly string[] {
  const counts = `count(*)::double precision AS rows, count(*) FILTER (WHERE ${TARGET} = 1)::double precision AS positives, count(*) FILTER (WHERE ${TARGET} IS NULL)::double precision AS unanswered`;
  const moments = columns.map((each, index) => {
    const name = quoteIdentifier(each);
    return `count(${name})::double precision AS n${index}, avg(${name}) AS m${index}, stddev_pop(${name}) AS d${index}`;
  });
  const parts = moments.length === 0 ? [[]] : chunks(moments, Math.floor(MOST_RESULTS / 3) - 1);
  return parts.map((part, index) => `SELECT ${[...(index === 0 ? [counts] : []), ...part].join(", ")} FROM ${frame} WHERE ${TRAINING}`);
}

/** Per code of a category: rows and positives. */
export function levelsSql(frame: string, name: string): string {
  return `SELECT ${quoteIdentifier(name)} AS code, count(*)::double precision AS rows, count(*) FILTER (WHERE ${TARGET} = 1)::double precision AS positives FROM ${frame} WHERE ${TRAINING} GROUP BY 1`;
}

/** Copies the fixed sample into a table of its own, with numbers already on the solver's scale. */
export function sampleSql(frame: string, sample: string, design: Design, share: number): string {
  const numbers = design.numbers.map((name, index) => `(${quoteIdentifier(name)} - ${quoteDouble(design.centres[index + 1]!)}) / ${quoteDouble(design.spreads[index + 1]!)} AS ${quoteIdentifier(name)}`);
  const items = [TARGET, ...numbers, ...design.categories.map((each) => quoteIdentifier(each.column))];
  const drawn = share >= 1 ? "" : ` AND ${quoteIdentifier(DRAW_COLUMN)} < ${quoteDouble(share)}`;
  return `CREATE UNLOGGED TABLE ${sample} AS SELECT ${items.join(", ")} FROM ${frame} WHERE ${TRAINING}${drawn}`;
}

const context = { runTime: "1970-01-01T00:00:00Z" };

/** What is subtracted from a column inside the statement: nothing, unless its mean is far from zero. */
function offsetOf(design: Design, index: number): number {
  const centre = design.centres[index]!;
  return Math.abs(centre) > FAR_FROM_ZERO * design.spreads[index]! ? centre : 0;
}

function shifted(design: Design, index: number, name: string): Expression {
  const offset = offsetOf(design, index);
  return offset === 0 ? column(name) : binary(column(name), "-", double(offset));
}

/** Linear predictor at coefficients on the solver's scale, over the frame's raw columns or the sample's scaled ones. */
function predictor(design: Design, coefficients: Float64Array, scaled: boolean): string {
  let intercept = coefficients[0]!;
  const terms = design.numbers.map((name, each) => {
    const index = each + 1;
    if (scaled) return binary(double(coefficients[index]!), "*", column(name));
    const slope = coefficients[index]! / design.spreads[index]!;
    intercept -= slope * (design.centres[index]! - offsetOf(design, index));
    return binary(double(slope), "*", shifted(design, index, name));
  });
  const numbers = printExpression(sumOf([double(intercept), ...terms]), context);
  const levels = design.categories.map((category) => {
    const values = category.positions.slice(1).map((position) => (position < 0 ? "0" : String(coefficients[position]! / design.spreads[position]!)));
    return `(ARRAY[${values.join(",")}]::double precision[])[${quoteIdentifier(category.column)}]`;
  });
  return [numbers, ...levels].join(" + ");
}

/**
 * Rows with their residual p - y, loss and weight p (1 - p). Fenced, so that the predictor is computed once a row, and
 * the residual once for all sums; written with tanh and exp(-|eta|), which can neither overflow nor underflow.
 */
function residuals(source: string, where: string, columns: readonly string[], eta: string, weights: boolean): string {
  const kept = columns.map((each) => `, ${each}`).join("");
  const first = `SELECT ${TARGET} AS y, ${eta} AS eta${kept}, ${FENCE} FROM ${source}${where}`;
  const e = "exp(-least(abs(eta), 700::double precision))";
  const residual = "0.5::double precision * tanh(0.5::double precision * eta) + 0.5::double precision - y AS r";
  const loss = `greatest(eta, 0::double precision) + ln(1 + ${e}) - y * eta AS loss`;
  return `(SELECT ${residual}, ${loss}${weights ? `, ${e} / ((1 + ${e}) * (1 + ${e})) AS w` : ""}${kept}, ${FENCE} FROM (${first}) AS predicted) AS rows_at`;
}

export interface SlopeStatement {
  readonly sql: string;
  /** Puts an answer row's numbers into the gradient (raw scale, offsets applied). */
  readonly places: readonly { readonly result: string; readonly position: number }[];
  /** For grouped statements: the category whose codes the rows carry. */
  readonly category?: number;
  readonly withLoss: boolean;
}

/** A table of rows to ask about: the sample with its numbers on the solver's scale, or the frame with its own. */
export interface AskedTable {
  readonly table: string;
  readonly scaled: boolean;
}

/** Loss and gradient over all training rows: one statement, and one more for each category of many levels. */
export function slopeSql(asked: AskedTable, design: Design, coefficients: Float64Array): readonly SlopeStatement[] {
  const eta = predictor(design, coefficients, asked.scaled);
  const names = design.numbers.map(quoteIdentifier);
  const valueOf = (name: string, index: number): Expression => (asked.scaled ? column(name) : shifted(design, index, name));
  const sums: { sql: string; position: number }[] = design.numbers.map((name, each) => ({ sql: `sum(r * (${printExpression(valueOf(name, each + 1), context)}))`, position: each + 1 }));
  for (const category of design.categories) {
    if (category.levels.length > FEW_LEVELS) continue;
    category.positions.forEach((position, code) => {
      if (position >= 0) sums.push({ sql: `sum(r) FILTER (WHERE ${quoteIdentifier(category.column)} = ${code})`, position });
    });
  }
  const categories = design.categories.map((each) => quoteIdentifier(each.column));
  const source = residuals(asked.table, asked.scaled ? "" : ` WHERE ${TRAINING}`, [...names, ...categories], eta, false);
  const statements = chunks(sums, MOST_RESULTS - 3).map((part, index): SlopeStatement => ({
    sql: `SELECT count(*)::double precision AS rows, sum(loss) AS loss, sum(r) AS g0${part.map((each, place) => `, ${each.sql} AS s${place}`).join("")} FROM ${source}`,
    places: part.map((each, place) => ({ result: `s${place}`, position: each.position })),
    withLoss: index === 0,
  }));
  const bare: SlopeStatement = { sql: `SELECT count(*)::double precision AS rows, sum(loss) AS loss, sum(r) AS g0 FROM ${source}`, places: [], withLoss: true };
  const grouped = design.categories.flatMap((category, index): SlopeStatement[] =>
    category.levels.length <= FEW_LEVELS ? [] : [{ sql: `SELECT ${quoteIdentifier(category.column)} AS code, sum(r) AS s0 FROM ${source} GROUP BY 1`, places: [], category: index, withLoss: false }]);
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
export function curvatureSql(source: AskedTable, design: Design, coefficients: Float64Array): readonly CrossStatement[] {
  const eta = predictor(design, coefficients, source.scaled);
  const names = design.numbers.map(quoteIdentifier);
  const categories = design.categories.map((each) => quoteIdentifier(each.column));
  const where = source.scaled ? "" : ` WHERE ${TRAINING}`;
  const rows = residuals(source.table, where, [...names, ...categories], eta, true);
  // Over the frame the change of scale happens inside the statement, so that products of far-off means keep their digits.
  const scaled = design.numbers.map((_, each) => (source.scaled ? names[each]! : `((${names[each]!} - ${quoteDouble(design.centres[each + 1]!)}) / ${quoteDouble(design.spreads[each + 1]!)})`));
  const inner = source.scaled ? rows : `(SELECT r, loss, w${scaled.map((each, index) => `, ${each} AS ${names[index]!}`).join("")}${categories.map((each) => `, ${each}`).join("")}, ${FENCE} FROM ${rows}) AS scaled_rows`;
  const pairs: (readonly [number, number])[] = [];
  for (let i = 1; i <= names.length; i += 1) for (let j = 1; j <= i; j += 1) pairs.push([i, j]);
  const slope = `count(*)::double precision AS rows, sum(loss) AS loss, sum(r) AS g0, sum(w) AS w0${names.map((name, each) => `, sum(r * ${name}) AS g${each + 1}, sum(w * ${name}) AS w${each + 1}`).join("")}`;
  // A few columns need one statement for everything, many a statement of their own for the slope.
  const together = pairs.length + 2 * names.length + 4 <= MOST_RESULTS;
  const products = chunks(pairs, MOST_RESULTS).map((part): CrossStatement => ({
    sql: `SELECT ${together ? `${slope}, ` : ""}${part.map(([i, j], place) => `sum(w * ${names[i - 1]!} * ${names[j - 1]!}) AS h${place}`).join(", ")} FROM ${inner}`,
    kind: "numbers", pairs: part, categories: [], withSlope: together,
  }));
  const byLevel = categories.map((name, index): CrossStatement => ({
    sql: `SELECT ${name} AS code, sum(r) AS r, sum(w) AS w${names.map((each, place) => `, sum(w * ${each}) AS w${place + 1}`).join("")} FROM ${inner} GROUP BY 1`,
    kind: "level", pairs: [], categories: [index], withSlope: false,
  }));
  const byLevels = categories.flatMap((left, i) => categories.slice(0, i).map((right, j): CrossStatement => ({
    sql: `SELECT ${left} AS code, ${right} AS other, sum(w) AS w FROM ${inner} GROUP BY 1, 2`,
    kind: "levels", pairs: [], categories: [i, j], withSlope: false,
  })));
  const alone: CrossStatement = { sql: `SELECT ${slope} FROM ${inner}`, kind: "numbers", pairs: [], categories: [], withSlope: true };
  return [...(together && products.length > 0 ? [] : [alone]), ...products, ...byLevel, ...byLevels];
}
