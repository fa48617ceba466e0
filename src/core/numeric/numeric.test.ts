import fc from "fast-check";
import { cholesky, inverse, solve, type Matrix } from "./cholesky";
import { complementaryError, twoSidedP } from "./normal";

const matrixOf = (size: number) =>
  fc.array(fc.array(fc.double({ min: -3, max: 3, noNaN: true }), { minLength: size, maxLength: size }), {
    minLength: size,
    maxLength: size,
  });
/** B Bᵀ plus a ridge: symmetric and positive definite. */
const definite = (b: readonly (readonly number[])[]): Matrix =>
  b.map((row, i) =>
    Float64Array.from(
      b.map((other, j) => row.reduce((sum, value, k) => sum + value * other[k]!, i === j ? 0.5 : 0)),
    ),
  );
const times = (matrix: Matrix, vector: ArrayLike<number>): number[] =>
  matrix.map((row) => row.reduce((sum, value, k) => sum + value * vector[k]!, 0));

test("the solution satisfies the equations, and the inverse inverts", () => {
  fc.assert(
    fc.property(
      fc
        .integer({ min: 1, max: 7 })
        .chain((size) =>
          fc.tuple(
            matrixOf(size),
            fc.array(fc.double({ min: -5, max: 5, noNaN: true }), { minLength: size, maxLength: size }),
          ),
        ),
      ([b, right]) => {
        const matrix = definite(b);
        const factor = cholesky(matrix);
        if (factor.kind !== "factor") throw new Error("a definite matrix has a factor");
        times(matrix, solve(factor.lower, right)).forEach((value, index) =>
          expect(value).toBeCloseTo(right[index]!, 7),
        );
        const inverted = inverse(factor.lower);
        matrix.forEach((_, index) =>
          times(matrix, inverted[index]!).forEach((value, other) =>
            expect(value).toBeCloseTo(index === other ? 1 : 0, 7),
          ),
        );
      },
    ),
  );
});

test("a dependent column is named with the combination that makes it", () => {
  // Third column = 2 * first - second.
  const columns = [
    [1, 2, 3, 5],
    [2, 1, 0, 4],
    [0, 3, 6, 6],
  ];
  const gram = columns.map((left) =>
    Float64Array.from(columns.map((right) => left.reduce((sum, value, k) => sum + value * right[k]!, 0))),
  );
  const found = cholesky(gram);
  expect(found.kind).toBe("dependent");
  if (found.kind !== "dependent") return;
  expect(found.index).toBe(2);
  expect([...found.combination].map((value) => Number(value.toFixed(9)))).toEqual([2, -1]);
});

// Values from Abramowitz and Stegun, tables 7.1 and 26.1 and 26.2, and their asymptotic series for the far tail.
test.each([
  [0, 1],
  [0.5, 0.4795001221869535],
  [1, 0.15729920705028513],
  [2, 0.004677734981047266],
  [3, 2.209049699858544e-5],
  [5, 1.5374597944280349e-12],
  [-1, 1.8427007929497148],
])("erfc(%d)", (x, expected) => {
  expect(Math.abs(complementaryError(x) / expected - 1)).toBeLessThan(1e-12);
});

test("a two-sided p falls with distance and is the same on both sides", () => {
  expect(twoSidedP(1.959963984540054)).toBeCloseTo(0.05, 12);
  expect(twoSidedP(-6.59621837598612)).toBeCloseTo(4.21777537927132e-11, 20);
});
