import { findTable } from "@/core/plan/catalog";
import { parseTableName } from "@/core/pipeline/table-name";
import { unwrap, type Problem } from "@/core/problem";
import { listAlerts } from "@/store/alerts";
import { listModels, modelById } from "@/store/models";
import { findPipeline, newestVersion } from "@/store/pipelines";
import { listBehind } from "@/store/publications";
import { readCatalog } from "@/warehouse/catalog";
import { adviceIn } from "../../testing/advice/scan";
import { Situations, type Situation } from "../../testing/advice/situation";
import { labFile, labTable, type LabFileOptions } from "../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";
import { orderBackfill } from "./backfill";
import { checkText } from "./check-file";
import { valuesOf } from "./draft/columns";
import { diagnoseJoin } from "./draft/diagnose-join";
import { tableSource } from "./export/sources";
import { orderOnDemand } from "./on-demand";
import { fillOnDemand, openOnDemand } from "./on-demand-plan";
import { openQueue, orderRun } from "./queue";
import { reconcileFunctions } from "./reconcile";
import { saveFile } from "./save-file";
import { startDueRuns } from "./schedule";
import { putInService, retire, takeBack } from "./service";

/** What ordering, saving and serving advise, followed: whoever does it gets what they asked for. */
let bench: Bench;
let boss: Awaited<ReturnType<typeof openQueue>>;
beforeAll(async () => {
  bench = await openBench();
  boss = await openQueue(bench.databaseUrl, "sender", () => undefined);
  await bench.sql(labTable({ rows: 600 }));
  await bench.sql(`CREATE TABLE lab.labelled AS SELECT *, 'n' || id AS label FROM lab.rows;
    CREATE TABLE lab.spotted AS SELECT *, CASE WHEN id % 3 > 0 THEN point(1, id) END AS spot FROM lab.rows;
    CREATE TABLE lab.sites AS SELECT DISTINCT site, site * 2 AS size FROM lab.rows;
    DO $$ BEGIN CREATE ROLE advised_desk; CREATE ROLE advised_clerk; EXCEPTION WHEN duplicate_object THEN NULL; END $$`);
  await bench.save(ready("ready"));
  await bench.train("ready");
});
afterAll(async () => {
  await boss.stop({ graceful: false, wait: false });
  await bench.close();
});

/** A file that delivers into a table of its own. */
const ready = (name: string, more: LabFileOptions = {}): string =>
  labFile({ name, delivery: `{name: desk, table: predictions.${name}, mode: upsert}`, ...more });
const saving =
  (name: string, more: LabFileOptions = {}, options: Parameters<typeof saveFile>[2] = {}) =>
  () =>
    saveFile(bench.context, ready(name, more), options);
const first =
  (...works: readonly (() => Promise<unknown>)[]) =>
  async (): Promise<unknown> => {
    let last: unknown;
    for (const work of works) last = await work();
    return last;
  };
const training = (name: string) => () => bench.train(name);
const sql = (text: string) => () => bench.sql(text);

const ordering = (pipeline: string) => () =>
  orderRun(bench.context, boss, { kind: "score", pipeline, cause: "hand" });
const MAY = { from: new Date("2026-05-01T00:00:00Z"), until: new Date("2026-05-03T00:00:00Z") };
const backfilling =
  (more: Partial<Parameters<typeof orderBackfill>[1]> = {}) =>
  () =>
    orderBackfill(bench.context, { pipeline: "ready", parallel: 1, ...MAY, ...more });
const onDemand =
  (more: Partial<Parameters<typeof orderOnDemand>[2]> = {}) =>
  () =>
    orderOnDemand(bench.context, boss, { pipeline: "ready", table: "lab.rows", cause: "hand", ...more });

/** What is said of the answer that a table chosen on demand has. */
const unread = (name: string) => async (): Promise<{ readonly problems: readonly Problem[] }> => {
  const model = (await modelById(bench.context.store.db, await version("ready", 1)))!;
  const opened = await openOnDemand(bench.context, model, {
    table: name,
    into: "predictions.any",
    columns: [],
  });
  const table = findTable(await readCatalog(bench.context.warehouse), parseTableName(name)!)!;
  const { unread: found } = unwrap(fillOnDemand(opened, table));
  return { problems: found ? [found] : [] };
};

