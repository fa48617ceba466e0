import { figureMaker, type ScoredRows } from "./figures";
import { promisedFigures } from "./promise";
import { scoreCurve } from "./score-curve";
import { summarise, type TruthDay } from "./truth";

test("figures of many days of few answers are those of all answers together", () => {
  const days = Array.from({ length: 100 }, (_, day) => [10 * day, 10 * day + 1]);
  const kept = days.map((answers, day): TruthDay => {
    const mean = (answers[0]! + answers[1]!) / 2;
    const variance = answers.reduce((sum, answer) => sum + (answer - mean) ** 2, 0) / 2;
    // Every prediction is off by 1.
    const figures = { rmse: 1, mae: 1, r_squared: 1 - 1 / variance };
    return { version: 1, day: String(day), predicted: 2, answered: 2, figures, answers: { mean, variance } };
  });
  const all = days.flat();
  const expected = figureMaker("number", {
    outputs: [Float64Array.from(all, (value) => value + 1)],
    answers: Float64Array.from(all),
  })(undefined);
  expect(kept[0]!.figures.r_squared).toBe(-3);
  expect(summarise(kept).figures.r_squared).toBeCloseTo(expected.r_squared!, 12);
  expect(summarise(kept).figures.rmse).toBeCloseTo(1, 12);
  // Days that were kept without their answers' variance leave the figure open.
  expect(summarise([...kept, { ...kept[0]!, answers: null }]).figures.r_squared).toBeUndefined();
});

test("the holdout promises accuracy at the delivery's threshold, as the same rows would be counted live", () => {
  const scores = Float64Array.from({ length: 400 }, (_, row) => ((row * 37) % 400) / 400);
  const answers = Float64Array.from(scores, (score, row) => Number(score > 0.3 + ((row % 7) - 3) / 10));
  const scored: ScoredRows = { outputs: [scores], answers };
  const metrics = figureMaker("binary", scored)(undefined);
  const curve = scoreCurve(scored);
  for (const threshold of [0.05, 0.3, 0.5, 0.99]) {
    const live = scores.filter((score, row) => score >= threshold === (answers[row] === 1)).length / 400;
    expect(promisedFigures({ metrics, curve }, threshold).accuracy).toBeCloseTo(live, 12);
  }
  expect(promisedFigures({ metrics, curve }, 0.5).accuracy).toBeCloseTo(metrics.accuracy!, 12);
  expect(promisedFigures({ metrics, curve }, 0.2).auc).toBe(metrics.auc);
  expect(promisedFigures({ metrics, unweighted: { auc: 0.6 } }, 0.5)).toEqual({ auc: 0.6 });
});
