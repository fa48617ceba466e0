import { zeros } from "../../numeric/cholesky";
import type { Design } from "../linear/design";
import type { Curvature, LinearLoss, MarginCount, Slope } from "../questions";
import type { ColumnData } from "./column-data";
import {
  BLOCK,
  columnsFor,
  overBlocks,
  predictBlock,
  residualBlock,
  scaledBlock,
  sum,
  type Breathe,
  type DesignColumns,
} from "./predictor";

export const totalWeight = (data: ColumnData): number =>
  data.weight === undefined ? data.rows : sum(data.weight, data.rows);

/** Adds the residuals of a block to the gradient, on the raw scale of the categories and the solver's of the numbers. */
function addGradient(
  design: Design,
  columns: DesignColumns,
  residuals: Float64Array,
  from: number,
  to: number,
  gradient: Float64Array,
): void {
  const count = to - from;
  const all = sum(residuals, count);
  gradient[0]! += all;
  columns.numbers.forEach((values, index) => {
    const centre = design.centres[index + 1]!;
    const fill = design.fills[index];
    let total = 0;
    if (fill === undefined)
      for (let place = 0; place < count; place += 1)
        total += residuals[place]! * (values[from + place]! - centre);
    else {
      for (let place = 0; place < count; place += 1) {
        const value = values[from + place]!;
        total += residuals[place]! * ((Number.isNaN(value) ? fill : value) - centre);
      }
    }
    gradient[index + 1]! += total / design.spreads[index + 1]!;
  });
  columns.categories.forEach((codes, index) => {
    const { positions } = design.categories[index]!;
    for (let place = 0; place < count; place += 1) {
      const position = positions[codes[from + place]!] ?? -1;
      if (position >= 0) gradient[position]! += residuals[place]! / design.spreads[position]!;
    }
  });
}

/** Rows in memory that sums are taken over, laid out as a design says. */
export interface DesignRows {
  readonly data: ColumnData;
  readonly design: Design;
  readonly breathe: Breathe;
}

/** Loss and gradient over rows in memory; the same sums as the SQL takes. */
export async function slopeOf(
  { data, design, breathe }: DesignRows,
  coefficients: Float64Array,
  loss: LinearLoss,
): Promise<Slope> {
  const columns = columnsFor(data, design);
  const gradient = new Float64Array(design.terms.length);
  const eta = new Float64Array(Math.min(BLOCK, data.rows));
  let total = 0;
  await overBlocks(data.rows, breathe, (from, to) => {
    predictBlock(design, columns, coefficients, from, to, eta);
    total += residualBlock(loss, design, data, from, to, eta, undefined);
    addGradient(design, columns, eta, from, to, gradient);
  });
  return { rows: totalWeight(data), loss: total, gradient };
}

/** Values of all columns that the processor's cache holds while every column is multiplied with every other. */
const CACHED = 1 << 16;
const LEAST_BLOCK = 64;

/** Loss, gradient and Hessian over rows in memory. */
export async function curvatureOf(
  { data, design, breathe }: DesignRows,
  coefficients: Float64Array,
  loss: LinearLoss,
): Promise<Curvature> {
  const columns = columnsFor(data, design);
  const size = design.terms.length;
  const hessian = zeros(size);
  const gradient = new Float64Array(size);
  const block = Math.min(data.rows, Math.max(LEAST_BLOCK, Math.min(BLOCK, Math.floor(CACHED / size))));
  const eta = new Float64Array(block);
  const weights = new Float64Array(eta.length);
  const weighted = new Float64Array(eta.length);
  const scaled = columns.numbers.map(() => new Float64Array(eta.length));
  let total = 0;
  await overBlocks(
    data.rows,
    breathe,
    (from, to) => {
      const count = to - from;
      predictBlock(design, columns, coefficients, from, to, eta);
      total += residualBlock(loss, design, data, from, to, eta, weights);
      addGradient(design, columns, eta, from, to, gradient);
      hessian[0]![0]! += sum(weights, count);
      scaled.forEach((values, column) => {
        scaledBlock(design, columns, column, from, to, values);
        for (let place = 0; place < count; place += 1) weighted[place] = weights[place]! * values[place]!;
        hessian[column + 1]![0]! += sum(weighted, count);
        addProducts({ weighted, count }, scaled, column, hessian[column + 1]!);
      });
      addLevels(design, columns, weights, scaled, from, to, hessian);
    },
    block,
  );
  for (let i = 0; i < size; i += 1) for (let j = 0; j < i; j += 1) hessian[j]![i] = hessian[i]![j]!;
  return { rows: totalWeight(data), loss: total, gradient, hessian };
}

/**
 * Adds the products of a weighted column with itself and every column before it. Four columns at a time: the weighted values are then
 * read once for all four.
 */
