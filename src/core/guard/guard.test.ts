import fc from "fast-check";
import type { Judgement } from "../evaluate/judgement";
import { aloneStrength, mergedBins, type AloneGroup } from "./alone";
import { mix } from "../numeric/random";
import { aloneFinding, keyFinding, leaksAmong, resultFindings } from "./findings";
import { equalRowsFinding, expectedEqual } from "./equal-rows";

const group = (rows: number, sum: number, squares = sum, classes: readonly number[] = []): AloneGroup => ({
  rows,
  sum,
  squares,
  classes,
});

test("alone, a feature is as strong as the pairs it puts in order: doubled AUC less 1", () => {
  fc.assert(
    fc.property(
      fc.array(
        fc.record({ positives: fc.integer({ min: 0, max: 40 }), negatives: fc.integer({ min: 0, max: 40 }) }),
        { minLength: 1, maxLength: 8 },
      ),
      (parts) => {
        // Groups of fewer than ten rows would be put together.
        const groups = parts.map(({ positives, negatives }) => ({
          positives: positives + 6,
          negatives: negatives + 6,
        }));
        let pairs = 0;
        let total = 0;
        for (const one of groups)
          for (const other of groups) {
            const [left, right] = [
              one.positives / (one.positives + one.negatives),
              other.positives / (other.positives + other.negatives),
            ];
            pairs += one.positives * other.negatives * (0.5 + 0.5 * Math.sign(left - right));
            total += one.positives * other.negatives;
          }
        expect(
          aloneStrength(
            "binary",
            groups.map((oneGroup) => group(oneGroup.positives + oneGroup.negatives, oneGroup.positives)),
          ),
        ).toBeCloseTo(2 * (pairs / total) - 1, 10);
      },
    ),
  );
});

test("a feature of many tiny groups, such as a name, is not taken for the answer", () => {
  const names = Array.from({ length: 400 }, (_, index) => group(1, index % 2));
  expect(aloneStrength("binary", names)).toBe(0);
  expect(
    aloneStrength(
      "number",
      Array.from({ length: 400 }, (_, index) => group(1, index, index * index)),
    ),
  ).toBeCloseTo(0, 10);
});

test("of few rows too, the bins of a number tell what the number tells", () => {
  const bins = (rows: number, positives: (bin: number) => number): readonly AloneGroup[] =>
    Array.from({ length: 20 }, (_, bin) => group(rows, positives(bin)));
  const strengthOf = (few: readonly AloneGroup[]): number => {
    const merged = mergedBins(few);
    expect(merged.every((bin) => bin.rows >= 10)).toBe(true);
    expect(merged.reduce((sum, bin) => sum + bin.rows, 0)).toBe(few.reduce((sum, bin) => sum + bin.rows, 0));
    return aloneStrength("binary", merged);
  };
  for (const rows of [1, 3, 7, 10]) {
    expect(strengthOf(bins(rows, (bin) => (bin < 10 ? 0 : rows)))).toBeGreaterThan(0.9);
    expect(strengthOf(bins(rows, () => rows / 2))).toBeCloseTo(0, 12);
  }
});

test("of a number the share of variance between groups; of classes the share of mistakes saved", () => {
  expect(aloneStrength("number", [group(50, 50, 50), group(50, 150, 450)])).toBe(1);
  expect(aloneStrength("number", [group(50, 100, 250), group(50, 100, 250)])).toBe(0);
  expect(
    aloneStrength("classes", [
      group(30, 0, 0, [30, 0, 0]),
      group(30, 0, 0, [0, 30, 0]),
      group(30, 0, 0, [0, 0, 30]),
    ]),
  ).toBe(1);
  expect(
    aloneStrength("classes", [group(30, 0, 0, [10, 10, 10]), group(60, 0, 0, [20, 20, 20])]),
  ).toBeCloseTo(0, 12);
});