const version = async (pipeline: string, number: number): Promise<number> => {
  const { db } = bench.context.store;
  const found = await listModels(db, (await findPipeline(db, pipeline))!.id);
  return found.find((model) => model.number === number)!.id;
};
const serving = (pipeline: string, number: number) => async () =>
  putInService(bench.context, await version(pipeline, number), {});
const retiring = (pipeline: string, number: number) => async () =>
  retire(bench.context, await version(pipeline, number));
const takingBack = (pipeline: string, number: number) => async () =>
  takeBack(bench.context, await version(pipeline, number));

/** Looks at what is due, and gives what the alerts that stay open say. */
const due = (minutes: number) => async (): Promise<{ readonly problems: readonly Problem[] }> => {
  const now = () => Promise.resolve(new Date(TEST_NOW.getTime() + minutes * 60_000));
  await startDueRuns({ ...bench.context, now }, boss);
  const alerts = await listAlerts(bench.context.store.db, 24);
  return { problems: alerts.filter((alert) => alert.clearedAt === null).flatMap((alert) => alert.problems) };
};
const scheduled = (schedule: string): LabFileOptions => ({
  more: `schedules: [{name: waits, run: train, ${schedule}}]`,
});

const checking = (more: LabFileOptions) => () => checkText(ready("checked", more), bench.context.warehouse);
const planOf = async (more: LabFileOptions) =>
  unwrap(await checkText(ready("drafted", more).replace("strands:", SITES), bench.context.warehouse));
const valuesIn = (steps: string, after: number, column: string) => async () => {
  const plan = await planOf({ steps, from: "lab.labelled" });
  return valuesOf(plan, bench.context.warehouse, "rows", after, TEST_NOW.toISOString(), column);
};
const diagnosing = (after: number) => async () => {
  const plan = await planOf({ steps: "- {do: join, with: sites, on: {site: site}}" });
  return diagnoseJoin(plan, bench.context.warehouse, "rows", after, TEST_NOW.toISOString());
};
const SITES = "strands:\n  - {name: sites, from: lab.sites}";

const placed = (name: string, before: string, column: string) => () =>
  bench.save(
    ready(name, {
      ...FUNCTIONS,
      from: "lab.spotted",
      steps: `- {do: derive, columns: {placed: ${column} is not null}}\n- {do: drop, columns: [${column}]}`,
    }).replace("      - {do: fill", `${before}      - {do: fill`),
  );

const FUNCTIONS: LabFileOptions = { more: "functions: {}" };
const foreign = (name: string): string =>
  `CREATE FUNCTION predictions.predict_${name}() RETURNS integer LANGUAGE sql AS 'SELECT 1'; ALTER FUNCTION predictions.predict_${name}() OWNER TO "${bench.warehouseName}_writer"`;
const LARGE: LabFileOptions = { ...FUNCTIONS, settings: "{trees: 500, least_rows: 1, depth: 20}" };
const forest = (name: string, more: LabFileOptions): string =>
  ready(name, more).replace("logistic_regression", "random_forest");

