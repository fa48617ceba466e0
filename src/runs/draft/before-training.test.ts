import { mendObstacle } from "@/core/pipeline/edit/mend";
import type { Obstacle } from "@/core/plan/obstacles";
import { unwrap } from "@/core/problem";
import { adviceIn } from "../../../testing/advice/scan";
import { openBench, type Bench } from "../../../testing/warehouse";
import { beforeTraining } from "./before-training";
import { openDraft } from "./survey";

/** What is said of the training rows beforehand is what a training then says; what mends it lets the training pass. */
let bench: Bench;
const GAPS = 320;
const names = Array.from({ length: GAPS }, (_, place) => `reading_${place}`);
beforeAll(async () => {
  bench = await openBench();
  const columns = names
    .map((name, place) => `CASE WHEN (id + ${place}) % 11 <> 0 THEN sin(id * ${place + 1}) END AS ${name}`)
    .join(", ");
  await bench.sql(
    `CREATE SCHEMA lab; CREATE TABLE lab.wide AS SELECT id, ${columns}, CASE WHEN id % 7 <> 0 THEN id % 2 = 0 END AS open, 3 AS same, NULL::float8 AS hollow, 'note ' || id AS remark, CASE WHEN id % 3 <> 0 THEN 'only' END AS word, CASE WHEN id <= 350 THEN sin(id * 0.7) > 0 END AS answer, cos(id) AS even FROM generate_series(1, 400) id; ALTER TABLE lab.wide ADD PRIMARY KEY (id)`,
  );
});
afterAll(() => bench.close());

const fileOf = (name: string, candidates: string, more = ""): string => `ravlen: 1
name: ${name}
strands: [{name: rows, from: lab.wide, steps: []}]
roles: {key: [id], target: {column: answer, kind: binary}${more}}
rows: {from: rows}
holdout: {share: 0.2, seed: 3}
candidates: ${candidates}
`;
const LOGISTIC = "{name: straight, algorithm: logistic_regression, settings: {ridge: 1, most_levels: 40}}";
const TREES = "{name: trees, algorithm: boosted_trees, settings: {trees: 3, most_levels: 1000}}";

async function ahead(text: string): Promise<readonly Obstacle[]> {
  const { plan, survey } = await openDraft(text, bench.context.warehouse);
  expect(survey.problems.filter(({ severity }) => severity === "error")).toEqual([]);
  return beforeTraining(plan!, bench.context.warehouse, "2026-06-02T00:00:00.000Z");
}

test("gaps, constants and texts are each one sentence with a count, before anything is trained; one step mends all of a kind", async () => {
  const text = fileOf("wide", `[${LOGISTIC}, ${TREES}]`);
  const found = await ahead(text);
  const said = new Map(found.map((obstacle) => [obstacle.problem.code, obstacle]));
  expect(found.map(({ problem }) => problem.code)).toEqual([
    "feature_missing",
    "too_many_levels",
    "constant_feature",
    "constant_feature",
  ]);
  const gaps = said.get("feature_missing")!;
  const trained = await bench.sql("SELECT count(*)::int AS n FROM lab.wide WHERE answer IS NOT NULL");
  expect(Number(trained[0]!["n"])).toBe(350);
  expect(gaps.problem.message).toMatch(
    /^321 features have missing values in the 2\d\d training rows: "reading_0" \(\d+\), "reading_1" \(\d+\), "reading_2" \(\d+\), "reading_3" \(\d+\), "reading_4" \(\d+\) and 316 more\.$/,
  );
  expect(gaps.candidates).toEqual(["straight"]);
  expect(gaps.mend).toEqual({ kind: "fill", medians: names, frequent: ["open"] });
  expect(said.get("too_many_levels")!.candidates).toEqual(["straight"]);
  expect(said.get("too_many_levels")!.problem.message).toContain('"remark"');
  expect(found.slice(2).map(({ problem }) => problem.message)).toEqual([
    'The feature "hollow" has no value in the training rows.',
    'The feature "same" has a single value in the training rows.',
  ]);
  // As it is, training says the same in one sentence, whichever comes first.
  await bench.save(text.replace("most_levels: 40", "most_levels: 1000"));
  const refused = await bench.run("train", "wide", { candidate: "straight" });
  expect(refused.problems.map(({ code, message }) => ({ code, message }))).toEqual([
    { code: "feature_missing", message: gaps.problem.message },
  ]);
  // Mended, nothing is left to say, and it trains.
  const mended = found.reduce((now, { mend }) => unwrap(mendObstacle(now, mend!)), text);
  expect(await ahead(mended)).toEqual([]);
  await bench.save(mended);
  expect((await bench.run("train", "wide", { candidate: "straight" })).problems).toEqual([]);
});

