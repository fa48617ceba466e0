import { readFileSync } from "node:fs";
import { classCurves } from "./class-curves";
import { classReport } from "./class-report";
import { confusionMatrix, figureMaker, type ScoredRows } from "./figures";

interface Reference {
  readonly answers: readonly number[];
  readonly probabilities: readonly (readonly number[])[];
  readonly precision: readonly number[];
  readonly recall: readonly number[];
  readonly f1: readonly number[];
  readonly support: readonly number[];
  readonly macro_f1: number;
  readonly weighted_f1: number;
  readonly balanced_accuracy: number;
  readonly auc_one_against_rest: readonly number[];
  readonly average_precision: readonly number[];
}
const reference = JSON.parse(readFileSync("testing/reference/classes.report.json", "utf8")) as Reference;
const scored: ScoredRows = {
  answers: Float64Array.from(reference.answers),
  outputs: [0, 1, 2, 3].map((code) => Float64Array.from(reference.probabilities, (row) => row[code]!)),
};
const near = (found: number | null, expected: number): void =>
  expect(Math.abs(found! - expected)).toBeLessThan(1e-12);

test("precision, recall, F1 and support of every class are those of the reference, and so are their means", () => {
  const { classes, macro, weighted } = classReport(confusionMatrix(scored));
  classes.forEach((row, code) => {
    near(row.precision, reference.precision[code]!);
    near(row.recall, reference.recall[code]!);
    near(row.f1, reference.f1[code]!);
    expect(row.support).toBe(reference.support[code]);
  });
  near(macro.f1, reference.macro_f1);
  near(weighted.f1, reference.weighted_f1);
  near(macro.recall, reference.balanced_accuracy);
  near(macro.f1, figureMaker("classes", scored)(undefined).macro_f1!);
});

test("a class that is never predicted has no precision, one without rows no recall, and neither spoils the means", () => {
  const { classes, macro } = classReport([
    [3, 1, 0],
    [0, 0, 0],
    [2, 0, 0],
  ]);
  expect(classes).toEqual([
    { precision: 3 / 5, recall: 3 / 4, f1: 6 / 9, support: 4 },
    { precision: 0, recall: null, f1: 0, support: 0 },
    { precision: null, recall: 0, f1: 0, support: 2 },
  ]);
  near(macro.precision, 1 / 5);
});

test("each class against the rest has the reference's AUC and average precision", () => {
  classCurves(scored)!.forEach(({ auc, averagePrecision }, code) => {
    near(auc, reference.auc_one_against_rest[code]!);
    near(averagePrecision, reference.average_precision[code]!);
  });
});
