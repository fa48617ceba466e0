import { readFileSync } from "node:fs";
import fc from "fast-check";
import { confusionAt, curveConfusions, scoreCurve } from "./score-curve";
import { mix } from "../numeric/random";
import { intervalsOf, LEAST_GROUPS, SAMPLES } from "./bootstrap";
import { confusionMatrix, figureMaker, figureNotes, UNKNOWN_CLASS, type ScoredRows } from "./figures";

const uniform = (row: number, seed: number): number => mix(row, seed) / 4294967296;
/** Coarse scores, so that many are equal. */
const score = fc.integer({ min: 0, max: 8 }).map((value) => value / 8);
const near = (found: number | null | undefined, expected: number): void =>
  expect(Math.abs(found! - expected)).toBeLessThan(1e-10 * Math.max(1, Math.abs(expected)));

test("figures of yes and no are those of their definitions, ties and repeated rows included", () => {
  fc.assert(
    fc.property(
      fc.array(fc.record({ p: score, y: fc.constantFrom(0, 1), times: fc.integer({ min: 0, max: 3 }) }), {
        minLength: 2,
        maxLength: 40,
      }),
      (rows) => {
        const repeated = rows.flatMap((row) => Array.from({ length: row.times }, () => row));
        const [positives, negatives] = [
          repeated.filter((row) => row.y === 1),
          repeated.filter((row) => row.y === 0),
        ];
        fc.pre(positives.length > 0 && negatives.length > 0);
        const make = figureMaker("binary", {
          outputs: [Float64Array.from(rows, (row) => row.p)],
          answers: Float64Array.from(rows, (row) => row.y),
        });
        const figures = make(rows.map((row) => row.times));
        const pairs = positives.flatMap((one) =>
          negatives.map((other) => {
            if (one.p > other.p) return 1;
            if (one.p === other.p) return 0.5;
            return 0;
          }),
        );
        near(figures.auc, pairs.reduce<number>((sum, pair) => sum + pair, 0) / pairs.length);
        near(figures.brier, repeated.reduce((sum, { p, y }) => sum + (p - y) ** 2, 0) / repeated.length);
        near(
          figures.accuracy,
          repeated.filter(({ p, y }) => p >= 0.5 === (y === 1)).length / repeated.length,
        );
        const clipped = (p: number): number => Math.min(1 - 1e-15, Math.max(1e-15, p));
        near(
          figures.log_loss,
          repeated.reduce((sum, { p, y }) => sum - Math.log(y === 1 ? clipped(p) : 1 - clipped(p)), 0) /
            repeated.length,
        );
        const thresholds = [...new Set(repeated.map((row) => row.p))].sort((left, right) => right - left);
        const above = (of: typeof repeated, least: number): number =>
          of.filter((row) => row.p >= least).length;
        near(
          figures.ks,
          Math.max(
            ...thresholds.map((least) =>
              Math.abs(
                above(positives, least) / positives.length - above(negatives, least) / negatives.length,
              ),
            ),
          ),
        );
        let [recall, precision] = [0, 0];
        for (const least of thresholds) {
          const next = above(positives, least) / positives.length;
          precision += (next - recall) * (above(positives, least) / above(repeated, least));
          recall = next;
        }
        near(figures.average_precision, precision);
      },
    ),
  );
});

