import fc from "fast-check";
import { confusionAt, curveConfusions, scoreCurve } from "./score-curve";
import { cheapestThreshold, costOf, ratesOf } from "./threshold";

test("no threshold costs less than the cheapest", () => {
  const row = fc.record({ score: fc.integer({ min: 0, max: 20 }), positive: fc.boolean() });
  fc.assert(
    fc.property(
      fc.array(row, { minLength: 1, maxLength: 60 }),
      fc.integer({ min: 0, max: 9 }),
      fc.integer({ min: 0, max: 9 }),
      (rows, miss, alarm) => {
        const all = curveConfusions(
          scoreCurve({
            outputs: [Float64Array.from(rows, (row) => row.score / 25)],
            answers: Float64Array.from(rows, (row) => Number(row.positive)),
          }),
        );
        const best = costOf(cheapestThreshold(all, miss, alarm)!, miss, alarm);
        for (let threshold = 0; threshold <= 1; threshold += 0.01)
          expect(costOf(confusionAt(all, threshold), miss, alarm)).toBeGreaterThanOrEqual(best);
      },
    ),
  );
});

test("rates of a known table", () => {
  const rates = ratesOf({ threshold: 0.5, tp: 41, fp: 17, fn: 42, tn: 148 });
  expect(rates.recall).toBeCloseTo(41 / 83, 12);
  expect(rates.precision).toBeCloseTo(41 / 58, 12);
  expect(rates.falseAlarmRate).toBeCloseTo(17 / 165, 12);
  expect(rates.accuracy).toBeCloseTo(189 / 248, 12);
  expect(rates.f1).toBeCloseTo(82 / 141, 12);
  expect(ratesOf({ threshold: 1, tp: 0, fp: 0, fn: 3, tn: 4 })).toMatchObject({
    precision: 1,
    recall: 0,
    f1: 0,
  });
});
