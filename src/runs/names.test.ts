import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";
import fc from "fast-check";
import { residualsQuestion } from "@/core/questions/judged/residuals";
import { segmentsQuestion } from "@/core/questions/judged/segments";
import { HIDDEN_PREFIX, isHidden } from "@/core/names/hidden";
import { quoteIdentifier } from "@/warehouse/postgres/dialect/quote";
import { isNumber } from "@/core/value-type";
import { modelById } from "@/store/models";
import { runRecord } from "@/store/runs";
import { openBench, type Bench } from "../../testing/warehouse";
import { openQueue } from "./queue";
import { executeRun } from "./execute";
import { openJudged } from "./judging/judged-table";
import { judgedRows } from "./judging/judged-rows";
import { segmentsOf } from "./judging/segments";
import { orderOnDemand } from "./on-demand";
import { functionName, publishFunctions } from "./publish";

/** A whole pipeline over a table whose columns are called like every alias and hidden name that the code gives. */
let bench: Bench;
let boss: Awaited<ReturnType<typeof openQueue>>;
beforeAll(async () => {
  bench = await openBench();
  boss = await openQueue(bench.databaseUrl, "sender", () => undefined);
});
afterAll(async () => {
  await boss.stop({ graceful: false, wait: false });
  await bench.close();
});

