import { describeProblem } from "@/core/problem";
import { runRecord } from "@/store/runs";
import { adviceIn } from "../../../testing/advice/scan";
import { TRAINING_ADVICE } from "../../../testing/advice/trainings";
import { trialFile, type Trial } from "../../../testing/advice/trial";
import { labTable } from "../../../testing/lab";
import { openBench, type Bench } from "../../../testing/warehouse";

/** What trainings advise, followed: a mistake is told with what to do, and who does it has a version. */
let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable({ rows: 600 }));
  await bench.sql(`CREATE TABLE lab.odd AS SELECT *, CASE WHEN id % 10 = 1 THEN NULL ELSE x1 END AS gap, CASE WHEN id % 50 = 11 THEN 'Infinity'::float8 ELSE x1 END AS endless,
      2 * x1 - coalesce(x2, 0) + 7 AS sum_of_others, 'n' || id AS label, 5 AS same, 3 * x1 + u AS level, CASE WHEN id % 50 = 11 THEN 'Infinity'::float8 ELSE x1 END AS far, x1 > 0.5 AS beyond,
      (ARRAY['a', 'b', 'c'])[1 + (id % 3)] AS kind, CASE WHEN id % 50 = 11 THEN -1 ELSE 1 END AS heft, 0 AS nothing, CASE WHEN x1 > 0 THEN 1 ELSE 0 END AS one_sided, 'k' || id % 300 AS many, id / 2 AS half,
      CASE WHEN u < 0.5 THEN 'yes' ELSE 'no' END AS word, coalesce(x2, 1) AS x3, CASE WHEN cat = 'fir' THEN true ELSE u < 0.4 END AS firm
    FROM (SELECT *, (('x' || substr(md5(id::text || 'u'), 1, 8))::bit(32)::bigint / 4294967296.0)::float8 AS u FROM lab.rows) AS drawn; ALTER TABLE lab.odd ADD PRIMARY KEY (id);
    CREATE TABLE lab.empty (LIKE lab.odd); CREATE TABLE lab.later AS SELECT * FROM lab.odd WHERE id % 3 = 0`);
});
afterAll(() => bench.close());

/** Everything that a training of the file says, and whether it has a version. */
async function toldBy(trial: Trial, name: string): Promise<{ lines: readonly string[]; state: string }> {
  await bench.save(trialFile(name, trial));
  const run = await bench.run("train", name);
  const { log } = await runRecord(bench.context.store.db, run.id);
  return {
    state: run.state,
    lines: [
      ...run.problems.map(describeProblem),
      ...log.filter((line) => line.level === "warning").map((line) => line.message),
    ],
  };
}

/**
 * What the check of the file says before a training could, and a guard of the arithmetic that no setting in its bounds was found to
 * reach.
 */
const NEVER_GIVEN = /Set engine: streaming|Add roles|Lower learning_rate/;
const given: string[] = [];
test.each(TRAINING_ADVICE.map(([advice], index) => [advice, index] as const))(
  "%s (%i)",
  async (advice, index) => {
    const [, wrong, ...rights] = TRAINING_ADVICE[index]!;
    const told = await toldBy(wrong, `wrong-${index}`);
    expect(told.lines.join("\n")).toContain(advice);
    given.push(advice);
    for (const [way, right] of rights.entries()) {
      const followed = await toldBy(right, `right-${index}-${way}`);
      expect(followed.state).toBe("done");
      expect(followed.lines.join("\n")).not.toContain(advice);
    }
  },
);

test("no advice of a training is left untried", () => {
  const untried = adviceIn([
    "src/core/learn",
    "src/core/plan/filled-parts.ts",
    "src/core/steps/finite-only.ts",
    "src/core/steps/text-terms.ts",
    "src/runs/training/prepare.ts",
  ])
    .filter(({ text }) => !NEVER_GIVEN.test(text))
    .filter(({ pattern }) => !given.some((advice) => pattern.test(advice)));
  expect(untried.map(({ place, text }) => `${place} ${text}`)).toEqual([]);
});
