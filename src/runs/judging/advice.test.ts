import { problem, type Problem } from "@/core/problem";
import { listModels, modelById, type ModelRow } from "@/store/models";
import { findPipeline, newestVersion } from "@/store/pipelines";
import { addRun, runById, runRecord } from "@/store/runs";
import type { RunOptions } from "@/store/schema";
import { adviceIn } from "../../../testing/advice/scan";
import { benchActions, first, ready } from "../../../testing/advice/bench-actions";
import { Situations, type Situation } from "../../../testing/advice/situation";
import { labTable, type LabFileOptions } from "../../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../../testing/warehouse";
import { executeRun } from "../execute";
import { openBlindPart } from "./blind";
import { compareVersions } from "./compare";
import { columnOf, openJudged } from "./judged-table";
import { tryRow } from "./try-row";

/** What training, judging and watching advise, followed: whoever does it has a version, a figure, or quiet. */
let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable({ rows: 600 }));
  await bench.sql(`CREATE TABLE lab.spotted AS SELECT *, CASE WHEN id % 3 > 0 THEN point(1, id) END AS spot FROM lab.rows;
    CREATE TABLE lab.sure AS SELECT id, site, x1, x2, cat, seen, CASE WHEN seen >= date '2026-06-01' THEN NULL ELSE seen >= date '2026-05-20' OR answer END AS answer FROM lab.rows;
    CREATE TABLE lab.holed AS SELECT id, site, CASE WHEN seen < date '2026-05-20' THEN x1 END AS x1, x2, cat, seen, answer FROM lab.rows`);
  await bench.save(ready("ready"));
  await bench.train("ready");
});
afterAll(() => bench.close());

const { saving, made } = benchActions(() => bench);
const training =
  (name: string, options: RunOptions = {}) =>
  () =>
    bench.run("train", name, options);
const newest = async (name: string): Promise<ModelRow> => {
  const { db } = bench.context.store;
  const [row] = await listModels(db, (await findPipeline(db, name))!.id);
  return (await modelById(db, row!.id))!;
};
const opening = (name: string) => async () => openBlindPart(bench.context, (await newest(name)).id);
const judgedColumn = (name: string, column: string) => async () =>
  columnOf(await openJudged(bench.context, (await newest(name)).id), column);
const trying = (name: string, values: Readonly<Record<string, string>>) => async () =>
  tryRow(bench.context, (await newest(name)).id, values);
const comparing = (one: string, other: string) => async () =>
  compareVersions(
    bench.context.warehouse,
    await openJudged(bench.context, (await newest(one)).id),
    await openJudged(bench.context, (await newest(other)).id),
  );

/** Warnings in the log of a training as a schedule would order it. */
const retraining = (name: string) => async (): Promise<{ readonly problems: readonly Problem[] }> => {
  const { db } = bench.context.store;
  const pipeline = (await findPipeline(db, name))!;
  const ordered = (await addRun(db, {
    kind: "train",
    pipelineId: pipeline.id,
    pipelineVersionId: (await newestVersion(db, pipeline.id))!.id,
    cause: "schedule",
    runTime: TEST_NOW,
  }))!;
  await executeRun(bench.context, ordered.id, "test");
  const { log } = await runRecord(db, ordered.id);
  const told = log.filter((line) => line.message.includes("could not be compared with"));
  return {
    problems: [
      ...(await runById(db, ordered.id))!.problems,
      ...told.map((line) => problem("challenge", line.message)),
    ],
  };
};

const withMemory = (megabytes: string, work: () => Promise<unknown>) => async (): Promise<unknown> => {
  process.env["RAVLEN_MEMORY_MB"] = megabytes;
  try {
    return await work();
  } finally {
    delete process.env["RAVLEN_MEMORY_MB"];
  }
};
const algorithm =
  (name: string, learner: string, settings = "{}", more = "") =>
  () =>
    bench.save(
      ready(name, { settings: `${settings}${more}`, more: "folds: {count: 3}" }).replace(
        "logistic_regression",
        learner,
      ),
    );
