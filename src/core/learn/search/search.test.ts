import type { RangeFile, SearchFile } from "../../pipeline/schema";
import { nextPoint, type Tried } from "./next";
import { choicesAt, trialCount } from "./space";

const search = (how: SearchFile["how"], tried: readonly RangeFile[], trials = 30, seed = 4): SearchFile =>
  ({ how, try: [...tried], trials, seed }) as SearchFile;
const range = (setting: string, fields: Partial<RangeFile>): RangeFile =>
  ({ setting, scale: "linear", whole: false, ...fields }) as RangeFile;

test("a grid goes through all combinations (grid) once, and then ends", () => {
  const grid = search("grid", [
    range("depth", { values: [1, 3, 5] }),
    { ...range("with", { values: ["median", "mean"] }), step: "gaps" },
  ]);
  const seen: string[] = [];
  for (let trial = 0; ; trial += 1) {
    const point = nextPoint(grid, trial, []);
    if (!point) break;
    seen.push(
      choicesAt(grid, point)
        .map((choice) => `${choice.step ?? ""}${choice.setting}=${String(choice.value)}`)
        .join(" "),
    );
  }
  expect(seen).toHaveLength(6);
  expect(new Set(seen).size).toBe(6);
  expect(seen).toHaveLength(trialCount(grid));
  expect(seen[1]).toBe("depth=1 gapswith=mean");
});

test("random points stay in their ranges, reach both ends of whole numbers, and spread evenly over a logarithmic scale", () => {
  const random = search("random", [
    range("rate", { from: 0.001, to: 1, scale: "log" }),
    range("depth", { from: 2, to: 5, whole: true }),
    range("kind", { values: ["a", "b"] }),
  ]);
  const choices = Array.from(
    { length: 600 },
    (_, trial) =>
      choicesAt(random, nextPoint(random, trial, [])!).map((choice) => choice.value) as [
        number,
        number,
        string,
      ],
  );
  expect(choices.every(([rate]) => rate >= 0.001 && rate <= 1)).toBe(true);
  expect(new Set(choices.map(([, depth]) => depth))).toEqual(new Set([2, 3, 4, 5]));
  expect(new Set(choices.map(([, , kind]) => kind))).toEqual(new Set(["a", "b"]));
  for (const [from, to] of [
    [0.001, 0.01],
    [0.01, 0.1],
    [0.1, 1],
  ] as const)
    expect(choices.filter(([rate]) => rate >= from && rate < to).length / 600).toBeCloseTo(1 / 3, 1);
  const depths = choices.map(([, depth]) => depth);
  for (const depth of [2, 3, 4, 5])
    expect(depths.filter((oneDepth) => oneDepth === depth).length / 600).toBeCloseTo(0.25, 1);
  expect(nextPoint(random, 17, [])).toEqual(nextPoint(random, 17, [{ point: [0.5, 0.5, 0.5], score: 1 }]));
});

test("a search that learns from its trials comes nearer to a valley than chance does, and goes on alike when taken up again", () => {
  const valley = (point: readonly number[]): number => (point[0]! - 0.73) ** 2 + 2 * (point[1]! - 0.21) ** 2;
  const best = (how: "random" | "bayesian", seed: number): number => {
    const asked = search(how, [range("a", { from: 0, to: 1 }), range("b", { from: 0, to: 1 })], 25, seed);
    const tried: Tried[] = [];
    for (let trial = 0; trial < 25; trial += 1) {
      const point = nextPoint(asked, trial, tried)!;
      expect(nextPoint(asked, trial, [...tried])).toEqual(point);
      tried.push({ point, score: valley(point) });
    }
    return Math.min(...tried.map((trial) => trial.score));
  };
  const seeds = [1, 2, 3, 4, 5, 6, 7];
  const median = (how: "random" | "bayesian"): number =>
    seeds.map((seed) => best(how, seed)).sort((left, right) => left - right)[3]!;
  expect(median("bayesian")).toBeLessThan(0.3 * median("random"));
});

test("failed trials, whose score is not finite, do not lead the search", () => {
  const asked = search("bayesian", [range("a", { from: 0, to: 1 })], 20);
  const tried: Tried[] = Array.from({ length: 8 }, (_, trial) => ({
    point: nextPoint(asked, trial, [])!,
    score: trial % 2 === 0 ? Infinity : trial,
  }));
  expect(nextPoint(asked, 8, tried)!.every((value) => value >= 0 && value < 1)).toBe(true);
});