const SITUATIONS: readonly Situation[] = [
  {
    advice: "Save its file first: ./ravlen save FILE.",
    mistake: ordering("unsaved"),
    remedies: [first(saving("unsaved"), training("unsaved"), ordering("unsaved"))],
  },
  {
    advice: "Save its file first: ./ravlen save FILE.",
    mistake: backfilling({ pipeline: "unfilled" }),
    remedies: [first(saving("unfilled"), training("unfilled"), backfilling({ pipeline: "unfilled" }))],
  },
  {
    advice: "Train, look at the result, and put the version in service.",
    mistake: first(saving("idle"), ordering("idle")),
    remedies: [first(training("idle"), ordering("idle"))],
  },
  {
    advice: "Train, look at the result, and put the version in service.",
    mistake: first(saving("idle_days"), backfilling({ pipeline: "idle_days" })),
    remedies: [first(training("idle_days"), backfilling({ pipeline: "idle_days" }))],
  },
  {
    advice: "Train, look at the result, and put the version in service.",
    mistake: first(saving("idle_rows"), onDemand({ pipeline: "idle_rows" })),
    remedies: [first(training("idle_rows"), onDemand({ pipeline: "idle_rows" }))],
  },
  {
    advice: "Train, look at the result, and put the version in service.",
    mistake: first(saving("idle_run"), () => bench.run("score", "idle_run")),
    remedies: [first(training("idle_run"), () => bench.run("score", "idle_run"))],
  },
  {
    advice: "Add one under delivery.",
    mistake: backfilling({ delivery: "night" }),
    remedies: [
      first(
        saving("ready", { delivery: "{name: night, table: predictions.ready, mode: upsert}" }),
        backfilling({ delivery: "night" }),
      ),
    ],
  },
  {
    advice: "Choose a first time that is not after the last.",
    mistake: backfilling({ from: MAY.until, until: MAY.from }),
    remedies: [backfilling()],
  },
  {
    advice: "Choose a last time up to now, 2026-06-30T12:00:00.000Z.",
    mistake: backfilling({ until: new Date("2026-07-02T00:00:00Z") }),
    remedies: [backfilling({ until: new Date("2026-06-30T12:00:00.000Z") })],
  },
  {
    advice:
      "Write five fields (minute, hour, day of month, month, day of week), and a zone such as Europe/Lisbon.",
    mistake: backfilling({ cron: "daily" }),
    remedies: [backfilling({ cron: "15 2 * * *", zone: "Europe/Lisbon" })],
  },
  {
    advice: "Widen it.",
    mistake: backfilling({ cron: "0 0 9 * *" }),
    remedies: [backfilling({ cron: "0 0 9 * *", until: new Date("2026-05-10T00:00:00Z") })],
  },
  {
    advice: "Narrow it, or let it run less often.",
    mistake: backfilling({ cron: "* * * * *", until: new Date("2026-05-06T00:00:00Z") }),
    remedies: [
      backfilling({ cron: "* * * * *", until: new Date("2026-05-01T01:00:00Z") }),
      backfilling({ cron: "0 * * * *", until: new Date("2026-05-06T00:00:00Z") }),
    ],
  },
  {
    advice: "Write predictions.NAME.",
    mistake: onDemand({ into: "lab.scored" }),
    remedies: [onDemand({ into: "predictions.scored" })],
  },
  {
    advice: "Choose another name; rows on demand get a table of their own.",
    mistake: first(sql("CREATE TABLE predictions.taken (id int)"), onDemand({ into: "predictions.taken" })),
    remedies: [onDemand({ into: "predictions.taken_too" })],
  },
  {
    advice: "Write schema.table.",
    mistake: onDemand({ table: "rows" }),
    remedies: [onDemand({ table: "lab.rows" })],
  },
  {
    advice: "Rows to score need id, x1, x2, cat",
    mistake: first(
      sql("CREATE TABLE lab.narrow AS SELECT id, x1 FROM lab.rows"),
      onDemand({ table: "lab.narrow" }),
    ),
    remedies: [
      first(
        sql("CREATE TABLE lab.enough AS SELECT id, x1, x2, cat, seen, site, answer FROM lab.rows"),
        onDemand({ table: "lab.enough" }),
      ),
    ],
  },
  {
    advice: "Make the table with the types of the training, or load the file with them.",
    mistake: first(
      sql("CREATE TABLE lab.retyped AS SELECT * FROM lab.rows; ALTER TABLE lab.retyped ALTER x1 TYPE text"),
      onDemand({ table: "lab.retyped" }),
    ),
    remedies: [
      first(
        sql("ALTER TABLE lab.retyped ALTER x1 TYPE float8 USING x1::float8"),
        onDemand({ table: "lab.retyped" }),
      ),
    ],
  },
  {
    advice: "Make the table with the types of the training.",
    mistake: first(
      sql(
        "CREATE TABLE lab.answered AS SELECT * FROM lab.rows; ALTER TABLE lab.answered ALTER answer TYPE text",
      ),
      unread("lab.answered"),
    ),
    remedies: [
      first(
        sql("ALTER TABLE lab.answered ALTER answer TYPE boolean USING answer::boolean"),
        unread("lab.answered"),
      ),
    ],
  },
  {
    advice: "Keep the name, or make a new pipeline from the list of pipelines.",
    mistake: saving("renamed", {}, { expectedName: "ready" }),
    remedies: [saving("ready", {}, { expectedName: "ready" }), saving("renamed")],
  },
  {
    advice: "Copy your text, open the newest version and put your change in there.",
    mistake: first(
      saving("shared"),
      saving("shared", { holdout: "{share: 0.3}" }),
      saving("shared", { settings: "{ridge: 0.1}" }, { basedOn: 1 }),
    ),
    remedies: [saving("shared", { holdout: "{share: 0.3}", settings: "{ridge: 0.1}" }, { basedOn: 2 })],
  },
  {
    advice: "Mend that. They are tried again every minute, and Health says so until they agree.",
    mistake: first(
      saving("behind"),
      training("behind"),
      written(() => foreign("behind")),
      saving("behind", FUNCTIONS),
    ),
    remedies: [
      async () => {
        await bench.sql("DROP FUNCTION predictions.predict_behind()");
        await reconcileFunctions(bench.context);
        expect(await listBehind(bench.context.store.db)).toEqual([]);
        const { id } = (await findPipeline(bench.context.store.db, "behind"))!;
        expect((await newestVersion(bench.context.store.db, id))!.number).toBe(2);
      },
    ],
  },
  {
    advice: "Take it back first, or train again.",
    mistake: first(
      saving("retired"),
      training("retired"),
      training("retired"),
      retiring("retired", 1),
      serving("retired", 1),
    ),
    remedies: [
      first(takingBack("retired", 1), serving("retired", 1)),
      first(training("retired"), serving("retired", 3)),
    ],
  },
  {
    advice: "Put another version in service first.",
    mistake: first(saving("served"), training("served"), training("served"), retiring("served", 2)),
    remedies: [first(serving("served", 1), retiring("served", 2))],
  },
  {
    advice: "Rename it, or the pipeline. Nothing was changed.",
    mistake: first(
      saving("named", FUNCTIONS),
      written(() => foreign("named")),
      training("named"),
      serving("named", 1),
    ),
    remedies: [
      first(sql("ALTER FUNCTION predictions.predict_named() RENAME TO mine"), serving("named", 1)),
      first(saving("named_else", FUNCTIONS), training("named_else"), serving("named_else", 1)),
    ],
  },
  {
    advice: 'Have its owner run GRANT USAGE ON SCHEMA "predictions" TO "advised_desk"; and publish again.',
    mistake: first(
      saving("granted", { more: "functions: {grant_to: [advised_desk]}" }),
      training("granted"),
      sql("ALTER SCHEMA predictions OWNER TO advised_clerk"),
      written(() => `GRANT USAGE, CREATE ON SCHEMA predictions TO "${bench.warehouseName}_writer"`),
      serving("granted", 1),
    ),
    remedies: [first(sql('GRANT USAGE ON SCHEMA "predictions" TO "advised_desk"'), serving("granted", 1))],
  },
  {
    advice: "Take functions out of the file, or train a smaller model.",
    mistake: first(() => bench.save(forest("large", LARGE)), training("large"), serving("large", 1)),
    remedies: [
      first(
        () => bench.save(forest("large", { ...LARGE, settings: "{trees: 5, depth: 3}" })),
        training("large"),
        serving("large", 2),
      ),
      first(
        () => bench.save(forest("large", { ...LARGE, more: "" })),
        training("large"),
        serving("large", 3),
      ),
    ],
  },
  {
    advice: "Cast it to text or a number in a step before.",
    mistake: first(placed("spotted", "", "spot"), training("spotted"), serving("spotted", 1)),
    remedies: [
      first(
        placed("spotted", "      - {do: derive, columns: {place: cast(spot as text)}}\n", "place"),
        training("spotted"),
        serving("spotted", 2),
      ),
    ],
  },
  {
    advice: "Add one under delivery; train again if more than that has changed since.",
    mistake: () => bench.run("score", "ready", { delivery: "day" }),
    remedies: [
      first(saving("ready", { delivery: "{name: day, table: predictions.ready, mode: upsert}" }), () =>
        bench.run("score", "ready", { delivery: "day" }),
      ),
    ],
  },
  {
    advice: "Write table: predictions.NAME.",
    mistake: checking({ delivery: "{name: desk, table: lab.written}" }),
    remedies: [checking({ delivery: "{name: desk, table: predictions.written}" })],
  },
  {
    advice: "Check its brackets; write a bracket that is meant literally with a backslash.",
    mistake: checking({ steps: "- {do: extract, column: cat, pattern: '(o', into: [begins]}" }),
    remedies: [
      checking({ steps: "- {do: extract, column: cat, pattern: '(o)', into: [begins]}" }),
      checking({ steps: "- {do: extract, column: cat, pattern: '(\\(o)', into: [begins]}" }),
    ],
  },
  {
    advice: "Group the rare ones in a step before, or choose another column.",
    mistake: valuesIn("", 0, "label"),
    remedies: [
      valuesIn("- {do: group_rare, columns: [label], least_rows: 2}", 2, "label"),
      valuesIn("", 0, "cat"),
    ],
  },
  {
    advice: "Choose a join step.",
    mistake: diagnosing(1),
    remedies: [diagnosing(2)],
  },
  {
    advice: "Write schema.table.",
    mistake: () => tableSource(bench.context.warehouse, "rows"),
    remedies: [() => tableSource(bench.context.warehouse, "lab.rows")],
  },
  {
    advice: "Name another pipeline in the schedule, or save that one again.",
    mistake: first(saving("follower", scheduled("after: leader")), due(1)),
    remedies: [first(saving("leader"), due(2))],
  },
  {
    advice: "Name a table that the reader may read, or let the schedule run at times.",
    mistake: first(
      sql("CREATE TABLE lab.arriving (id int)"),
      saving("arriving", scheduled("arrival: lab.arriving")),
      sql("DROP TABLE lab.arriving"),
      due(3),
    ),
    remedies: [
      first(saving("arriving", scheduled("arrival: lab.rows")), due(4)),
      first(saving("arriving", scheduled("cron: '0 3 * * *'")), due(5)),
    ],
  },
  {
    advice: "Write five fields in the schedule: minute, hour, day of month, month, day of week.",
    mistake: first(
      saving("hourly", scheduled("cron: '0 * * * *'")),
      () =>
        bench.context.store.pool.query("UPDATE schedules SET cron = 'H H * * *' WHERE cron = '0 * * * *'"),
      due(6),
    ),
    remedies: [first(saving("hourly", scheduled("cron: '30 * * * *'")), due(7))],
  },
];

/** A statement that is written only when it is run. */
function written(text: () => string): () => Promise<unknown> {
  return () => bench.sql(text());
}

const SOURCES = [
  "backfill.ts",
  "check-file.ts",
  "draft",
  "export",
  "on-demand.ts",
  "on-demand-plan.ts",
  "patterns.ts",
  "publish.ts",
  "queue.ts",
  "save-file.ts",
  "schedule.ts",
  "score.ts",
  "service.ts",
];
const situations = new Situations();
test.each(SITUATIONS.map((situation) => [situation.advice, situation] as const))("%s", (_, situation) =>
  situations.follow(situation),
);

test("no advice about orders, files and service is left untried", () => {
  const advice = adviceIn(SOURCES.map((name) => `src/runs/${name}`));
  expect(situations.untried(advice)).toEqual([]);
});
