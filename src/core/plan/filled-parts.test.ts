import type { PipelineFile } from "../pipeline/schema";
import { unfilledParts, type FilledPart } from "./filled-parts";

const file = (folds: object, kind = "binary", holdout: object = {}): PipelineFile =>
  ({
    folds,
    holdout: { by: "group", share: 0.2, ...holdout },
    roles: { target: { kind } },
  }) as unknown as PipelineFile;
const parts = (
  ...rows: readonly (readonly [number, number, string | null, number, number?])[]
): FilledPart[] =>
  rows.map(([part, fold, answer, count, groups = 1]) => ({ part, fold, answer, rows: count, groups }));
const holdout = parts([1, 0, "true", 9], [1, 0, "false", 9]);
const codes = (...asked: Parameters<typeof unfilledParts>): string[] =>
  unfilledParts(...asked).map((found) => `${found.severity} ${found.code}`);

test("groups that cannot fill all folds are counted, with the number of folds that they can fill", () => {
  const training = [0, 1, 2].flatMap((fold) => parts([0, fold, "true", 5], [0, fold, "false", 5]));
  const five = { by: "group", count: 5, seed: 1 };
  const [found] = unfilledParts(file(five), [...training, ...holdout], true, false);
  expect(found).toMatchObject({ severity: "warning", code: "empty_fold", hint: "Set folds.count to 3." });
  expect(found!.message).toContain("Folds 4, 5 of 5 cannot be evaluated");
  expect(found!.message).toContain("there are 3 groups");
  // A search ranks by the folds, so that there they have to be filled.
  expect(codes(file(five), [...training, ...holdout], true, true)).toEqual(["error empty_fold"]);
  expect(codes(file({ ...five, count: 3 }), [...training, ...holdout], true, true)).toEqual([]);
});

test.each([
  ["no holdout", parts([0, 0, "true", 9]), "binary", ["error empty_holdout"]],
  ["a holdout without answers", parts([0, 0, "true", 9], [1, 0, null, 4]), "binary", ["error empty_holdout"]],
  ["both", [...parts([0, 0, "true", 9]), ...holdout], "binary", []],
])("%s", (_what, counted, kind, expected) => {
  expect(codes(file({ by: "random", count: 2 }, kind), counted, false, false)).toEqual(expected);
});

test("a fold of which the others have one class only, or none before it, cannot be evaluated", () => {
  const lonely = [...parts([0, 0, "true", 9], [0, 1, "false", 9]), ...holdout];
  expect(codes(file({ by: "random", count: 2 }), lonely, true, false)).toEqual(["warning empty_fold"]);
  expect(codes(file({ by: "random", count: 2 }, "number"), lonely, true, false)).toEqual([]);
  // Forward in time the first part is only learned from.
  const forward = [0, 1, 2].flatMap((fold) => parts([0, fold, "true", 5], [0, fold, "false", 5]));
  expect(codes(file({ by: "time", count: 2 }), [...forward, ...holdout], true, false)).toEqual([]);
  expect(codes(file({ by: "time", count: 2 }), [...forward.slice(2), ...holdout], true, false)).toEqual([
    "warning empty_fold",
  ]);
  expect(
    codes(
      file({ by: "random", count: 2 }, "binary", { blind: { share: 0.1 } }),
      [...forward, ...holdout],
      false,
      false,
    ),
  ).toEqual(["warning empty_blind"]);
});
