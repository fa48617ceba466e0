import fc from "fast-check";
import { cheapestThreshold, confusions, costOf, ratesOf } from "./threshold";

const scored = fc.array(fc.record({ bucket: fc.integer({ min: 0, max: 20 }), positive: fc.boolean() }), {
  minLength: 1,
  maxLength: 60,
});

test("counts from buckets are the counts of the rows themselves, at every threshold", () => {
  fc.assert(
    fc.property(scored, (rows) => {
      const buckets = [...new Set(rows.map((row) => row.bucket))].map((bucket) => {
        const own = rows.filter((row) => row.bucket === bucket);
        return {
          bucket,
          positives: own.filter((row) => row.positive).length,
          negatives: own.filter((row) => !row.positive).length,
        };
      });
      const all = confusions(buckets, 20);
      expect(all).toHaveLength(21);
      all.forEach((counts, index) => {
        const raised = rows.filter((row) => row.bucket >= index);
        const kept = rows.filter((row) => row.bucket < index);
        expect(counts).toEqual({
          threshold: index / 20,
          tp: raised.filter((row) => row.positive).length,
          fp: raised.filter((row) => !row.positive).length,
          fn: kept.filter((row) => row.positive).length,
          tn: kept.filter((row) => !row.positive).length,
        });
      });
    }),
  );
});

test("no threshold costs less than the cheapest", () => {
  fc.assert(
    fc.property(
      scored,
      fc.integer({ min: 0, max: 9 }),
      fc.integer({ min: 0, max: 9 }),
      (rows, miss, alarm) => {
        const all = confusions(
          rows.map((row) => ({
            bucket: row.bucket,
            positives: row.positive ? 1 : 0,
            negatives: row.positive ? 0 : 1,
          })),
          20,
        );
        const best = costOf(cheapestThreshold(all, miss, alarm)!, miss, alarm);
        expect(Math.min(...all.map((each) => costOf(each, miss, alarm)))).toBe(best);
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
