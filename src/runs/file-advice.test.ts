import { unwrap, type Problem } from "@/core/problem";
import { listAlerts } from "@/store/alerts";
import { adviceIn } from "../../testing/advice/scan";
import { benchActions, first, ready } from "../../testing/advice/bench-actions";
import { Situations, type Situation } from "../../testing/advice/situation";
import { labTable, type LabFileOptions } from "../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";
import { checkText } from "./check-file";
import { valuesOf } from "./draft/columns";
import { diagnoseJoin } from "./draft/diagnose-join";
import { tableSource } from "./export/sources";
import { openQueue } from "./queue";
import { NONE_YET, saveFile } from "./save-file";
import { startDueRuns } from "./schedule";

/** What saving a file, its draft and its schedules advise, followed: whoever does it goes on. */
let bench: Bench;
let boss: Awaited<ReturnType<typeof openQueue>>;
beforeAll(async () => {
  bench = await openBench();
  boss = await openQueue(bench.databaseUrl, "sender", () => undefined);
  await bench.sql(labTable({ rows: 600 }));
  await bench.sql(`CREATE TABLE lab.labelled AS SELECT *, 'n' || id AS label FROM lab.rows;
    CREATE TABLE lab.sites AS SELECT DISTINCT site, site * 2 AS size FROM lab.rows`);
  await bench.save(ready("ready"));
});
afterAll(async () => {
  await boss.stop({ graceful: false, wait: false });
  await bench.close();
});

const { sql } = benchActions(() => bench);
const saving =
  (name: string, more: LabFileOptions = {}, options: Parameters<typeof saveFile>[2] = {}) =>
  () =>
    saveFile(bench.context, ready(name, more), options);
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

const SITUATIONS: readonly Situation[] = [
  {
    advice: "Keep the name, or create a new pipeline from the list of pipelines.",
    mistake: saving("renamed", {}, { expectedName: "ready" }),
    remedies: [saving("ready", {}, { expectedName: "ready" }), saving("renamed")],
  },
  {
    advice: "Copy your text, open the newest version and make your change there.",
    mistake: first(
      saving("shared"),
      saving("shared", { holdout: "{share: 0.3}" }),
      saving("shared", { settings: "{ridge: 0.1}" }, { basedOn: 1 }),
    ),
    remedies: [saving("shared", { holdout: "{share: 0.3}", settings: "{ridge: 0.1}" }, { basedOn: 2 })],
  },
  {
    advice: "Choose another name.",
    mistake: first(saving("taken"), saving("taken", {}, { basedOn: NONE_YET })),
    remedies: [saving("not-taken", {}, { basedOn: NONE_YET })],
  },
  {
    advice: "Write table: predictions.NAME.",
    mistake: checking({ delivery: "{name: desk, table: lab.written}" }),
    remedies: [checking({ delivery: "{name: desk, table: predictions.written}" })],
  },
  {
    advice: "Check its brackets; escape literal brackets with a backslash.",
    mistake: checking({ steps: "- {do: extract, column: cat, pattern: '(o', into: [begins]}" }),
    remedies: [
      checking({ steps: "- {do: extract, column: cat, pattern: '(o)', into: [begins]}" }),
      checking({ steps: "- {do: extract, column: cat, pattern: '(\\(o)', into: [begins]}" }),
    ],
  },
  {
    advice: "Group the rare ones in an earlier step, or choose another column.",
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
    advice: "Choose a table that the reader role can read, or run the schedule at set times.",
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

const situations = new Situations();
test.each(SITUATIONS.map((situation) => [situation.advice, situation] as const))("%s", (_, situation) =>
  situations.follow(situation),
);

test("no advice about files, drafts and schedules is left untried", () => {
  const sources = ["check-file.ts", "draft", "export", "patterns.ts", "save-file.ts", "schedule.ts"];
  // What is behind a file that was saved is followed with the service.
  const given = adviceIn(sources.map((name) => `src/runs/${name}`));
  expect(situations.untried(given.filter(({ text }) => !text.startsWith("Fix that")))).toEqual([]);
});
