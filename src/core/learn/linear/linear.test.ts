import fc from "fast-check";
import { cholesky, solve } from "../../numeric/cholesky";
import { nextPoint, type Visit } from "./acceleration";
import { layOut, termName, toOriginal } from "./design";
import { checkSummary, separatedLevels } from "./diagnose";
import type { LinearPart } from "./linear-part";
import { compileSum } from "./weighted-sum";
import { probabilityOf } from "../links";

describe("the layout of the coefficient vector", () => {
  const category = { column: "size", levels: ["L", "M", "S", null], rows: [10, 20, 60, 10] };

  test("gives every number and every level but the reference a place, missing values a level of their own", () => {
    const design = layOut([{ column: "w", mean: 5, deviation: 2 }], [category], { size: "M" });
    expect(design.terms.map(termName)).toEqual([
      "intercept",
      "w",
      "size = L",
      "size = S",
      "size = (missing)",
    ]);
    expect(design.categories[0]!.positions).toEqual([-1, 2, -1, 3, 4]);
    expect(design.spreads[3]).toBeCloseTo(Math.sqrt(0.6 * 0.4), 12);
    expect(layOut([], [category], {}).terms.map(termName)).toEqual([
      "intercept",
      "size = M",
      "size = S",
      "size = (missing)",
    ]);
    expect(layOut([], [category], { size: "no such" }).categories[0]!.positions[1]).toBe(-1);
  });

  test("a change of scale keeps every prediction", () => {
    const number = fc.double({ min: -50, max: 50, noNaN: true });
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            mean: number,
            deviation: fc.double({ min: 0.01, max: 20, noNaN: true }),
            coefficient: number,
            x: number,
          }),
          { minLength: 1, maxLength: 6 },
        ),
        number,
        (columns, intercept) => {
          const design = layOut(
            columns.map((column, index) => ({
              column: `c${index}`,
              mean: column.mean,
              deviation: column.deviation,
            })),
            [],
            {},
          );
          const scaled = Float64Array.from([intercept, ...columns.map((column) => column.coefficient)]);
          const original = toOriginal(design, scaled);
          const onScale = columns.reduce(
            (sum, column) => sum + (column.coefficient * (column.x - column.mean)) / column.deviation,
            intercept,
          );
          const inUnits = columns.reduce(
            (sum, column, index) => sum + original[index + 1]! * column.x,
            original[0]!,
          );
          const size = columns.reduce(
            (sum, column) =>
              sum +
              Math.abs(
                (column.coefficient * (Math.abs(column.x) + Math.abs(column.mean))) / column.deviation,
              ),
            Math.abs(intercept) + 1,
          );
          expect(Math.abs(onScale - inUnits)).toBeLessThan(1e-12 * size);
        },
      ),
    );
  });
});

test("mixed steps reach the minimum of a bowl in far fewer passes than plain ones", () => {
  const size = 12;
  const curvature = Array.from({ length: size }, (_, i) =>
    Float64Array.from({ length: size }, (_unused, j) => (i === j ? 1 + i / 3 : 0.2 / (1 + Math.abs(i - j)))),
  );
  // A preconditioner that is wrong by up to a third in every direction.
  const rough = curvature.map((row, i) =>
    Float64Array.from(row, (value, j) => (i === j ? value * (1 + 0.5 * Math.sin(3 * i)) : 0)),
  );
  const target = Float64Array.from({ length: size }, (_, index) => Math.cos(index));
  const factor = cholesky(rough);
  if (factor.kind !== "factor") throw new Error("the preconditioner is definite");
  const passes = (next: (visits: readonly Visit[]) => Float64Array): number => {
    let point: Float64Array = new Float64Array(size);
    const visits: Visit[] = [];
    for (let pass = 1; pass < 300; pass += 1) {
      const gradient = Float64Array.from(curvature, (row) =>
        row.reduce((sum, value, j) => sum + value * (point[j]! - target[j]!), 0),
      );
      if (Math.max(...gradient.map(Math.abs)) < 1e-10) return pass;
      visits.push({ point, gradient, move: solve(factor.lower, gradient).map((value) => -value) });
      point = next(visits);
    }
    return 300;
  };
  const plain = passes((visits) =>
    visits.at(-1)!.point.map((value, index) => value + visits.at(-1)!.move[index]!),
  );
  expect(passes(nextPoint)).toBeLessThan(plain / 2);
});

