import type { Problem } from "@/core/problem";
import { listAlerts } from "@/store/alerts";
import { findPipeline, newestVersion } from "@/store/pipelines";
import { addRun, askCancel } from "@/store/runs";
import { adviceIn } from "../../testing/advice/scan";
import { benchActions, first } from "../../testing/advice/bench-actions";
import { Situations, type Situation } from "../../testing/advice/situation";
import { labTable, type LabFileOptions } from "../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";
import { watchLateness } from "./alerts";

/** What alerts advise, followed: whoever does it has quiet. */
let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable({ rows: 600 }));
});
afterAll(() => bench.close());

const { saving, training, made, sql } = benchActions(() => bench);
const day = (number: number): Date => new Date(`2026-06-${String(number).padStart(2, "0")}T08:00:00Z`);

/** What the alerts of a pipeline say that stay open. */
const openAlerts = (name: string) => async (): Promise<{ readonly problems: readonly Problem[] }> => {
  const { id } = (await findPipeline(bench.context.store.db, name))!;
  const alerts = await listAlerts(bench.context.store.db, 24);
  return {
    problems: alerts
      .filter((alert) => alert.pipelineId === id && alert.clearedAt === null)
      .flatMap((alert) => alert.problems),
  };
};
const scoring = (name: string, at: Date) => () => bench.run("score", name, { at });
const later = (minutes: number): Date => new Date(TEST_NOW.getTime() + minutes * 60_000);
const watching = (minutes: number) => () =>
  watchLateness({ ...bench.context, now: () => Promise.resolve(later(minutes)) });
let begun: string;
/** A run that is ordered for what is due and takes its time. */
const ordering = (name: string, minutes: number) => async (): Promise<void> => {
  const { db } = bench.context.store;
  const { id } = (await findPipeline(db, name))!;
  const run = (await addRun(db, {
    kind: "score",
    pipelineId: id,
    pipelineVersionId: (await newestVersion(db, id))!.id,
    cause: "schedule",
    runTime: later(minutes),
    slot: `${id}/hourly/${minutes}`,
  }))!;
  begun = run.id;
};

const TRUTH: LabFileOptions = {
  from: "lab.truthful",
  train: "'answer is not null and seen < cast(run_time() as date)'",
  score: "'seen = cast(run_time() as date)'",
};
const watched = (contract: string): LabFileOptions => ({
  ...TRUTH,
  delivery: `{name: desk, table: predictions.truthful, contract: {otherwise: warn${contract}}}`,
});
const FAR =
  "{name: desk, table: predictions.shifted, contract: {most_missing_increase: 1, most_unseen: 1, otherwise: warn}}";

const SITUATIONS: readonly Situation[] = [
  {
    advice: "Check that a worker is running; ./ravlen start starts one.",
    mistake: first(
      made("hourly", {
        more: 'schedules: [{name: hourly, run: score, cron: "0 * * * *", zone: UTC, late_after: 10}]',
      }),
      watching(72),
      openAlerts("hourly"),
    ),
    remedies: [first(scoring("hourly", later(60)), watching(73), openAlerts("hourly"))],
  },
  {
    advice: "Check what the run waits for.",
    mistake: first(ordering("hourly", 120), watching(132), openAlerts("hourly")),
    remedies: [
      first(
        () => askCancel(bench.context.store.db, begun),
        scoring("hourly", later(120)),
        watching(133),
        openAlerts("hourly"),
      ),
    ],
  },
  {
    advice: "See Deliver for the start and for drift, and retrain. Or raise contract.most_worse",
    mistake: first(
      sql(labTable({ table: "lab.truthful" })),
      saving("truthful", watched("")),
      training("truthful", day(1)),
      sql(
        "UPDATE lab.truthful SET seen = date '2026-06-02' + (id / 5 % 3)::int, answer = id % 2 = 0 WHERE seen >= date '2026-06-02'",
      ),
      scoring("truthful", day(2)),
      scoring("truthful", day(3)),
      scoring("truthful", day(4)),
      openAlerts("truthful"),
    ),
    remedies: [
      first(
        saving("truthful", watched(", most_worse: 100")),
        scoring("truthful", day(5)),
        openAlerts("truthful"),
      ),
      first(
        saving("truthful", watched("")),
        sql(
          "UPDATE lab.truthful SET answer = id % 2 = 0; INSERT INTO lab.truthful SELECT id + 10000, site, x1, x2, cat, '2026-06-05', id % 2 = 0 FROM lab.truthful",
        ),
        training("truthful", day(8)),
        scoring("truthful", day(8)),
        openAlerts("truthful"),
      ),
    ],
  },
  {
    advice: "Check whether a source has changed. If the data has really changed, retrain.",
    mistake: first(
      sql(labTable({ table: "lab.shifted" })),
      saving("shifted", { from: "lab.shifted", delivery: FAR }),
      training("shifted"),
      sql("UPDATE lab.shifted SET x1 = x1 + 4 WHERE answer IS NULL"),
      scoring("shifted", later(60)),
      openAlerts("shifted"),
    ),
    remedies: [
      first(
        sql("UPDATE lab.shifted SET x1 = x1 - 4 WHERE answer IS NULL"),
        scoring("shifted", later(120)),
        openAlerts("shifted"),
      ),
      first(
        sql("UPDATE lab.shifted SET x1 = x1 + 4"),
        training("shifted", later(180)),
        scoring("shifted", later(180)),
        openAlerts("shifted"),
      ),
    ],
  },
];

const situations = new Situations();
test.each(SITUATIONS.map((situation) => [situation.advice, situation] as const))("%s", (_, situation) =>
  situations.follow(situation),
);

test("no advice of alerts is left untried", () => {
  const sources = ["alerts.ts", "drift.ts", "truth.ts"];
  expect(situations.untried(adviceIn(sources.map((name) => `src/runs/${name}`)))).toEqual([]);
});
