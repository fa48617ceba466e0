import { readFileSync } from "node:fs";
import fc from "fast-check";
import type { ScoredRows } from "./figures";
import { confusionAt, curveConfusions, gainAt, liftAt, scoreCurve, type ScoreCurve } from "./score-curve";

const rowsOf = (scores: readonly number[], answers: readonly number[]): ScoredRows => ({
  outputs: [Float64Array.from(scores)],
  answers: Float64Array.from(answers),
});

interface Reference {
  readonly scores: readonly number[];
  readonly answers: readonly number[];
  readonly gains: Readonly<Record<string, number>>;
  readonly lift: Readonly<Record<string, number>>;
  readonly perfect: { readonly scores: readonly number[]; readonly "lift_at_0.05": number };
}

test("gains and lift are those of the reference, with ties and for a perfect model", () => {
  const { scores, answers, gains, lift, perfect } = JSON.parse(
    readFileSync("testing/reference/scores.lift.json", "utf8"),
  ) as Reference;
  const curve = scoreCurve(rowsOf(scores, answers));
  for (const [share, value] of Object.entries(gains))
    expect(Math.abs(gainAt(curve, Number(share)) - value)).toBeLessThan(1e-12);
  for (const [share, value] of Object.entries(lift))
    expect(Math.abs(liftAt(curve, Number(share)) - value)).toBeLessThan(1e-12);
  const best = liftAt(scoreCurve(rowsOf(perfect.scores, answers)), 0.05);
  expect(Math.abs(best - perfect["lift_at_0.05"])).toBeLessThan(1e-12);
});

/** Takes rows one by one in order of the score, of equal scores a part each: the slow way. */
function slowGain(rows: readonly { readonly score: number; readonly y: number }[], share: number): number {
  let wanted = share * rows.length;
  let found = 0;
  for (const score of [...new Set(rows.map((row) => row.score))].sort((left, right) => right - left)) {
    const tied = rows.filter((row) => row.score === score);
    const part = Math.min(1, wanted / tied.length);
    found += part * tied.reduce((sum, item) => sum + item.y, 0);
    wanted -= part * tied.length;
    if (wanted <= 0) break;
  }
  return found / rows.reduce((sum, row) => sum + row.y, 0);
}

test("gains and counts are those of a slow count, whatever the ties, however small the scores", () => {
  const row = fc.record({ score: fc.integer({ min: 0, max: 9 }), y: fc.constantFrom(0, 1) });
  fc.assert(
    fc.property(
      fc.array(row, { minLength: 2, maxLength: 60 }),
      fc.constantFrom(1, 0.1, 1e-5),
      fc.double({ min: 0.01, max: 1, noNaN: true }),
      (raw, scale, share) => {
        fc.pre(raw.some((entry) => entry.y === 1));
        const rows = raw.map((entry) => ({ ...entry, score: (entry.score / 9) * scale }));
        const curve = scoreCurve(
          rowsOf(
            rows.map((row) => row.score),
            rows.map((row) => row.y),
          ),
        );
        expect(gainAt(curve, share)).toBeCloseTo(slowGain(rows, share), 10);
        const all = curveConfusions(curve);
        for (const { score } of rows) {
          const flagged = rows.filter((row) => row.score >= score);
          expect(confusionAt(all, score)).toMatchObject({
            tp: flagged.filter((row) => row.y === 1).length,
            fp: flagged.filter((row) => row.y === 0).length,
          });
        }
        expect(confusionAt(all, 1.01)).toMatchObject({ tp: 0, fp: 0 });
        expect(curve.bins.reduce((sum, bin) => sum + bin.rows, 0)).toBe(rows.length);
        for (const bin of curve.bins) {
          const own = rows.filter((row) => row.score >= bin.from && row.score <= bin.to);
          expect(own.reduce((sum, row) => sum + row.score, 0) / own.length).toBeCloseTo(bin.mean, 12);
        }
      },
    ),
  );
});

test("a curve that is thinned out is exact at every thousandth of the rows and of the threshold", () => {
  const rows = Array.from({ length: 30_000 }, (_, index) => ({
    score: ((index * 7919) % 30_000) / 30_000,
    y: Number((index * 31) % 100 < 20),
  }));
  const whole = rowsOf(
    rows.map((row) => row.score),
    rows.map((row) => row.y),
  );
  const curve: ScoreCurve = scoreCurve(whole);
  expect(curve.points.length).toBeLessThan(5000);
  const order = [...rows].sort((left, right) => right.score - left.score);
  const all = curveConfusions(curve);
  let found = 0;
  order.forEach((row, index) => {
    found += row.y;
    if ((index + 1) % 30 === 0)
      expect(gainAt(curve, (index + 1) / rows.length)).toBeCloseTo(found / curve.positives, 10);
  });
  for (let step = 0; step <= 1000; step += 25) {
    const flagged = rows.filter((row) => row.score >= step / 1000);
    expect(confusionAt(all, step / 1000)).toMatchObject({
      tp: flagged.filter((row) => row.y === 1).length,
      fp: flagged.filter((row) => row.y === 0).length,
    });
  }
});

test("rows count with their weights", () => {
  const once = scoreCurve(rowsOf([0.1, 0.4, 0.4, 0.8, 0.8, 0.8], [0, 1, 1, 0, 1, 1]));
  const weighted = scoreCurve({
    ...rowsOf([0.1, 0.4, 0.8, 0.8], [0, 1, 0, 1]),
    weights: Float64Array.from([1, 2, 1, 2]),
  });
  expect(weighted).toEqual(once);
});
