import { layOutPlot } from "./layout";
import { readAt, readablePlaces, stepTo } from "./reading";
import { placeAxis } from "./scale";
import { pointsOf, type Series } from "./series";

const falling: Series = {
  name: "falling",
  look: "first",
  points: pointsOf([
    [0, 10],
    [1, 5],
    [4, 1],
  ]),
};
const sparse: Series = { name: "sparse", look: "second", points: pointsOf([[3, 7]]) };

test("an axis ends at round values, counts whole ones and keeps a given domain", () => {
  const axis = placeAxis({ title: "loss" }, [0.113, 0.947], [100, 0], 5);
  expect(axis.ticks.map(({ label }) => label)).toEqual(["0", "0.2", "0.4", "0.6", "0.8", "1"]);
  expect(axis.place(0)).toBe(100);
  expect(axis.valueAt(axis.place(0.37))).toBeCloseTo(0.37, 12);
  const counted = placeAxis({ title: "pass", whole: true }, [1, 3], [0, 100], 8);
  expect(counted.ticks.every(({ value }) => Number.isInteger(value))).toBe(true);
  expect(placeAxis({ title: "share", domain: [0, 1] }, [7], [0, 100], 5).place(0.5)).toBe(50);
});

test("logarithmic axes are marked at powers of ten, times at days, shares in percent", () => {
  const log = placeAxis({ title: "gradient", kind: "log" }, [2e-6, 30], [100, 0], 6);
  expect(log.ticks.map(({ value }) => value)).toEqual(expect.arrayContaining([1e-5, 1e-3, 0.1, 10]));
  const [from, to] = [Date.parse("2026-03-01"), Date.parse("2026-03-05")];
  const days = placeAxis({ title: "day", kind: "time", exact: true }, [from, to], [0, 400], 5);
  expect(days.ticks.map(({ label }) => label)).toContain("3 Mar");
  expect(days.describe(from)).toBe("2026-03-01");
  expect(placeAxis({ title: "s", format: "share" }, [0.25], [0, 1], 3).describe(0.25)).toBe("25 %");
});

test("equal, missing and infinite values still have an axis", () => {
  for (const values of [[], [3, 3], [NaN, Infinity, 2]]) {
    const axis = placeAxis({ title: "x" }, values, [0, 100], 4);
    expect(axis.ticks.length).toBeGreaterThan(1);
    expect(axis.ticks.every(({ at }) => at >= 0 && at <= 100)).toBe(true);
  }
});

test("figures of the vertical axis have room on the left", () => {
  const layout = (most: number) =>
    layOutPlot(
      {
        x: { title: "x" },
        y: { title: "y" },
        series: [
          {
            ...falling,
            points: pointsOf([
              [0, 0],
              [1, most],
            ]),
          },
        ],
        bands: [],
      },
      400,
      200,
    );
  expect(layout(1_000_000).x.range[0]).toBeGreaterThan(layout(1).x.range[0]);
});

test("a chart is read place by place, of every series the nearest point", () => {
  const series = [falling, sparse, { ...falling, name: "smooth", silent: true }];
  const places = readablePlaces(series);
  expect(places).toEqual([0, 1, 3, 4]);
  expect(readAt(series, 1).values.map(({ series: { name }, point }) => [name, point.y])).toEqual([
    ["falling", 5],
    ["sparse", 7],
  ]);
  expect(stepTo(places, undefined, "ArrowRight")).toBe(0);
  expect(stepTo(places, 3, "ArrowRight")).toBe(3);
  expect(stepTo(places, 2, "Home")).toBe(0);
  expect(stepTo(places, 2, "x")).toBeUndefined();
  expect(stepTo([], undefined, "End")).toBeUndefined();
});