describe("what the first counts already forbid", () => {
  const both = [
    { rows: 60, weight: 60 },
    { rows: 40, weight: 40 },
  ];
  const good = {
    rows: 100,
    unanswered: 0,
    weight: 100,
    badWeights: 0,
    target: { mean: 0.4, deviation: 0.5, smallest: 0, largest: 1 },
    classes: both,
    numbers: [{ column: "w", missing: 0, mean: 1, deviation: 2 }],
    categories: [],
  };

  test.each([
    ["nothing", {}, undefined],
    ["no rows", { rows: 0 }, "no_rows"],
    ["answers missing", { unanswered: 3 }, "target_missing"],
    [
      "all positive",
      {
        classes: [
          { rows: 0, weight: 0 },
          { rows: 100, weight: 100 },
        ],
      },
      "one_class",
    ],
    [
      "all negative",
      {
        classes: [
          { rows: 100, weight: 100 },
          { rows: 0, weight: 0 },
        ],
      },
      "one_class",
    ],
    ["all weights 0", { weight: 0 }, "no_weight"],
    ["a weight below 0", { badWeights: 1 }, "bad_weight"],
    [
      "one class of weight 0",
      {
        classes: [
          { rows: 60, weight: 0 },
          { rows: 40, weight: 40 },
        ],
      },
      "one_class",
    ],
    [
      "an infinite target",
      { target: { mean: 0, deviation: 1, smallest: 0, largest: Infinity } },
      "not_finite",
    ],
    ["a gap", { numbers: [{ column: "w", missing: 7, mean: 1, deviation: 2 }] }, "feature_missing"],
    [
      "an infinite value",
      { numbers: [{ column: "w", missing: 0, mean: Infinity, deviation: Number.NaN }] },
      "not_finite",
    ],
    [
      "an entirely missing column",
      { numbers: [{ column: "w", missing: 100, mean: Number.NaN, deviation: Number.NaN }] },
      undefined,
    ],
  ])("%s", (_what, change, code) => {
    expect(checkSummary({ ...good, ...change }, "stop")[0]?.code).toBe(code);
  });

  test("a level with one answer only is named; one without rows is not", () => {
    const category = { column: "size", levels: ["L", "M", null], rows: [5, 9, 0], positives: [2, 9, 0] };
    expect(separatedLevels([category])?.message).toContain("size = M");
    expect(separatedLevels([{ ...category, positives: [2, 8, 0] }])).toBeUndefined();
  });
});

test("log odds add up term by term; unseen levels count as the average one; a missing number has no answer", () => {
  const model: LinearPart = {
    intercept: -1,
    numbers: [{ column: "w", coefficient: 0.5 }],
    categories: [
      {
        column: "size",
        unseen: 0.3,
        levels: [
          { level: "L", rows: 3, coefficient: 1 },
          { level: null, rows: 1, coefficient: -2 },
        ],
      },
    ],
  };
  const sumOf = (part: LinearPart, w: number | null, size: string | null): number =>
    compileSum(
      part,
      new Map([
        ["w", 0],
        ["size", 1],
      ]),
    )([w, size]);
  const filled = { ...model, numbers: [{ column: "w", coefficient: 0.5, fill: 6 }] };
  expect(sumOf(filled, null, "L")).toBe(3);
  expect(sumOf(model, 4, "L")).toBe(2);
  expect(sumOf(model, 4, null)).toBe(-1);
  expect(sumOf(model, 4, "XXL")).toBeCloseTo(1.3, 12);
  expect(sumOf(model, null, "L")).toBeNaN();
  expect(probabilityOf(0)).toBe(0.5);
  expect(probabilityOf(1e6)).toBe(1);
  expect(probabilityOf(-1e6)).toBeGreaterThan(0);
});