const searching = (more: LabFileOptions): (() => Promise<unknown>) =>
  saving("searched", {
    more: "folds: {count: 3}",
    settings: "{}, search: {how: grid, try: [{setting: ridge, values: [0.1, 1]}]}",
    ...more,
  });
const HELD = "{by: time, from: '2026-05-20'}";
const LONGER = "{by: time, from: '2026-05-08'}";
const SITUATIONS: readonly Situation[] = [
  {
    advice: "Add holdout.blind to the file and retrain.",
    mistake: opening("ready"),
    remedies: [
      first(made("ready", { holdout: "{share: 0.25, seed: 5, blind: {share: 0.1}}" }), opening("ready")),
    ],
  },
  {
    advice: "Retrain to create a new one.",
    mistake: first(
      made("forgotten", { holdout: "{share: 0.25, blind: {share: 0.1}}" }),
      async () => bench.sql(`DROP TABLE scratch.${(await newest("forgotten")).data.blindTable}`),
      opening("forgotten"),
    ),
    remedies: [
      first(made("forgotten", { holdout: "{share: 0.25, blind: {share: 0.1}}" }), opening("forgotten")),
    ],
  },
  {
    advice: "Open it on the version's page, under Metrics.",
    mistake: first(made("shut", { holdout: "{share: 0.25, blind: {share: 0.1}}" }), async () =>
      openJudged(bench.context, (await newest("shut")).id, "blind"),
    ),
    remedies: [
      first(opening("shut"), async () => openJudged(bench.context, (await newest("shut")).id, "blind")),
    ],
  },
  {
    advice: "Set a holdout and retrain.",
    mistake: first(
      made("whole", { more: "retraining: {rule: when_better}" }),
      saving("whole", { holdout: "{by: none}", more: "retraining: {rule: when_better}" }),
      retraining("whole"),
    ),
    remedies: [first(saving("whole", { more: "retraining: {rule: when_better}" }), retraining("whole"))],
  },
  {
    advice: "Enlarge it, and retrain.",
    mistake: first(
      made("narrow", { holdout: "{share: 0.25, blind: {share: 0.1}}" }),
      async () => bench.sql(`DELETE FROM scratch.${(await newest("narrow")).data.blindTable}`),
      opening("narrow"),
    ),
    remedies: [first(made("narrow", { holdout: "{share: 0.25, blind: {share: 0.2}}" }), opening("narrow"))],
  },
  {
    advice: "Compare versions with the same holdout.",
    mistake: first(
      made("early", { holdout: HELD }),
      made("late", { holdout: LONGER, train: "\"answer is not null and seen < '2026-05-19'\"" }),
      comparing("early", "late"),
    ),
    remedies: [first(made("late", { holdout: HELD, settings: "{ridge: 0.1}" }), comparing("early", "late"))],
  },
  {
    advice: "Retrain to create a new one.",
    mistake: first(
      made("swept"),
      async () => bench.sql(`DROP TABLE scratch.${(await newest("swept")).data.holdoutTable}`),
      judgedColumn("swept", "x1"),
    ),
    remedies: [first(made("swept"), judgedColumn("swept", "x1"))],
  },
  {
    advice: "Choose one from the list.",
    mistake: judgedColumn("ready", "x9"),
    remedies: [judgedColumn("ready", "x1")],
  },
  {
    advice: "Enter a value, or add a fill step and retrain.",
    mistake: trying("ready", { x2: "1", cat: "oak" }),
    remedies: [
      trying("ready", { x1: "1", x2: "1", cat: "oak" }),
      first(
        made("ready", { steps: "- {do: fill, columns: [x1], with: median}" }),
        trying("ready", { cat: "oak" }),
      ),
    ],
  },
  {
    advice: "Check which step filters it.",
    mistake: first(
      made("filtered", { steps: "- {do: filter, where: x1 > -3}" }),
      trying("filtered", { x1: "-4", x2: "1", cat: "oak" }),
    ),
    remedies: [
      trying("filtered", { x1: "-2", x2: "1", cat: "oak" }),
      first(made("filtered"), trying("filtered", { x1: "-4", x2: "1", cat: "oak" })),
    ],
  },
  {
    advice: "Use a larger holdout.",
    mistake: first(
      made("sure", { from: "lab.sure", holdout: HELD, more: "retraining: {rule: always, metric: auc}" }),
      retraining("sure"),
    ),
    remedies: [
      first(
        made("sure", { from: "lab.sure", holdout: LONGER, more: "retraining: {rule: always, metric: auc}" }),
        retraining("sure"),
      ),
    ],
  },
  {
    advice: "Use engine: warehouse, train on a share of the rows, or raise RAVLEN_MEMORY_MB",
    mistake: first(
      algorithm("small", "decision_tree", "{}", ", engine: streaming"),
      withMemory("0.01", training("small")),
    ),
    remedies: [
      withMemory(
        "0.01",
        first(algorithm("small", "decision_tree", "{}", ", engine: warehouse"), training("small")),
      ),
      withMemory(
        "100",
        first(algorithm("small", "decision_tree", "{}", ", engine: streaming"), training("small")),
      ),
      withMemory("0.01", training("small", { share: 0.1 })),
    ],
  },
  {
    advice: "Train on a share of the rows, or raise RAVLEN_MEMORY_MB on a computer with more memory.",
    mistake: first(algorithm("close", "nearest_neighbours"), withMemory("0.01", training("close"))),
    remedies: [withMemory("0.01", training("close", { share: 0.1 })), withMemory("100", training("close"))],
  },
  {
    advice: "Add a fill step for columns with missing values.",
    mistake: first(saving("holed", { from: "lab.holed", holdout: HELD }), training("holed")),
    remedies: [
      first(
        saving("holed", {
          from: "lab.holed",
          holdout: HELD,
          steps: "- {do: fill, columns: [x1], with: median}",
        }),
        training("holed"),
      ),
    ],
  },
  {
    advice: "Available: plain.",
    mistake: training("ready", { candidate: "fancy" }),
    remedies: [training("ready", { candidate: "plain" })],
  },
  {
    advice: "Features are: x1, x2, cat.",
    mistake: first(saving("ready"), training("ready", { without: ["x9"] })),
    remedies: [training("ready", { without: ["x1"] })],
  },
  {
    advice: "Exclude fewer.",
    mistake: training("ready", { without: ["x1", "x2", "cat"] }),
    remedies: [training("ready", { without: ["x2", "cat"] })],
  },
  {
    advice: "See the trials for the reasons.",
    mistake: first(searching({ from: "lab.holed" }), training("searched")),
    remedies: [
      first(
        searching({ from: "lab.holed", steps: "- {do: fill, columns: [x1], with: median}" }),
        training("searched"),
      ),
    ],
  },
];

/**
 * What training/advice.test and runs/advice.test follow; what says that something was done; what is counted before the training, and
 * said there; settings out of their bounds, which the check of the file names; and what challenge.test follows.
 */
const ELSEWHERE =
  /training\/prepare|Cast it to text|The rows stay in the warehouse|Widen holdout|Check rows|Use fewer folds|ranges of the search|Compare both, and put/;
const situations = new Situations();
test.each(SITUATIONS.map((situation) => [situation.advice, situation] as const))("%s", (_, situation) =>
  situations.follow(situation),
);

test("no advice about training, judging and watching is left untried", () => {
  const advice = adviceIn(["src/runs/judging", "src/runs/training"]);
  expect(situations.untried(advice.filter(({ place, text }) => !ELSEWHERE.test(`${place} ${text}`)))).toEqual(
    [],
  );
});
