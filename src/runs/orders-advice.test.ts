import { findTable } from "@/core/plan/catalog";
import { parseTableName } from "@/core/pipeline/table-name";
import { unwrap, type Problem } from "@/core/problem";
import { listModels, modelById } from "@/store/models";
import { findPipeline } from "@/store/pipelines";
import { adviceIn } from "../../testing/advice/scan";
import { benchActions, first, ready } from "../../testing/advice/bench-actions";
import { Situations, type Situation } from "../../testing/advice/situation";
import { labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";
import { orderBackfill } from "./backfill";
import { orderOnDemand } from "./on-demand";
import { fillOnDemand, openOnDemand } from "./on-demand-plan";
import { openQueue, orderRun } from "./queue";

/** What ordering advises, followed: whoever does it has a run. */
let bench: Bench;
let boss: Awaited<ReturnType<typeof openQueue>>;
beforeAll(async () => {
  bench = await openBench();
  boss = await openQueue(bench.databaseUrl, "sender", () => undefined);
  await bench.sql(labTable({ rows: 600 }));
  await bench.save(ready("ready"));
  await bench.train("ready");
});
afterAll(async () => {
  await boss.stop({ graceful: false, wait: false });
  await bench.close();
});

const { saving, training, sql } = benchActions(() => bench);

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

const version = async (pipeline: string, number: number): Promise<number> => {
  const { db } = bench.context.store;
  const found = await listModels(db, (await findPipeline(db, pipeline))!.id);
  return found.find((model) => model.number === number)!.id;
};
/** What is said of the answer that a table chosen on demand has. */
const unread = (name: string) => async (): Promise<{ readonly problems: readonly Problem[] }> => {
  const model = (await modelById(bench.context.store.db, await version("ready", 1)))!;
  const opened = await openOnDemand(bench.context, model, {
    table: name,
    into: "predictions.any",
    columns: [],
  });
  const table = findTable(await bench.context.warehouse.catalog.read(), parseTableName(name)!)!;
  const { unread: found } = unwrap(fillOnDemand(opened, table));
  return { problems: found ? [found] : [] };
};

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
    advice: "Train, check the metrics, and put the version in service.",
    mistake: first(saving("idle"), ordering("idle")),
    remedies: [first(training("idle"), ordering("idle"))],
  },
  {
    advice: "Train, check the metrics, and put the version in service.",
    mistake: first(saving("idle_days"), backfilling({ pipeline: "idle_days" })),
    remedies: [first(training("idle_days"), backfilling({ pipeline: "idle_days" }))],
  },
  {
    advice: "Train, check the metrics, and put the version in service.",
    mistake: first(saving("idle_rows"), onDemand({ pipeline: "idle_rows" })),
    remedies: [first(training("idle_rows"), onDemand({ pipeline: "idle_rows" }))],
  },
  {
    advice: "Train, check the metrics, and put the version in service.",
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
    advice: "Narrow the range, or use a less frequent schedule.",
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
    advice: "Choose another name; on-demand predictions need a new table.",
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
    advice: "Create the table with the types used in training, or load the file with them.",
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
    advice: "Create the table with the types used in training.",
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
    advice: "Add one under delivery; retrain if more than that has changed since.",
    mistake: () => bench.run("score", "ready", { delivery: "day" }),
    remedies: [
      first(saving("ready", { delivery: "{name: day, table: predictions.ready, mode: upsert}" }), () =>
        bench.run("score", "ready", { delivery: "day" }),
      ),
    ],
  },
];

const situations = new Situations();
test.each(SITUATIONS.map((situation) => [situation.advice, situation] as const))("%s", (_, situation) =>
  situations.follow(situation),
);

test("no advice about orders is left untried", () => {
  const sources = ["backfill.ts", "on-demand.ts", "on-demand-plan.ts", "queue.ts", "score.ts"];
  expect(situations.untried(adviceIn(sources.map((name) => `src/runs/${name}`)))).toEqual([]);
});
