import { layOut } from "../linear/design";
import type { ColumnData } from "./column-data";
import { MemoryFrame } from "./memory-frame";

const ROWS = 9000;
const LEVELS = ["oak", "elm", "ash"];

/** A number in [0, 1) that depends on its place alone. */
const uniform = (row: number, column: number): number => {
  const value = Math.sin(row * 12.9898 + column * 78.233) * 43_758.5453;
  return value - Math.floor(value);
};

function dataOf(columns: number): ColumnData {
  return {
    rows: ROWS,
    numbers: Array.from({ length: columns }, (_, column) => ({
      column: `f${column}`,
      values: Float64Array.from({ length: ROWS }, (_value, row) => uniform(row, column)),
    })),
    categories: [
      { column: "tree", levels: LEVELS, codes: Int32Array.from({ length: ROWS }, (_, row) => 1 + (row % 3)) },
    ],
    target: Float64Array.from({ length: ROWS }, (_, row) => Number(uniform(row, 99) < 0.4)),
    weight: Float64Array.from({ length: ROWS }, (_, row) => 1 + (row % 2)),
    draw: Float64Array.from({ length: ROWS }, (_, row) => uniform(row, 100)),
    fold: new Int16Array(ROWS).fill(-1),
    moment: undefined,
  };
}

/** Lays out a design with the columns' own means and deviations, far from the solution. */
function designOf(data: ColumnData) {
  const numbers = data.numbers.map(({ column }, index) => ({
    column,
    mean: 0.5 + index / 100,
    deviation: 0.3,
  }));
  const design = layOut(numbers, [{ column: "tree", levels: LEVELS, rows: [3000, 3000, 3000] }], {});
  return { design, coefficients: Float64Array.from(design.terms, (_, index) => Math.sin(index) / 3) };
}

test.each([1, 6, 11])(
  "curvature over %d numbers and a category is the weighted sum of products, row by row",
  async (columns) => {
    const data = dataOf(columns);
    const { design, coefficients } = designOf(data);
    const { hessian, gradient } = await new MemoryFrame({ kind: "binary" }, data).curvature(
      design,
      coefficients,
      "logistic",
      "all",
    );
    const size = design.terms.length;
    const products = Array.from({ length: size }, () => new Float64Array(size));
    const slope = new Float64Array(size);
    for (let row = 0; row < ROWS; row += 1) {
      const position = design.categories[0]!.positions[data.categories[0]!.codes[row]!]!;
      const values = Float64Array.from({ length: size }, (_, term) => {
        if (term === 0) return 1;
        if (term <= columns)
          return (data.numbers[term - 1]!.values[row]! - design.centres[term]!) / design.spreads[term]!;
        return position === term ? 1 / design.spreads[term]! : 0;
      });
      const eta = values.reduce((total, value, term) => total + value * coefficients[term]!, 0);
      const chance = 1 / (1 + Math.exp(-eta));
      const weight = data.weight![row]!;
      values.forEach((value, term) => {
        slope[term]! += weight * (chance - data.target[row]!) * value;
        values.forEach((other, second) => {
          products[term]![second]! += weight * chance * (1 - chance) * value * other;
        });
      });
    }
    const furthest = (found: ArrayLike<number>, expected: ArrayLike<number>): number =>
      Math.max(...Array.from(expected, (value, index) => Math.abs(found[index]! - value)));
    expect(furthest(gradient, slope)).toBeLessThan(1e-8);
    expect(Math.max(...products.map((line, term) => furthest(hessian[term]!, line)))).toBeLessThan(1e-8);
  },
);

test("whoever waits for sums over many rows or columns has a turn between pieces of them, and may stop them", async () => {
  const data = dataOf(6);
  const { design, coefficients } = designOf(data);
  let breaths = 0;
  const frame = new MemoryFrame({ kind: "binary" }, data, {
    breathe: () => Promise.resolve(void (breaths += 1)),
  });
  const during = async (work: () => Promise<unknown>): Promise<number> => {
    const before = breaths;
    await work();
    return breaths - before;
  };
  expect(await during(() => frame.slope(design, coefficients, "logistic", "all"))).toBe(2);
  expect(await during(() => frame.curvature(design, coefficients, "logistic", "all"))).toBe(2);
  expect(await during(() => frame.classSlope(design, coefficients, "all"))).toBe(2);
  expect(await during(() => frame.summary())).toBe(7);
  expect(await during(() => frame.classTables())).toBe(7);
  const stopped = new MemoryFrame({ kind: "binary" }, data, {
    breathe: () => Promise.reject(new Error("cancelled")),
  });
  await expect(stopped.curvature(design, coefficients, "logistic", "all")).rejects.toThrow("cancelled");
});
