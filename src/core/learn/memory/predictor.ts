import type { Design } from "../linear/design";
import type { LinearLoss } from "../questions";
import type { ColumnData } from "./column-data";

/** Rows taken at a time: their values stay in the processor's cache, and sums of blocks add up with little rounding. */
export const BLOCK = 4096;

/** The columns of a design, ready to be read block by block. */
export interface DesignColumns {
  readonly numbers: readonly Float64Array[];
  readonly categories: readonly Int32Array[];
}

export function columnsFor(data: ColumnData, design: Design): DesignColumns {
  const number = (name: string): Float64Array =>
    data.numbers.find((number) => number.column === name)!.values;
  const category = (name: string): Int32Array =>
    data.categories.find((category) => category.column === name)!.codes;
  return {
    numbers: design.numbers.map(number),
    categories: design.categories.map((oneCategory) => category(oneCategory.column)),
  };
}

/** Lets others have their turn during a long computation, or stops it by throwing. */
export type Breathe = () => Promise<void>;

/** Calls `work` for all blocks of rows, one after the other, and breathes between them. @param block rows of a block */
export async function overBlocks(
  rows: number,
  breathe: Breathe,
  work: (from: number, to: number) => void,
  block = BLOCK,
): Promise<void> {
  for (let from = 0; from < rows; from += block) {
    if (from > 0) await breathe();
    work(from, Math.min(rows, from + block));
  }
}

/** Standardised values of number column `each` for a block of rows. */
export function scaledBlock(
  design: Design,
  columns: DesignColumns,
  amount: number,
  from: number,
  to: number,
  into: Float64Array,
): void {
  const values = columns.numbers[amount]!;
  const centre = design.centres[amount + 1]!;
  const inverse = 1 / design.spreads[amount + 1]!;
  const fill = design.fills[amount];
  for (let row = from; row < to; row += 1) {
    const value = values[row]!;
    into[row - from] = ((fill !== undefined && Number.isNaN(value) ? fill : value) - centre) * inverse;
  }
}

/** Linear predictor for a block of rows, at coefficients on the solver's scale. */
export function predictBlock(
  design: Design,
  columns: DesignColumns,
  coefficients: ArrayLike<number>,
  from: number,
  to: number,
  into: Float64Array,
): void {
  into.fill(coefficients[0]!, 0, to - from);
  columns.numbers.forEach((values, index) => {
    const slope = coefficients[index + 1]! / design.spreads[index + 1]!;
    const centre = design.centres[index + 1]!;
    const fill = design.fills[index];
    if (fill === undefined)
      for (let row = from; row < to; row += 1) into[row - from]! += slope * (values[row]! - centre);
    else {
      for (let row = from; row < to; row += 1) {
        const value = values[row]!;
        into[row - from]! += slope * ((Number.isNaN(value) ? fill : value) - centre);
      }
    }
  });
  columns.categories.forEach((codes, index) => {
    const effects = Float64Array.from(design.categories[index]!.positions, (position) =>
      position < 0 ? 0 : coefficients[position]! / design.spreads[position]!,
    );
    for (let row = from; row < to; row += 1) into[row - from]! += effects[codes[row]!] ?? 0;
  });
}

/** Replaces linear predictors by residuals; adds up the loss; fills curvatures when asked. All are times the row's weight. */
export function residualBlock(
  loss: LinearLoss,
  design: Design,
  data: ColumnData,
  from: number,
  to: number,
  eta: Float64Array,
  curvature: Float64Array | undefined,
): number {
  const { target, weight } = data;
  const { centre, spread } = design.target;
  let sum = 0;
  for (let row = from; row < to; row += 1) {
    const place = row - from;
    const at = eta[place]!;
    const times = weight === undefined ? 1 : weight[row]!;
    const y = target[row]!;
    let residual: number;
    let cost: number;
    let curved: number;
    if (loss === "logistic") {
      const e = Math.exp(-Math.min(Math.abs(at), 700));
      residual = 0.5 * Math.tanh(0.5 * at) + 0.5 - y;
      cost = Math.max(at, 0) + Math.log(1 + e) - y * at;
      curved = e / ((1 + e) * (1 + e));
    } else if (loss === "squared") {
      residual = at - (y - centre) / spread;
      cost = 0.5 * residual * residual;
      curved = 1;
    } else {
      const sign = 2 * y - 1;
      const short = Math.max(0, 1 - sign * at);
      residual = -sign * short;
      cost = 0.5 * short * short;
      curved = short > 0 ? 1 : 0;
    }
    eta[place] = residual * times;
    sum += cost * times;
    if (curvature) curvature[place] = curved * times;
  }
  return sum;
}

export const sum = (values: Float64Array, count: number): number => {
  let total = 0;
  for (let index = 0; index < count; index += 1) total += values[index]!;
  return total;
};
