import { uniform } from "../numeric/random";
import { promiseKept, type PromiseAsked } from "./promise";

const asked = (more: Partial<PromiseAsked>): PromiseAsked => ({
  metric: "accuracy",
  found: 0.8,
  predicted: 1000,
  answered: 900,
  promised: 0.8,
  bounds: [0.79, 0.81],
  holdoutRows: 6000,
  ...more,
});

test("a model that does as well as on its holdout is said to in 95 of 100 cases, however few the answers", () => {
  const share = (rows: number, seed: number): number => {
    let hits = 0;
    for (let row = 0; row < rows; row += 1) if (uniform(row, seed) < 0.8) hits += 1;
    return hits / rows;
  };
  for (const answered of [100, 1000, 4000]) {
    let kept = 0;
    const times = 400;
    for (let time = 0; time < times; time += 1) {
      const promised = share(4000, 7919 * time + answered);
      const half = 1.96 * Math.sqrt((promised * (1 - promised)) / 4000);
      if (
        promiseKept(
          asked({
            found: share(answered, 104729 * time + 13 * answered + 1),
            answered,
            predicted: answered,
            promised,
            bounds: [promised - half, promised + half],
            holdoutRows: 4000,
          }),
        ) === "as on holdout"
      )
        kept += 1;
    }
    expect(kept / times).toBeGreaterThan(0.92);
    expect(kept / times).toBeLessThan(0.98);
  }
});

test("worse and better go by the direction of the metric, and nothing is said of the first answers", () => {
  expect(promiseKept(asked({ found: 0.7 }))).toBe("worse than holdout");
  expect(promiseKept(asked({ found: 0.9 }))).toBe("better than holdout");
  expect(promiseKept(asked({ metric: "log_loss", found: 0.9 }))).toBe("worse than holdout");
  expect(promiseKept(asked({ found: 0.9, answered: 300 }))).toBe("too few actuals");
  expect(promiseKept(asked({ found: undefined }))).toBe("too few actuals");
  expect(promiseKept(asked({ bounds: undefined }))).toBe("too few actuals");
  // Few answers that are a little worse say nothing yet.
  expect(promiseKept(asked({ found: 0.75, answered: 100, predicted: 110 }))).toBe("as on holdout");
});