test("figures of a number are those of their definitions", () => {
  fc.assert(
    fc.property(
      fc.array(fc.record({ p: fc.integer({ min: -20, max: 20 }), y: fc.integer({ min: -20, max: 20 }) }), {
        minLength: 2,
        maxLength: 30,
      }),
      (rows) => {
        const figures = figureMaker("number", {
          outputs: [Float64Array.from(rows, (row) => row.p)],
          answers: Float64Array.from(rows, (row) => row.y),
        })(undefined);
        const errors = rows.map(({ p, y }) => Math.abs(p - y)).sort((left, right) => left - right);
        const mean = rows.reduce((sum, { y }) => sum + y, 0) / rows.length;
        const spread = rows.reduce((sum, { y }) => sum + (y - mean) ** 2, 0);
        near(figures.rmse, Math.sqrt(errors.reduce((sum, error) => sum + error * error, 0) / rows.length));
        near(figures.mae, errors.reduce((sum, error) => sum + error, 0) / rows.length);
        near(
          figures.median_error,
          (errors[Math.floor((rows.length - 1) / 2)]! + errors[Math.floor(rows.length / 2)]!) / 2,
        );
        if (spread > 0)
          near(figures.r_squared, 1 - errors.reduce((sum, error) => sum + error * error, 0) / spread);
        else expect(figures.r_squared).toBeNull();
        const there = rows.filter(({ y }) => y !== 0);
        if (there.length > 0)
          near(
            figures.percentage_error,
            there.reduce((sum, { p, y }) => sum + Math.abs(p - y) / Math.abs(y), 0) / there.length,
          );
        else expect(figures.percentage_error).toBeNull();
      },
    ),
  );
});

test("with several classes, the matrix holds every row once and the figures follow from it", () => {
  fc.assert(
    fc.property(
      fc.array(
        fc.record({
          weights: fc.tuple(
            fc.integer({ min: 1, max: 9 }),
            fc.integer({ min: 1, max: 9 }),
            fc.integer({ min: 1, max: 9 }),
          ),
          code: fc.integer({ min: 0, max: 2 }),
        }),
        { minLength: 1, maxLength: 40 },
      ),
      (rows) => {
        const scored: ScoredRows = {
          outputs: [0, 1, 2].map((code) =>
            Float64Array.from(
              rows,
              ({ weights }) => weights[code]! / weights.reduce((sum, weight) => sum + weight, 0),
            ),
          ),
          answers: Float64Array.from(rows, (row) => row.code),
        };
        const figures = figureMaker("classes", scored)(undefined);
        const matrix = confusionMatrix(scored);
        const told = (code: number): number => matrix.reduce((sum, line) => sum + line[code]!, 0);
        const there = (code: number): number => matrix[code]!.reduce((sum, value) => sum + value, 0);
        expect([0, 1, 2].reduce((sum, code) => sum + there(code), 0)).toBe(rows.length);
        near(figures.accuracy, [0, 1, 2].reduce((sum, code) => sum + matrix[code]![code]!, 0) / rows.length);
        const scores = [0, 1, 2].map((code) => {
          const [precision, recall] = [
            told(code) === 0 ? 0 : matrix[code]![code]! / told(code),
            there(code) === 0 ? 0 : matrix[code]![code]! / there(code),
          ];
          return precision + recall === 0 ? 0 : (2 * precision * recall) / (precision + recall);
        });
        near(figures.macro_f1, scores.reduce((sum, score) => sum + score, 0) / scores.length);
        near(
          figures.log_loss,
          rows.reduce((sum, { code }, row) => sum - Math.log(scored.outputs[code]![row]!), 0) / rows.length,
        );
      },
    ),
  );
});

/** Answers of a known mean error, in groups that share a part of their error. */
function drawn(
  rows: number,
  groups: number,
  seed: number,
): { readonly scored: ScoredRows; readonly groups: Uint32Array } {
  const group = Uint32Array.from({ length: rows }, (_, row) => row % groups);
  const error = (row: number): number =>
    2 + 1.5 * (uniform(group[row]!, 100 + seed) - 0.5) + (uniform(row, 300 + seed) - 0.5);
  return {
    groups: group,
    scored: {
      outputs: [Float64Array.from({ length: rows }, (_, row) => error(row))],
      answers: new Float64Array(rows),
    },
  };
}