function addProducts(
  { weighted, count }: { readonly weighted: Float64Array; readonly count: number },
  scaled: readonly Float64Array[],
  last: number,
  into: Float64Array,
): void {
  let other = 0;
  for (; other + 3 <= last; other += 4) {
    const [a, b, c, d] = [scaled[other]!, scaled[other + 1]!, scaled[other + 2]!, scaled[other + 3]!];
    let [ofA, ofB, ofC, ofD] = [0, 0, 0, 0];
    for (let place = 0; place < count; place += 1) {
      const value = weighted[place]!;
      ofA += value * a[place]!;
      ofB += value * b[place]!;
      ofC += value * c[place]!;
      ofD += value * d[place]!;
    }
    into[other + 1]! += ofA;
    into[other + 2]! += ofB;
    into[other + 3]! += ofC;
    into[other + 4]! += ofD;
  }
  for (; other <= last; other += 1) {
    const right = scaled[other]!;
    let product = 0;
    for (let place = 0; place < count; place += 1) product += weighted[place]! * right[place]!;
    into[other + 1]! += product;
  }
}

/** Second derivatives that concern levels: on the diagonal, with the intercept, with numbers, and between two categories. */
function addLevels(
  design: Design,
  columns: DesignColumns,
  weights: Float64Array,
  scaled: readonly Float64Array[],
  from: number,
  to: number,
  hessian: Float64Array[],
): void {
  columns.categories.forEach((codes, index) => {
    const { positions } = design.categories[index]!;
    for (let row = from; row < to; row += 1) {
      const position = positions[codes[row]!] ?? -1;
      if (position < 0) continue;
      const place = row - from;
      const weight = weights[place]! / design.spreads[position]!;
      const line = hessian[position]!;
      line[position]! += weight / design.spreads[position]!;
      line[0]! += weight;
      for (let index = 0; index < scaled.length; index += 1)
        line[index + 1]! += weight * scaled[index]![place]!;
      for (let other = 0; other < index; other += 1) {
        const second = design.categories[other]!.positions[columns.categories[other]![row]!] ?? -1;
        if (second >= 0) line[second]! += weight / design.spreads[second]!;
      }
    }
  });
}

/** Loss and gradient of the multinomial log loss; the first class has predictor 0. */
export async function classSlopeOf(
  { data, design, breathe }: DesignRows,
  coefficients: Float64Array,
  outputs: number,
): Promise<Slope> {
  const columns = columnsFor(data, design);
  const size = design.terms.length;
  const gradient = new Float64Array(outputs * size);
  // Small frames need small blocks: fresh memory costs more than the sums.
  const etas = Array.from({ length: outputs }, () => new Float64Array(Math.min(BLOCK, data.rows)));
  const most = new Float64Array(Math.min(BLOCK, data.rows));
  const totals = new Float64Array(most.length);
  let loss = 0;
  await overBlocks(data.rows, breathe, (from, to) => {
    const count = to - from;
    most.fill(0, 0, count);
    // Class by class, not row by row: each class's numbers lie side by side.
    etas.forEach((eta, output) => {
      predictBlock(design, columns, coefficients.subarray(output * size, (output + 1) * size), from, to, eta);
      for (let place = 0; place < count; place += 1)
        if (eta[place]! > most[place]!) most[place] = eta[place]!;
    });
    for (let place = 0; place < count; place += 1) {
      const own = data.target[from + place]!;
      loss +=
        (data.weight === undefined ? 1 : data.weight[from + place]!) *
        (most[place]! - (own >= 1 ? etas[own - 1]![place]! : 0));
      totals[place] = Math.exp(-most[place]!);
    }
    for (const eta of etas) {
      for (let place = 0; place < count; place += 1) {
        eta[place] = Math.exp(eta[place]! - most[place]!);
        totals[place]! += eta[place]!;
      }
    }
    for (let place = 0; place < count; place += 1) {
      const times = data.weight === undefined ? 1 : data.weight[from + place]!;
      loss += times * Math.log(totals[place]!);
      // From here on what a probability is multiplied by.
      totals[place] = times / totals[place]!;
    }
    for (const eta of etas) for (let place = 0; place < count; place += 1) eta[place]! *= totals[place]!;
    for (let place = 0; place < count; place += 1) {
      const own = data.target[from + place]!;
      if (own >= 1) etas[own - 1]![place]! -= data.weight === undefined ? 1 : data.weight[from + place]!;
    }
    etas.forEach((residuals, output) =>
      addGradient(
        design,
        columns,
        residuals,
        from,
        to,
        gradient.subarray(output * size, (output + 1) * size),
      ),
    );
  });
  return { rows: totalWeight(data), loss, gradient };
}

/** Rows by their margin, rounded to 1/1000 and kept within ±30. */
export async function marginCountsOf(
  { data, design, breathe }: DesignRows,
  coefficients: Float64Array,
): Promise<readonly MarginCount[]> {
  const columns = columnsFor(data, design);
  const counts = new Map<number, { positives: number; negatives: number }>();
  const eta = new Float64Array(Math.min(BLOCK, data.rows));
  await overBlocks(data.rows, breathe, (from, to) => {
    predictBlock(design, columns, coefficients, from, to, eta);
    for (let row = from; row < to; row += 1) {
      const margin = Math.round(Math.max(-30, Math.min(30, eta[row - from]!)) * 1000) / 1000;
      const entry = counts.get(margin) ?? { positives: 0, negatives: 0 };
      const times = data.weight === undefined ? 1 : data.weight[row]!;
      if (data.target[row] === 1) entry.positives += times;
      else entry.negatives += times;
      counts.set(margin, entry);
    }
  });
  return [...counts].sort(([left], [right]) => left - right).map(([margin, entry]) => ({ margin, ...entry }));
}
