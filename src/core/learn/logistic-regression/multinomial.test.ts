import fc from "fast-check";
import { predictorOf, reasonsFor } from "../../explain/reasons";
import { uniform } from "../../numeric/random";
import { unwrap } from "../../problem";
import { MemoryFrame } from "../memory/memory-frame";
import type { ColumnData } from "../memory/column-data";
import { predict } from "../compiled";
import { logisticSettings } from "./facts";
import type { FeatureRow, Task } from "../task";
import { fitMultinomial } from "./multinomial";

/** Roughly normal, with deviation 1. */
const noise = (row: number, seed: number): number =>
  [1, 2, 3].reduce((sum, part) => sum + 2 * (uniform(row, seed + part) - 0.5), 0);

const ROWS = 90;
const NAMES = ["amber", "birch", "cedar", "damson"];

interface Sample {
  readonly rows: readonly FeatureRow[];
  readonly data: (order: readonly number[]) => ColumnData;
}

/** Rows of two numbers, one answer of several classes that overlap; the classes can be put into another order. */
function sampleOf(seed: number, classes: number, apart: number): Sample {
  const answers = Array.from({ length: ROWS }, (_, row) => row % classes);
  const column = (part: number): Float64Array =>
    Float64Array.from(
      answers,
      (code, row) => apart * (code === part ? 1 : 0) + 3 * part + 0.8 * noise(row + part * 1000, seed),
    );
  const numbers = ["x", "y"].map((name, part) => ({ column: name, values: column(part) }));
  return {
    rows: answers.map((_, row) => ({ x: numbers[0]!.values[row]!, y: numbers[1]!.values[row]! })),
    data: (order) => ({
      rows: ROWS,
      numbers,
      categories: [],
      target: Float64Array.from(answers, (code) => order.indexOf(code)),
      weight: undefined,
      draw: Float64Array.from(answers, (_, row) => uniform(row, 3)),
      fold: new Int16Array(ROWS).fill(-1),
      moment: undefined,
    }),
  };
}

const taskOf = (order: readonly number[]): Task => ({
  kind: "classes",
  classes: order.map((code) => NAMES[code]!),
});
const fit = (sample: Sample, order: readonly number[], ridge: number) =>
  fitMultinomial(
    new MemoryFrame(taskOf(order), sample.data(order)),
    logisticSettings.parse({ ridge, tolerance: 1e-9 }),
    { categories: [] },
  );

test("with a ridge, the names of the classes change nothing: not the probabilities, not the coefficients of a class", async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 1e6 }),
      fc.shuffledSubarray([0, 1, 2, 3], { minLength: 4 }),
      fc.constantFrom(0.001, 0.05, 0.5),
      async (seed, order, ridge) => {
        const sample = sampleOf(seed, 4, 1.5);
        const [plain, renamed] = [
          unwrap(await fit(sample, [0, 1, 2, 3], ridge)).model,
          unwrap(await fit(sample, order, ridge)).model,
        ];
        for (const row of sample.rows.slice(0, 20)) {
          const other = predict(renamed, row);
          predict(plain, row).forEach((value, code) =>
            expect(Math.abs(value - other[order.indexOf(code)]!)).toBeLessThan(1e-7),
          );
        }
        for (const coefficient of plain.coefficients)
          expect(
            Math.abs(
              coefficient.estimate -
                renamed.coefficients.find(
                  (one) => one.term === coefficient.term && one.class === coefficient.class,
                )!.estimate,
            ),
          ).toBeLessThan(1e-6);
      },
    ),
    { numRuns: 15 },
  );
});

test("coefficients of all classes sum to zero, and the scores they make are what is predicted", async () => {
  const sample = sampleOf(7, 3, 1.5);
  const { model } = unwrap(await fit(sample, [0, 1, 2], 0.01));
  const of = (term: string) => model.coefficients.filter((coefficient) => coefficient.term === term);
  for (const term of ["intercept", "x", "y"]) {
    expect(of(term).map((coefficient) => coefficient.class)).toEqual(["amber", "birch", "cedar"]);
    expect(Math.abs(of(term).reduce((sum, item) => sum + item.estimate, 0))).toBeLessThan(1e-9);
  }
  for (const row of sample.rows.slice(0, 10)) {
    const scores = [0, 1, 2].map((code) =>
      Math.exp(
        of("intercept")[code]!.estimate +
          of("x")[code]!.estimate * Number(row["x"]) +
          of("y")[code]!.estimate * Number(row["y"]),
      ),
    );
    const total = scores.reduce((sum, score) => sum + score, 0);
    predict(model, row).forEach((value, code) => expect(value).toBeCloseTo(scores[code]! / total, 10));
  }
});

test("rows of every class have reasons, the first one's too, and they add up to the class's centred score", async () => {
  const sample = sampleOf(11, 3, 1.5);
  const { model } = unwrap(await fit(sample, [0, 1, 2], 0.01));
  const background = { means: { x: 1, y: 2 }, usual: {} };
  for (const row of sample.rows.slice(0, 12)) {
    const logs = predict(model, row).map(Math.log);
    const mean = logs.reduce((sum, log) => sum + log, 0) / logs.length;
    logs.forEach((log, code) => {
      const found = reasonsFor(model, row, code, background);
      expect(found.parts.map((part) => part.column)).toEqual(["x", "y"]);
      expect(found.parts.some((part) => Math.abs(part.value) > 1e-3)).toBe(true);
      const sum = found.parts.reduce((total, part) => total + part.value, found.base);
      expect(sum).toBeCloseTo(log - mean, 9);
    });
  }
  expect(predictorOf(model, sample.rows[0]!, 0)).toBe(predict(model, sample.rows[0]!)[0]);
});

test("classes that a column separates are found and named without a penalty, and settle with one", async () => {
  const sample = sampleOf(3, 3, 60);
  const failed = await fit(sample, [0, 1, 2], 0);
  expect(failed).toMatchObject({
    ok: false,
    problems: [{ code: "separated", message: expect.stringMatching(/"x"|"y"/) as string }],
  });
  expect((await fit(sample, [0, 1, 2], 0.001)).ok).toBe(true);
});

test("passes that were too few say which coefficients still moved", async () => {
  const found = await fitMultinomial(
    new MemoryFrame(taskOf([0, 1, 2]), sampleOf(5, 3, 1.5).data([0, 1, 2])),
    logisticSettings.parse({ ridge: 0, most_passes: 1, tolerance: 1e-16 }),
    { categories: [] },
  );
  const text = found.ok
    ? found.value.warnings.map((warning) => warning.message).join()
    : found.problems[0]!.message;
  expect(text).toMatch(/"(x|y)"/);
});