test("about 95 of 100 intervals hold what all rows would give; where rows come in groups, only when groups are drawn whole", () => {
  const hits = { apart: 0, together: 0 };
  const tries = 60;
  for (let seed = 0; seed < tries; seed += 1) {
    const { scored, groups } = drawn(120, 12, seed);
    const holds = (interval: readonly [number, number] | undefined): boolean =>
      interval !== undefined && interval[0] <= 2 && interval[1] >= 2;
    if (holds(intervalsOf({ kind: "number", scored: [scored], seed }).intervals.mae)) hits.apart += 1;
    if (holds(intervalsOf({ kind: "number", scored: [scored], seed, groups }).intervals.mae))
      hits.together += 1;
  }
  // Twelve groups are few, so that percentiles are a little too narrow.
  expect(hits.together / tries).toBeGreaterThan(0.83);
  expect(hits.apart / tries).toBeLessThan(0.7);
  expect(SAMPLES).toBeGreaterThanOrEqual(2000);
});

test("what two models share cancels out of the interval of their difference", () => {
  const { scored } = drawn(300, 20, 7);
  expect(intervalsOf({ kind: "number", scored: [scored, scored], seed: 1 }).intervals.mae).toEqual([0, 0]);
  const slightly: ScoredRows = { ...scored, outputs: [scored.outputs[0]!.map((value) => value + 0.01)] };
  const [from, to] = intervalsOf({ kind: "number", scored: [scored, slightly], seed: 1 }).intervals.mae!;
  expect(from).toBeCloseTo(0.01, 6);
  expect(to).toBeCloseTo(0.01, 6);
  const own = intervalsOf({ kind: "number", scored: [scored], seed: 1 }).intervals.mae!;
  expect(own[1] - own[0]).toBeGreaterThan(0.05);
});

test("below ten groups there is no interval, and the reason is given", () => {
  const { scored, groups } = drawn(200, LEAST_GROUPS - 1, 3);
  expect(intervalsOf({ kind: "number", scored: [scored], seed: 1, groups })).toEqual({
    intervals: {},
    because: "Rows belong together in 9 groups; an interval needs at least 10.",
  });
  const more = drawn(200, LEAST_GROUPS, 3);
  expect(
    intervalsOf({ kind: "number", scored: [scored], seed: 1, groups: more.groups }).intervals.mae,
  ).toBeDefined();
});

test("the ends of an interval hardly move with the seed, and not at all with the same one", () => {
  const rows = 1500;
  const scored: ScoredRows = {
    outputs: [Float64Array.from({ length: rows }, (_, row) => uniform(row, 1))],
    answers: Float64Array.from({ length: rows }, (_, row) =>
      Number(uniform(row, 2) < 0.3 + 0.4 * uniform(row, 1)),
    ),
  };
  const ends = [1, 2, 3].map(
    (seed) => intervalsOf({ kind: "binary", scored: [scored], seed }).intervals.auc!,
  );
  for (const end of [0, 1] as const)
    expect(
      Math.max(...ends.map((interval) => interval[end])) - Math.min(...ends.map((interval) => interval[end])),
    ).toBeLessThan(0.0025);
  expect(intervalsOf({ kind: "binary", scored: [scored], seed: 2 }).intervals.auc).toEqual(ends[1]);
});

test("weighted figures are those of rows that are there as often as they weigh", () => {
  const row = fc.record({ p: score, y: fc.constantFrom(0, 1), weight: fc.integer({ min: 0, max: 4 }) });
  fc.assert(
    fc.property(fc.array(row, { minLength: 3, maxLength: 30 }), (rows) => {
      const repeated = rows.flatMap((row) => Array.from({ length: row.weight }, () => row));
      fc.pre(new Set(repeated.map((row) => row.y)).size === 2);
      const of = (list: typeof rows): ScoredRows => ({
        outputs: [Float64Array.from(list, (row) => row.p)],
        answers: Float64Array.from(list, (row) => row.y),
      });
      for (const kind of ["binary", "number"] as const) {
        const weighted = figureMaker(kind, {
          ...of(rows),
          weights: Float64Array.from(rows, (row) => row.weight),
        })(undefined);
        const plain = figureMaker(kind, of(repeated))(undefined);
        for (const [name, value] of Object.entries(plain))
          if (value === null) expect(weighted[name as "auc"]).toBeNull();
          else near(weighted[name as "auc"], value);
      }
    }),
  );
});

