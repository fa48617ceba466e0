import type { ClassMoments, ClassTables, FrameSummary } from "../questions";
import { classCount, type Task } from "../task";
import type { ColumnData } from "./column-data";
import { totalWeight } from "./linear";
import type { Breathe } from "./predictor";

/** Mean and population deviation of the values present, in two passes. */
function moments(values: Float64Array): {
  readonly present: number;
  readonly mean: number;
  readonly deviation: number;
  readonly varies: boolean;
} {
  let present = 0;
  let total = 0;
  let [smallest, largest] = [Infinity, -Infinity];
  for (let row = 0; row < values.length; row += 1) {
    const value = values[row]!;
    if (value !== value) continue;
    present += 1;
    total += value;
    if (value < smallest) smallest = value;
    if (value > largest) largest = value;
  }
  const mean = total / present;
  let squares = 0;
  for (let row = 0; row < values.length; row += 1) {
    const value = values[row]!;
    if (value === value) squares += (value - mean) * (value - mean);
  }
  return {
    present,
    mean: present === 0 ? Number.NaN : mean,
    deviation: present === 0 ? Number.NaN : Math.sqrt(squares / present),
    varies: smallest < largest,
  };
}

/** Works through columns one after the other, breathing between them. */
async function inTurn<Column, Found>(
  columns: readonly Column[],
  breathe: Breathe,
  work: (column: Column) => Found,
): Promise<Found[]> {
  const found: Found[] = [];
  for (const column of columns) {
    found.push(work(column));
    await breathe();
  }
  return found;
}

/** What a learner asks first: counts, means and spreads. `ownWeight` are the file's weights, before any balancing. */
export async function summaryOf(
  data: ColumnData,
  task: Task,
  ownWeight: Float64Array | undefined,
  breathe: Breathe,
): Promise<FrameSummary> {
  const classes = Array.from({ length: classCount(task) }, () => ({ rows: 0, weight: 0 }));
  let unanswered = 0;
  let smallest = Infinity;
  let largest = -Infinity;
  let weighted = 0;
  for (let row = 0; row < data.rows; row += 1) {
    const value = data.target[row]!;
    const weight = data.weight === undefined ? 1 : data.weight[row]!;
    if (Number.isNaN(value)) {
      unanswered += 1;
      continue;
    }
    weighted += weight * value;
    if (value < smallest) smallest = value;
    if (value > largest) largest = value;
    const entry = classes[value];
    if (entry) {
      entry.rows += 1;
      entry.weight += weight;
    }
  }
  const weight = totalWeight(data);
  const mean = weighted / weight;
  let squares = 0;
  for (let row = 0; row < data.rows; row += 1) {
    const value = data.target[row]!;
    if (!Number.isNaN(value))
      squares += (data.weight === undefined ? 1 : data.weight[row]!) * (value - mean) ** 2;
  }
  return {
    rows: data.rows,
    unanswered,
    weight,
    classes,
    badWeights:
      ownWeight === undefined ? 0 : ownWeight.filter((value) => !(value >= 0 && value < Infinity)).length,
    target: { mean, deviation: Math.sqrt(squares / weight), smallest, largest },
    numbers: await inTurn(data.numbers, breathe, ({ column, values }) => {
      const { present, ...found } = moments(values);
      return { column, missing: data.rows - present, ...found };
    }),
    categories: await inTurn(data.categories, breathe, ({ column, levels, codes }) => {
      const rows = new Array<number>(levels.length).fill(0);
      const sums = new Array<number>(levels.length).fill(0);
      codes.forEach((code, row) => {
        if (code === 0) return;
        rows[code - 1]! += 1;
        sums[code - 1]! += data.target[row]!;
      });
      return { column, rows, sums };
    }),
  };
}

/** Moments of each number, and weight of each level, within each class. */
export async function classTablesOf(data: ColumnData, task: Task, breathe: Breathe): Promise<ClassTables> {
  const classes = classCount(task);
  const weightAt = (row: number): number => (data.weight === undefined ? 1 : data.weight[row]!);
  const numbers = await inTurn(data.numbers, breathe, ({ column, values }) => {
    const weight = new Float64Array(classes);
    const total = new Float64Array(classes);
    const squares = new Float64Array(classes);
    values.forEach((value, row) => {
      if (Number.isNaN(value)) return;
      weight[data.target[row]!]! += weightAt(row);
      total[data.target[row]!]! += weightAt(row) * value;
    });
    const means = total.map((value, index) => value / weight[index]!);
    values.forEach((value, row) => {
      if (!Number.isNaN(value))
        squares[data.target[row]!]! += weightAt(row) * (value - means[data.target[row]!]!) ** 2;
    });
    return {
      column,
      byClass: Array.from({ length: classes }, (_, index): ClassMoments => ({
        weight: weight[index]!,
        mean: means[index]!,
        squares: squares[index]!,
        sum: total[index]!,
      })),
    };
  });
  const categories = await inTurn(data.categories, breathe, ({ column, levels, codes }) => {
    const counts = levels.map(() => new Array<number>(classes).fill(0));
    codes.forEach((code, row) => {
      if (code > 0) counts[code - 1]![data.target[row]!]! += weightAt(row);
    });
    return { column, counts };
  });
  return { numbers, categories };
}

/** The smallest target at which half of the weight is reached. */
export function medianOf(values: ArrayLike<number>, weight: Float64Array | undefined): number {
  const order = Uint32Array.from({ length: values.length }, (_, index) => index).sort(
    (left, right) => values[left]! - values[right]!,
  );
  const total = weight === undefined ? values.length : weight.reduce((all, value) => all + value, 0);
  let before = 0;
  for (const row of order) {
    before += weight === undefined ? 1 : weight[row]!;
    if (before >= total / 2) return values[row]!;
  }
  return Number.NaN;
}

/** The target of the latest row; of several at the same moment, their mean. */
export function latestOf(data: ColumnData): { readonly mean: number; readonly first: number } | undefined {
  const { moment, target } = data;
  if (moment === undefined || data.rows === 0) return undefined;
  const last = moment.reduce((most, value) => (value > most ? value : most), -Infinity);
  const found = [...target].filter((_, row) => moment[row] === last);
  return { mean: found.reduce((all, part) => all + part, 0) / found.length, first: Math.min(...found) };
}
