import fc from "fast-check";
import { driftOf, MUCH_DRIFT, SOME_DRIFT, type ColumnSpread } from "./drift";

const spread = (counts: readonly number[], missing = 0): ColumnSpread => ({
  column: "x",
  kind: "number",
  edges: counts.slice(1).map((_, index) => index),
  levels: [],
  counts: [...counts],
  missing,
});
const count = fc.integer({ min: 1, max: 500 });

test("the same shares do not drift, however many rows; and drift is the same in both directions", () => {
  fc.assert(
    fc.property(
      fc.array(count, { minLength: 2, maxLength: 10 }),
      fc.array(count, { minLength: 10, maxLength: 10 }),
      fc.integer({ min: 2, max: 9 }),
      (counts, others, times) => {
        const same = driftOf(
          spread(counts, 3),
          spread(
            counts.map((each) => each * times),
            3 * times,
          ),
        )!;
        expect(same.psi).toBeCloseTo(0, 12);
        expect(same.ks).toBeCloseTo(0, 12);
        const other = spread(others.slice(0, counts.length), 1);
        const [there, back] = [driftOf(spread(counts, 3), other)!, driftOf(other, spread(counts, 3))!];
        expect(there.psi).toBeGreaterThanOrEqual(0);
        expect(there.psi).toBeCloseTo(back.psi, 12);
        expect(there.ks).toBeCloseTo(back.ks!, 12);
      },
    ),
  );
});

test("index and distance are those of their definitions; an empty part is finitely far; gaps count as a part", () => {
  const found = driftOf(spread([50, 50]), spread([25, 75]))!;
  expect(found.psi).toBeCloseTo(-0.25 * Math.log(0.5) + 0.25 * Math.log(1.5), 12);
  expect(found.ks).toBeCloseTo(0.25, 12);
  expect(found.psi).toBeGreaterThan(SOME_DRIFT);
  expect(driftOf(spread([50, 50]), spread([0, 100]))!.psi).toBeLessThan(10);
  expect(driftOf(spread([50, 50]), spread([0, 100]))!.psi).toBeGreaterThan(MUCH_DRIFT);
  expect(driftOf(spread([50, 50]), spread([25, 25], 50))).toMatchObject({
    ks: 0,
    missing: [0, 0.5],
    parts: [
      { name: "below 0", before: 0.5, now: 0.25 },
      { name: "from 0", before: 0.5, now: 0.25 },
    ],
  });
  expect(driftOf(spread([50, 50]), spread([0, 0]))).toBeUndefined();
});