test("rows of a class unseen in training count as wrong, and are counted", () => {
  const scored: ScoredRows = {
    outputs: [Float64Array.from([0.9, 0.2, 0.6, 0.5]), Float64Array.from([0.1, 0.8, 0.4, 0.5])],
    answers: Float64Array.from([0, 1, UNKNOWN_CLASS, UNKNOWN_CLASS]),
  };
  const figures = figureMaker("classes", scored)(undefined);
  near(figures.accuracy, 0.5);
  near(figures.log_loss, (-Math.log(0.9) - Math.log(0.8) - 2 * Math.log(1e-15)) / 4);
  near(figures.brier, (2 * 0.01 + 2 * 0.04 + (1 + 0.36 + 0.16) + (1 + 0.25 + 0.25)) / 4);
  // Precision suffers: two rows of neither class were taken for the first.
  near(figures.macro_f1, ((2 * 1) / (1 + 3) + 1) / 2);
  expect(confusionMatrix(scored)).toEqual([
    [1, 0],
    [0, 1],
  ]);
  expect(figureNotes("classes", scored)).toEqual({ unknownAnswers: 2, absentClasses: [], zeroAnswers: 0 });
});

test("averages run over all classes of the model; those without a row are named", () => {
  const scored: ScoredRows = {
    outputs: [0.5, 0.3, 0.2].map((value) => new Float64Array(4).fill(value)),
    answers: Float64Array.from([0, 0, 0, 1]),
  };
  near(figureMaker("classes", scored)(undefined).macro_f1, (2 * 3) / (3 + 4) / 3);
  expect(figureNotes("classes", scored).absentClasses).toEqual([2]);
});

test("accuracy, macro F1 and log loss of several classes are those of the reference", () => {
  const reference = JSON.parse(readFileSync("testing/reference/classes.report.json", "utf8")) as {
    readonly answers: readonly number[];
    readonly probabilities: readonly (readonly number[])[];
    readonly macro_f1: number;
    readonly accuracy: number;
    readonly log_loss: number;
  };
  const figures = figureMaker("classes", {
    answers: Float64Array.from(reference.answers),
    outputs: [0, 1, 2, 3].map((code) =>
      Float64Array.from(reference.probabilities, (probability) => probability[code]!),
    ),
  })(undefined);
  for (const name of ["macro_f1", "accuracy", "log_loss"] as const)
    expect(Math.abs(figures[name]! - reference[name])).toBeLessThan(1e-12);
});

test("metrics of scores with many ties are those of the reference, counts exactly", () => {
  const reference = JSON.parse(readFileSync("testing/reference/scores.metrics.json", "utf8")) as {
    readonly score: readonly number[];
    readonly label: readonly number[];
    readonly auc: number;
    readonly average_precision: number;
    readonly ks: number;
    readonly curve: readonly { readonly threshold: number; readonly tp: number; readonly fp: number }[];
  };
  const scored: ScoredRows = {
    outputs: [Float64Array.from(reference.score)],
    answers: Float64Array.from(reference.label),
  };
  const figures = figureMaker("binary", scored)(undefined);
  for (const name of ["auc", "average_precision", "ks"] as const)
    expect(Math.abs(figures[name]! - reference[name])).toBeLessThan(1e-12);
  const all = curveConfusions(scoreCurve(scored));
  for (const { threshold, tp, fp } of reference.curve)
    expect(confusionAt(all, threshold)).toMatchObject({ tp, fp });
});
