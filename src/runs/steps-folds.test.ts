import { unwrap } from "@/core/problem";
import { baseRelation, learnRelations, prepared } from "@/core/plan/frame";
import type { CheckedPlan } from "@/core/plan/plan";
import { printRelation } from "@/warehouse/postgres/dialect/relation";
import type { Relation } from "@/core/relation/relation";
import { openStepBench, SOURCE, stepFile, type StepBench } from "../../testing/step-bench";
import { TEST_NOW } from "../../testing/warehouse";
import { checkText } from "./check-file";
import { learnedByFold } from "./draft/folds";
import { UNBUILT_BASE, withBase } from "@/core/plan/unbuilt-base";
import { learnedUpTo } from "./draft/preview";

const FOLDS = 5;
/** The step under test stands behind the one that makes the target. */
const POSITION = 1;
let own: StepBench;
/** Keys of training rows by fold, from a statement of the same hash written by hand. */
let folds: readonly (readonly number[])[];

beforeAll(async () => {
  own = await openStepBench();
  const rows = await own.bench.sql(
    `SELECT "Nr" AS nr, floor(('x' || substr(md5('3' || chr(31) || "Nr"::text), 17, 8))::bit(32)::bigint / 4294967296.0 * ${FOLDS})::int AS fold FROM ${SOURCE} WHERE "Nr" % 2 = 0`,
  );
  folds = Array.from({ length: FOLDS }, (_, fold) =>
    rows.filter((row) => row["fold"] === fold).map((row) => Number(row["nr"])),
  );
});
afterAll(() => own.bench.close());

const plan = async (text: string): Promise<CheckedPlan> =>
  unwrap(await checkText(text, own.bench.context.warehouse));

test.each([
  ["fill by median", '{do: fill, columns: ["Größe (mm)", stück, leer], with: median}'],
  ["fill by group", '{do: fill, columns: ["Größe (mm)"], with: mean, by: [stück]}'],
  ["fill by the most frequent", "{do: fill, columns: [art], with: most_frequent}"],
  ["scale", '{do: scale, columns: ["Größe (mm)"], method: standard}'],
  ["scale by range", '{do: scale, columns: ["Größe (mm)"], method: min_max}'],
  ["scale robustly", '{do: scale, columns: ["Größe (mm)"], method: robust}'],
  ["clip at quantiles", '{do: clip, columns: ["Größe (mm)"], low: {quantile: 0.2}, high: {quantile: 0.8}}'],
  ["equal-width bins", '{do: bin, columns: ["Größe (mm)"], at: {equal_width: 3}}'],
  ["bins by quantiles", '{do: bin, columns: ["Größe (mm)"], at: {quantiles: 3}}'],
  ["baseline", '{do: baseline, columns: ["Größe (mm)"], entity: [stück], least_rows: 2}'],
  [
    "baseline by median",
    '{do: baseline, columns: ["Größe (mm)"], entity: [stück], centre: median, spread: quartiles, least_rows: 1}',
  ],
  ["encode", "{do: encode, columns: [art]}"],
  ["ordinal by frequency", "{do: ordinal, columns: [art], order: frequency}"],
  ["frequency", "{do: frequency, columns: [art]}"],
  ["mean answer", "{do: target_mean, columns: [art], smoothing: 2}"],
  ["group rare", "{do: group_rare, columns: [art], least_rows: 3}"],
  ["terms of a text", "{do: text_terms, column: art, least_texts: 1}"],
])("%s learns in each fold what it would learn were the fold's rows not there", async (_what, step) => {
  const text = stepFile(`- ${step}`);
  const { warehouse } = own.bench.context;
  const time = TEST_NOW.toISOString();
  const learned = await learnedByFold(await plan(text), warehouse, POSITION, time);
  expect(learned).toHaveLength(FOLDS);
  for (const [fold, keys] of folds.entries()) {
    const without = text.replace(
      `train: '"Nr" % 2 = 0'`,
      `train: '"Nr" % 2 = 0 and "Nr" not in (${[...keys, -1].join(", ")})'`,
    );
    expect(without).not.toBe(text);
    const alone = await learnedUpTo(await plan(without), warehouse, POSITION + 1, time);
    expect(learned[fold]).toEqual(alone[String(POSITION)]);
  }
});

test("rows that are judged in a fold have the mean over all rows learned from, as scoring has it", async () => {
  const fold = { fold: 1, forward: false };
  const found = await plan(
    stepFile("- {do: target_mean, columns: [stück], smoothing: 2, folds: 5, keep: true}"),
  );
  const base = { ...UNBUILT_BASE, folds: true };
  const print = (relation: Relation): string =>
    printRelation(withBase(relation, baseRelation(found, true)), { runTime: TEST_NOW.toISOString() });
  const answers = await Promise.all(
    learnRelations(found, POSITION, {}, base, fold).map((asked) => own.bench.sql(print(asked))),
  );
  const learned = { [String(POSITION)]: found.main.steps[POSITION]!.step.learned(answers) };
  const rows = await own.bench.sql(print(prepared(found, learned, { base, folds: true, leftOut: fold })));
  const judged = rows.filter((row) => folds[1]!.includes(Number(row["Nr"])));
  expect(judged.length).toBeGreaterThan(2);
  const mean = await own.bench.sql(
    `SELECT stück, avg(ja::int)::float8 AS mean, sum(ja::int)::float8 AS sum, count(*)::float8 AS rows FROM ${SOURCE}
     WHERE "Nr" % 2 = 0 AND NOT ("Nr" = ANY (ARRAY[${folds[1]!.join(", ")}])) GROUP BY GROUPING SETS ((stück), ())`,
  );
  const all = mean.reduce((left, right) => (Number(left["rows"]) > Number(right["rows"]) ? left : right));
  for (const row of judged) {
    const own = mean.find((group) => group !== all && group["stück"] === row["stück"]);
    const expected = (Number(own?.["sum"] ?? 0) + 2 * Number(all["mean"])) / (Number(own?.["rows"] ?? 0) + 2);
    expect(Number(row["stück_mean"])).toBeCloseTo(expected, 12);
  }
});
