import fc from "fast-check";
import type { CourseVersion } from "@/server/version-history";
import { courseOf, servicePeriods } from "./version-course";

const version = (number: number, at: number, auc?: number): CourseVersion => ({
  id: number,
  number,
  candidate: "plain",
  at,
  metrics: auc === undefined ? {} : { auc },
  intervals: auc === undefined ? null : { auc: [auc - 0.01, auc + 0.01] },
});

describe("versions along time", () => {
  it("are in the order of time, with their intervals, without those that lack the metric", () => {
    const { points } = courseOf([version(3, 30, 0.8), version(1, 10, 0.7), version(2, 20)], "auc");
    expect(points.map(({ x, y, label, low }) => [x, y, label, low])).toEqual([
      [10, 0.7, "1", 0.69],
      [30, 0.8, "3", 0.79],
    ]);
    expect(points[0]!.note).toBe("(95 %: 0.69 to 0.71) version 1, plain");
  });

  it("serve one after the other, never two at a time, up to now", () => {
    const change = fc.record({
      version: fc.option(fc.integer({ min: 1, max: 9 }), { nil: null }),
      at: fc.integer({ min: 0, max: 1000 }),
    });
    fc.assert(
      fc.property(fc.array(change), (changes) => {
        const periods = servicePeriods(changes, 1000);
        expect(
          periods.every(({ from, to }, place) => from <= to && to <= (periods[place + 1]?.from ?? 1000)),
        ).toBe(true);
        expect(periods).toHaveLength(changes.filter(({ version: number }) => number !== null).length);
      }),
    );
  });
});