/** Names that any statement gives, read from the code itself: whatever is added there is tried here. */
function namesInCode(): readonly string[] {
  const files = ["core", "warehouse", "runs"].flatMap((part) =>
    readdirSync(path.join("src", part), { recursive: true, encoding: "utf8" })
      .filter((file) => file.endsWith(".ts") && !file.endsWith(".test.ts"))
      .map((file) => readFileSync(path.join("src", part, file), "utf8")),
  );
  const found = (pattern: RegExp): readonly string[] =>
    files.flatMap((text) => [...text.matchAll(pattern)].map((match) => match[1]!));
  return [
    ...new Set([
      ...found(/\bAS "?([a-z_][a-z_0-9]*)"?/g),
      ...found(/\bAS ([a-z]+)\$\{/g).flatMap((name) => [`${name}0`, `${name}1`]),
      ...found(/\bnumbered\("([a-z]+)"\)/g).flatMap((name) => [`${name}0`, `${name}1`]),
      ...found(/\{ name: "([a-z_]+)", expression/g),
      ...found(/name: `([a-z]+)\$\{/g).flatMap((name) => [`${name}0`, `${name}1`]),
      ...found(/hidden\("([a-z_]+)"\)/g).map((name) => `${HIDDEN_PREFIX}${name}`),
      ...found(/hidden\(`([a-z_]+)\$\{/g).flatMap((name) => [
        `${HIDDEN_PREFIX}${name}0`,
        `${HIDDEN_PREFIX}${name}0_0`,
      ]),
      ...found(/\[((?:\s*"[a-z_]+",?)+)\s*\]\.map\(hidden\)/g).flatMap((list) =>
        [...list.matchAll(/"([a-z_]+)"/g)].map((match) => `${HIDDEN_PREFIX}${match[1]!}`),
      ),
    ]),
  ]
    .filter(
      (name) =>
        !["target", "prediction", "probability", "model_version", "run_id", "run_time"].includes(name),
    )
    .sort();
}

const ROWS = 300;

/** What a column is called in the pipeline. */
const called = (name: string): string => (isHidden(name) ? `source_${name}` : name);

interface Roles {
  readonly key: string;
  readonly group: string;
  readonly weight: string;
  readonly time: string;
  readonly texts: readonly string[];
  readonly numbers: readonly string[];
}

/** Deals names out to roles; a column of 63 bytes is always among them. */
const rolesOf = (names: readonly string[]): fc.Arbitrary<Roles> =>
  fc.shuffledSubarray([...names], { minLength: names.length }).map(([key, group, weight, time, ...rest]) => ({
    key: key!,
    group: group!,
    weight: weight!,
    time: time!,
    texts: rest.slice(0, 6),
    numbers: [...rest.slice(6), "é".repeat(31)],
  }));

async function makeTable(table: string, roles: Roles, answer: string): Promise<void> {
  const value = (name: string, index: number): string =>
    `${index % 3 === 1 ? `CASE WHEN i % ${7 + index} = 0 THEN NULL ELSE sin(i * ${index + 2}.37) END` : `sin(i * ${index + 2}.37)`} AS ${quoteIdentifier(name)}`;
  const columns = [
    `i AS ${quoteIdentifier(roles.key)}`,
    `i % 23 AS ${quoteIdentifier(roles.group)}`,
    `1.0 + i % 3 AS ${quoteIdentifier(roles.weight)}`,
    `timestamptz '2026-05-01 00:00Z' + i * interval '1 hour' AS ${quoteIdentifier(roles.time)}`,
    ...roles.texts.map(
      (name, index) =>
        `(ARRAY['oak', 'elm', NULL, 'fir'])[1 + (i / ${index + 2}) % 4] AS ${quoteIdentifier(name)}`,
    ),
    ...roles.numbers.map(value),
  ];
  await bench.sql(
    `CREATE SCHEMA IF NOT EXISTS names; DROP TABLE IF EXISTS ${table};
     CREATE TABLE ${table} AS SELECT ${columns.join(", ")}, ${answer} AS target FROM generate_series(1, ${ROWS}) i`,
  );
}

const LEARNERS = [
  [
    "logistic_regression",
    "binary",
    "sin(i * 8.37) + sin(i * 9.37) > 0.2 * sin(i * 77)",
    "{missing: mean, ridge: 0.01}",
  ],
  ["linear_regression", "number", "sin(i * 8.37) + 3 * sin(i * 9.37)", "{missing: mean, ridge: 0.01}"],
  [
    "logistic_regression",
    "classes",
    "CASE WHEN sin(i * 8.37) > 0.3 THEN 'w' WHEN sin(i * 9.37) > 0 THEN 'r' ELSE 'y' END",
    "{missing: mean, ridge: 0.01}",
  ],
  ["naive_bayes", "binary", "sin(i * 8.37) + sin(i * 9.37) > 0", "{}"],
  ["nearest_neighbours", "binary", "sin(i * 8.37) + sin(i * 9.37) > 0", "{k: 3, most_rows: 60}"],
  ["neural_network", "binary", "sin(i * 8.37) + sin(i * 9.37) > 0", "{epochs: 1, hidden: [4]}"],
  ["boosted_trees", "classes", "CASE WHEN sin(i * 8.37) > 0.3 THEN 'w' ELSE 'r' END", "{trees: 3}"],
] as const;

/** So many of them ask in statements of many short aliases. */
const RICH = 4;

const all = namesInCode();
/** Every name takes part in one of the pipelines, and the short ones in those whose statements are richest in aliases. */
const dealt = LEARNERS.map((_, place) =>
  all.filter((name, at) => at % LEARNERS.length === place || (place < RICH && name.length <= 2)),
);

test("the code gives names, and they are found", () => {
  expect(all.length).toBeGreaterThan(150);
  expect(all).toEqual(
    expect.arrayContaining(["part", "w", "label", "s0", "ravlen_value_0", "ravlen_output_0", "ravlen_loss"]),
  );
});

test.each(LEARNERS.map((learner, place) => [place, ...learner] as const))(
  "pipeline %i: %s for %s trains, judges, delivers and answers, whatever the columns are called",
  async (place, algorithm, kind, answer, settings) => {
    await fc.assert(
      fc.asyncProperty(rolesOf(dealt[place]!), async (roles) => {
        const [name, table] = [`names-${place}`, `names.t${place}`];
        await makeTable(table, roles, answer);
        const [first, second] = roles.texts.map(called);
        const [one, two, three] = roles.numbers.slice(-4).map(called);
        const quoted = (names: readonly (string | undefined)[]): string =>
          `[${names.map((name) => JSON.stringify(name)).join(", ")}]`;
        await bench.save(`ravlen: 1
name: ${name}
strands:
  - name: rows
    from: ${table}
    steps:
      - {do: fill, columns: ${quoted([one])}, with: median, by: ${quoted([first])}}
      - {do: baseline, columns: ${quoted([two])}, entity: ${quoted([second])}, least_rows: 3}
      - {do: scale, columns: ${quoted([three])}, method: standard}
      ${kind === "classes" ? "" : `- {do: target_mean, columns: ${quoted([first])}, smoothing: 5}`}
      - {do: encode, columns: ${quoted([second])}, unseen: other}
roles:
  key: ${quoted([called(roles.key)])}
  target: {column: target, kind: ${kind}}
  group: ${JSON.stringify(called(roles.group))}
  weight: ${JSON.stringify(called(roles.weight))}
  time: ${JSON.stringify(called(roles.time))}
rows: {from: rows, train: "true", score: "true"}
holdout: {by: group, share: 0.3, seed: 4}
folds: {count: 2}
candidates: [{name: c, algorithm: ${algorithm}, settings: ${settings}}]
delivery: [{name: desk, table: predictions.n${place}, columns: ${quoted([one])}, contract: {otherwise: warn, all_unseen: warn}}]
functions: {grant_to: []}
`);
        const trained = await bench.run("train", name);
        expect(trained.problems).toEqual([]);
        const model = (await modelById(bench.context.store.db, trained.modelId!))!;
        await bench.context.store.pool.query("UPDATE pipelines SET in_service_model_id = $1 WHERE id = $2", [
          model.id,
          model.pipelineId,
        ]);
        // Judging: rows, segments and residuals by every column that people know.
        const judged = await openJudged(bench.context, model.id);
        const known = [...roles.texts, ...roles.numbers, roles.time].map(called);
        const shown = judged.columns.map((column) => column.name);
        expect(shown).toEqual(expect.arrayContaining(known.filter((text) => text !== second)));
        expect(
          (await judgedRows(bench.context.warehouse, judged, "wrong", undefined, 0, 5)).rows,
        ).toHaveLength(5);
        const { warehouse } = bench.context;
        for (const { name: column, type } of judged.columns) {
          for (const edges of isNumber(type) ? [[0, 0.5], undefined] : [undefined])
            await warehouse.ask(segmentsQuestion(judged, { name: column, type, edges }, judged, 9));
          await warehouse.ask(residualsQuestion(judged, { name: column, type }));
        }
        const { segments } = await segmentsOf(warehouse, judged, first!);
        expect(segments.reduce((sum, segment) => sum + segment.rows, 0)).toBe(model.judgement!.rows);
        // Deliveries, drift, and earlier predictions against the answers.
        for (const hour of [1, 2]) {
          const run = await bench.run("score", name, { at: new Date(`2026-06-30T1${hour}:00:00Z`) });
          expect(run).toMatchObject({ state: "done", rows: ROWS, problems: [] });
          const { steps } = await runRecord(bench.context.store.db, run.id);
          const truth = steps.find((step) => step.name === "compare earlier predictions with actuals")!;
          expect(truth.detail).toMatch(new RegExp(`^${ROWS} actuals for ${ROWS} predictions`));
        }
        await askFunctions(name, model.id, called(roles.key));
        const ordered = await orderOnDemand(bench.context, boss, {
          pipeline: name,
          table,
          into: `predictions.chosen_${place}`,
          cause: "hand",
          columns: [one!],
        });
        if (!ordered.ok) throw new Error(ordered.problems[0]?.message);
        await executeRun(bench.context, ordered.value.id, "test");
        const [same] = await bench.sql(
          `SELECT count(*)::int AS rows, bool_and(c.prediction = p.prediction) AS equal FROM predictions.chosen_${place} c JOIN predictions.n${place} p USING (${quoteIdentifier(called(roles.key))})`,
        );
        expect(same).toEqual({ rows: ROWS, equal: true });
      }),
      { numRuns: 1 },
    );
  },
);

/** The functions say what was delivered. */
async function askFunctions(pipeline: string, modelId: number, key: string): Promise<void> {
  await publishFunctions(bench.context, modelId);
  const table = pipeline.replace("names-", "predictions.n");
  const [same] = await bench.sql(
    `SELECT count(*)::int AS rows, bool_and(f.prediction = p.prediction) AS equal FROM predictions.${functionName(pipeline)}_rows() f JOIN ${table} p USING (${quoteIdentifier(key)})`,
  );
  expect(same).toEqual({ rows: ROWS, equal: true });
}