test("a learner that takes gaps is not warned of them, and columns that are excluded are not looked at", async () => {
  expect((await ahead(fileOf("trees", `[${TREES}]`))).map(({ problem }) => problem.code)).toEqual([
    "constant_feature",
    "constant_feature",
  ]);
  const without =
    ", exclude: [{column: same, because: no}, {column: hollow, because: no}, {column: remark, because: no}]";
  expect(await ahead(fileOf("without", `[${TREES}]`, without))).toEqual([]);
});

const ONLY_NUMBERS =
  ", exclude: [{column: same, because: no}, {column: hollow, because: no}, {column: remark, because: no}, {column: word, because: no}]";
const plain = (change: (text: string) => string = (text) => text): string =>
  change(fileOf("advised", `[${TREES}]`, ONLY_NUMBERS));
const withStep = (step: string): ((text: string) => string) => {
  return (text) => text.replace("steps: []", `steps: [${step}]`);
};
const withCandidate = (candidate: string): ((text: string) => string) => {
  return (text) => text.replace(TREES, candidate);
};
const withTarget = (target: string): ((text: string) => string) => {
  return (text) => text.replace("{column: answer, kind: binary}", target);
};
const CLASSES = withTarget("{column: remark, kind: classes}");
const MANY_CLASSES = CLASSES(plain()).replace("{column: remark, because: no}, ", "");
const WORDY = plain().replace("{column: remark, because: no}, ", "");
const EMPTY = plain().replace("{column: hollow, because: no}, ", "");

/** The advice, the mistake, and what becomes of the file by following the advice. */
const ADVICE: readonly (readonly [advice: string, wrong: string, ...rights: string[]])[] = [
  [
    "Check the condition for training rows, and the holdout.",
    plain((text) => text.replace("{from: rows}", "{from: rows, train: id > 9000}")),
    plain(),
  ],
  [
    "Restrict the training rows to those with a target.",
    plain((text) => text.replace("{from: rows}", "{from: rows, train: id > 0}")),
    plain(),
  ],
  [
    "Check the target, and the condition for training rows.",
    plain((text) => text.replace("{from: rows}", "{from: rows, train: answer}")),
    plain(),
  ],
  [
    "Group rare ones in an earlier step, or predict a number.",
    MANY_CLASSES,
    withStep('{do: derive, columns: {remark: "left(remark, 6)"}}')(MANY_CLASSES),
    withTarget("{column: even, kind: number}")(plain()),
  ],
  [
    "Fill the missing values, or set missing: mean in the candidate's settings.",
    withCandidate("{name: straight, algorithm: logistic_regression}")(plain()),
    withCandidate("{name: straight, algorithm: logistic_regression, settings: {missing: mean}}")(plain()),
  ],
  [
    "Exclude names and comments, group rare values, or use a text terms step.",
    withCandidate(TREES.replace("1000", "50"))(WORDY),
    plain(),
    withStep("{do: group_rare, columns: [remark], most: 5}")(
      withCandidate(TREES.replace("1000", "50"))(WORDY),
    ),
    withStep("{do: text_terms, column: remark}")(withCandidate(TREES.replace("1000", "50"))(WORDY)),
  ],
  [
    "Algorithms ignore such features. Exclude them, or find out why they do not vary.",
    EMPTY,
    plain(),
    withStep("{do: derive, columns: {hollow: id % 4}}")(EMPTY),
  ],
];

test.each(ADVICE)("who follows “%s” gets rid of it", async (advice, wrong, ...rights) => {
  expect((await ahead(wrong)).map(({ problem }) => problem.hint)).toContain(advice);
  for (const right of rights)
    expect((await ahead(right)).map(({ problem }) => problem.hint)).not.toContain(advice);
});

test("no advice about training rows is left untried", () => {
  const tried = ADVICE.map(([advice]) => advice);
  const left = adviceIn(["src/core/plan/obstacles.ts"]).filter(
    ({ pattern }) => !tried.some((advice) => pattern.test(advice)),
  );
  expect(left.map(({ place, text }) => `${place} ${text}`)).toEqual([]);
});

test("an answer with a single value, or too many classes, is said", async () => {
  await bench.sql(
    "CREATE TABLE lab.one AS SELECT id, sin(id) AS x, true AS answer, 'k' || id AS kind FROM generate_series(1, 300) id; ALTER TABLE lab.one ADD PRIMARY KEY (id)",
  );
  const text = (target: string): string =>
    fileOf("one", `[${TREES}]`)
      .replace("lab.wide", "lab.one")
      .replace("{column: answer, kind: binary}", target);
  const codes = async (target: string): Promise<readonly string[]> =>
    (await ahead(text(target))).map(({ problem }) => problem.code);
  expect(await codes("{column: answer, kind: binary}")).toEqual(["one_class"]);
  expect(await codes("{column: kind, kind: classes}")).toEqual(["too_many_classes", "constant_feature"]);
});