test("findings come from their bounds on, with the feature and what to do", () => {
  expect(aloneFinding("binary", "x", 0.89)).toBeUndefined();
  expect(aloneFinding("binary", "reminders", 0.992)).toMatchObject({
    code: "alone_too_strong",
    feature: "reminders",
    message: expect.stringContaining("0.996") as string,
  });
  expect(keyFinding("id", 90, 100)?.code).toBe("nearly_a_key");
  expect(keyFinding("id", 89, 100)).toBeUndefined();
  expect(keyFinding("id", 40, 40)).toBeUndefined();
  expect(equalRowsFinding({ held: 100, looked: 100, equal: 10 }, 0)?.code).toBe("equal_across_border");
  expect(equalRowsFinding({ held: 0, looked: 0, equal: 0 }, 0)).toBeUndefined();
});

const judged = (
  fields: Partial<Judgement>,
): Pick<Judgement, "figures" | "intervals" | "folds" | "importance"> => ({
  figures: { auc: 0.8, log_loss: 0.4 },
  intervals: { log_loss: [0.39, 0.41] },
  folds: [],
  importance: [],
  ...fields,
});
const importance = (...worse: readonly number[]): Judgement["importance"] =>
  worse.map((value, index) => ({ column: `x${index}`, worse: value, least: value, most: value }));
const folds = (...losses: readonly number[]): Judgement["folds"] =>
  losses.map((log_loss, fold) => ({
    fold,
    rows: 10,
    figures: { log_loss },
  })) as unknown as Judgement["folds"];

test("a result is doubted when it is perfect, when one feature carries it, or when the holdout is easier than every fold", () => {
  const codes = (fields: Partial<Judgement>): string[] =>
    resultFindings("binary", judged(fields)).map((resultFinding) => resultFinding.code);
  expect(codes({})).toEqual([]);
  expect(codes({ figures: { auc: 1, log_loss: 0.001 }, importance: importance(0.1, 0.1) })).toEqual([
    "perfect",
  ]);
  expect(codes({ figures: { auc: 0.99, log_loss: 0.01 }, importance: importance(0.9, 0.05, 0.01) })).toEqual([
    "one_dominates",
  ]);
  // One feature may well carry a model that is not nearly perfect.
  expect(codes({ importance: importance(0.9, 0.05) })).toEqual([]);
  expect(codes({ folds: folds(0.5, 0.52, 0.49) })).toEqual(["holdout_too_easy"]);
  expect(codes({ folds: folds(0.5, 0.52, 0.395) })).toEqual([]);
  expect(codes({ folds: folds(0.3, 0.32, 0.31) })).toEqual([]);
});

test("features of few values repeat by chance, and that is not flagged; repeats of the same cases are", () => {
  // Rows of independent features with as many values as given, and how many of the second half equal one of the first.
  const repeats = (values: readonly number[], copies: number) => {
    const rows = Array.from({ length: 2000 }, (_, row) =>
      values.map((count, column) => mix(Math.floor(row / copies), 11 + column) % count).join(),
    );
    const [training, held] = [rows.filter((_, row) => row % 2 === 0), rows.filter((_, row) => row % 2 === 1)];
    const known = new Set(training);
    return {
      equal: held.filter((row) => known.has(row)).length,
      held: held.length,
      looked: held.length,
      training: training.length,
    };
  };
  const agreements = (values: readonly number[]): readonly number[] => values.map((count) => 1 / count);
  for (const values of [
    [2, 3, 2, 4],
    [5, 5, 6, 7],
    [40, 50, 30, 20],
  ]) {
    const { training, ...counted } = repeats(values, 1);
    const expected = expectedEqual(agreements(values), training);
    expect(Math.abs(counted.equal / counted.held - expected)).toBeLessThan(0.05);
    expect(equalRowsFinding(counted, expected)).toBeUndefined();
  }
  const { training, ...copied } = repeats([40, 50, 30, 20], 2);
  expect(equalRowsFinding(copied, expectedEqual(agreements([40, 50, 30, 20]), training))?.code).toBe(
    "equal_across_border",
  );
});

test("what may give the answer away puts good figures in doubt; other findings do not", () => {
  const finding = (code: string) => ({ code, message: "" });
  expect(
    leaksAmong(["alone_too_strong", "time_order_broken", "nearly_a_key", "known_later"].map(finding)).map(
      (finding) => finding.code,
    ),
  ).toEqual(["alone_too_strong", "known_later"]);
});
