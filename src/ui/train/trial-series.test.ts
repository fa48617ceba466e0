import fc from "fast-check";
import { isBetter, type MetricName } from "@/core/evaluate/metrics";
import { bestTrial, courseOfSearch, settingPlot, type ScoredTrial } from "./trial-series";

const trialsOf = (scores: readonly (number | null)[]): ScoredTrial[] =>
  scores.map((score, number) => ({
    number,
    score,
    choices: [
      { setting: "learning_rate", value: 0.001 * 10 ** (number % 3) },
      { setting: "loss", value: ["squared", "absolute_error"][number % 2] },
    ],
  }));
const scores = fc.array(fc.option(fc.double({ min: 0, max: 1, noNaN: true }), { nil: null }), {
  maxLength: 40,
});

describe("charts of a search", () => {
  it("the best so far never gets worse and ends at the best of all, whichever way is better", () => {
    fc.assert(
      fc.property(scores, fc.constantFrom<MetricName>("auc", "log_loss"), (found, metric) => {
        const { series, marker } = courseOfSearch(trialsOf(found), metric, 40);
        const line = series[0]!.points.map(({ y }) => y);
        expect(line.some((y, place) => place > 0 && isBetter(metric, line[place - 1]!, y))).toBe(false);
        const known = found.filter((score) => score !== null);
        const best = metric === "auc" ? Math.max(...known) : Math.min(...known);
        expect(marker?.[1]).toBe(known.length === 0 ? undefined : best);
        expect(line.at(-1)).toBe(marker?.[1]);
      }),
    );
  });

  it("puts values over several decades on a logarithmic axis, and names on places of their own", () => {
    const trials = trialsOf([0.7, null, 0.9, 0.8]);
    const [rate, loss] = [settingPlot(trials, "auc", 0), settingPlot(trials, "auc", 1)];
    expect(rate.x).toMatchObject({ title: "learning rate", kind: "log" });
    expect(loss.x.names).toEqual(["absolute error", "squared"]);
    expect(bestTrial(trials, "auc")?.number).toBe(2);
    expect(loss.marker).toEqual([1, 0.9]);
    expect(rate.series[0]!.points.map(({ note }) => note)).toEqual(["trial 1", "trial 4", "trial 3"]);
  });
});
