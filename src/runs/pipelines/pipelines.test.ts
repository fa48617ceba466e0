import { unwrap } from "@/core/problem";
import { keepDraft } from "@/store/drafts";
import { listModels, serviceHistory } from "@/store/models";
import { openRuns } from "@/store/pipeline-lives";
import { findPipeline, listPipelines, listSchedules, newestVersion, pipelineById } from "@/store/pipelines";
import { addRun, askCancel, runById } from "@/store/runs";
import { adviceIn } from "../../../testing/advice/scan";
import { benchActions, first, ready } from "../../../testing/advice/bench-actions";
import { Situations, type Situation } from "../../../testing/advice/situation";
import { labTable, type LabFileOptions } from "../../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../../testing/warehouse";
import { parseFile } from "../parse-file";
import { reconcileFunctions } from "../reconcile";
import { saveFile } from "../save-file";
import { putInService } from "../service";
import { copyPipeline } from "./copy";
import { endsWith, removePipeline } from "./remove";
import { renamePipeline } from "./rename";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable({ rows: 600 }));
});
afterAll(() => bench.close());

const { saving, training } = benchActions(() => bench);
const known = async (name: string) => (await findPipeline(bench.context.store.db, name))!;
const fileOf = async (name: string) => {
  const { text } = (await newestVersion(bench.context.store.db, (await known(name)).id))!;
  return unwrap(await parseFile(text)).file;
};
const functionsThere = async (): Promise<readonly string[]> =>
  (
    await bench.sql(
      "SELECT proname FROM pg_proc WHERE pronamespace = 'predictions'::regnamespace AND proname LIKE 'predict\\_%' ORDER BY 1",
    )
  ).map((row) => String(row["proname"]));
const OPERATED: LabFileOptions = {
  more: "functions: {}\nschedules: [{name: nightly, run: score, cron: '15 2 * * *', zone: UTC}]",
};

test("a copy has steps and candidates, and nothing that delivers or runs by itself", async () => {
  await bench.save(ready("original", OPERATED));
  const { version } = unwrap(await copyPipeline(bench.context, await known("original"), "twin"));
  expect(version).toMatchObject({ number: 1, note: "copied from original, version 1 of its file" });
  const [copy, original] = [await fileOf("twin"), await fileOf("original")];
  expect(copy).toEqual({ ...original, name: "twin", delivery: [], schedules: [], functions: undefined });
  expect(await listSchedules(bench.context.store.db, [(await known("twin")).id])).toEqual([]);
  expect(await copyPipeline(bench.context, await known("original"), "twin")).toMatchObject({
    problems: [{ code: "name_taken" }],
  });
});

test("a renamed pipeline keeps what it delivered; functions and those who wait for it follow", async () => {
  const delivery = "{name: desk, table: predictions.old, mode: append, rows: {newer_by: id}}";
  await bench.save(ready("old-name", { ...OPERATED, delivery }));
  await bench.save(ready("waits", { more: "schedules: [{name: then, run: score, after: old-name}]" }));
  await putInService(bench.context, (await bench.train("old-name")).id, {});
  expect(await bench.run("score", "old-name")).toMatchObject({ state: "done", rows: 120 });
  const before = await known("old-name");
  unwrap(await renamePipeline(bench.context, before, "new-name"));
  const { db } = bench.context.store;
  expect(await findPipeline(db, "old-name")).toBeUndefined();
  expect(await known("new-name")).toMatchObject({ id: before.id, formerNames: ["old-name"] });
  expect((await fileOf("new-name")).name).toBe("new-name");
  expect((await fileOf("waits")).schedules[0]!.after).toBe("new-name");
  expect(await functionsThere()).toEqual([
    "predict_new_name",
    "predict_new_name_rows",
    "predict_new_name_v1",
    "predict_new_name_v1_rows",
  ]);
  // The ledger knows by the old name up to where rows have landed.
  expect(
    await bench.run("score", "new-name", { at: new Date(TEST_NOW.getTime() + 86_400_000) }),
  ).toMatchObject({ state: "done", rows: 0 });
  // Nobody else can take the name under which those landed; the pipeline itself can have it back.
  expect(await saveFile(bench.context, ready("old-name"))).toMatchObject({
    problems: [{ code: "name_taken", message: expect.stringContaining('"new-name" was named "old-name"') }],
  });
  unwrap(await renamePipeline(bench.context, await known("new-name"), "old-name"));
  expect(await known("old-name")).toMatchObject({ id: before.id, formerNames: ["new-name"] });
});

test("a deleted pipeline delivers no more; what it made and what was in service stays on record, and its name is free", async () => {
  const { db } = bench.context.store;
  await bench.save(ready("doomed", OPERATED));
  await bench.save(ready("orphan", { more: "schedules: [{name: then, run: score, after: doomed}]" }));
  const model = await bench.train("doomed");
  await putInService(bench.context, model.id, {});
  await bench.run("score", "doomed");
  const pipeline = await known("doomed");
  const { id: version } = (await newestVersion(db, pipeline.id))!;
  const order = {
    pipelineId: pipeline.id,
    pipelineVersionId: version,
    cause: "hand",
    runTime: TEST_NOW,
  } as const;
  const waits = await addRun(db, { ...order, kind: "train" });
  expect(await endsWith(bench.context, pipeline)).toEqual({
    deliveries: [{ name: "desk", tables: ["predictions.doomed"] }],
    schedules: ["nightly"],
    functions: ["predict_doomed", "predict_doomed_rows"],
    inService: 1,
    runs: 1,
    waiting: ["orphan"],
    versions: 1,
  });
  await removePipeline(bench.context, pipeline, "ada");
  expect((await listPipelines(db)).map(({ name }) => name)).not.toContain("doomed");
  expect((await functionsThere()).filter((name) => name.includes("doomed"))).toEqual([]);
  expect(await listSchedules(db, [pipeline.id])).toEqual([]);
  expect(await openRuns(db, pipeline.id)).toEqual([]);
  expect(await runById(db, waits!.id)).toMatchObject({ state: "cancelled" });
  expect(await listModels(db, pipeline.id)).toHaveLength(1);
  expect((await serviceHistory(db, pipeline.id))[0]).toMatchObject({ modelId: null, by: "ada" });
  expect(await bench.sql("SELECT count(*)::int AS rows FROM predictions.doomed")).toEqual([{ rows: 120 }]);
  // Another of the same name is another: its functions are none of the deleted one's business.
  await bench.save(ready("doomed", OPERATED));
  await putInService(bench.context, (await bench.train("doomed")).id, {});
  await reconcileFunctions(bench.context);
  expect((await functionsThere()).filter((name) => name.includes("doomed"))).toHaveLength(4);
  expect((await known("doomed")).id).not.toBe(pipeline.id);
});

test("functions that a kill left of a deleted pipeline go when a worker looks again", async () => {
  await bench.save(ready("killed", OPERATED));
  await putInService(bench.context, (await bench.train("killed")).id, {});
  const { warehouse } = bench.context;
  const away = Object.assign(Object.create(warehouse) as typeof warehouse, {
    functions: { ...warehouse.functions, find: () => Promise.reject(new Error("killed here")) },
  });
  await expect(
    removePipeline({ ...bench.context, warehouse: away }, await known("killed"), "ada"),
  ).rejects.toThrow("killed here");
  expect((await functionsThere()).filter((name) => name.includes("killed"))).toHaveLength(4);
  await reconcileFunctions(bench.context);
  expect((await functionsThere()).filter((name) => name.includes("killed"))).toEqual([]);
});

const renaming = (name: string, wanted: string) => async () =>
  renamePipeline(bench.context, await known(name), wanted);
const drafting = (name: string) => async () => {
  const { db } = bench.context.store;
  const { id } = await known(name);
  const { text, number } = (await newestVersion(db, id))!;
  await keepDraft(db, { pipelineId: id, text: `${text}# more\n`, basedOn: number, revision: 0 });
};
const savingDraft = (name: string) => async () => {
  const { text } = (await newestVersion(bench.context.store.db, (await known(name)).id))!;
  return saveFile(bench.context, `${text}# more\n`);
};
const undrafted = (name: string) => async () => {
  await bench.context.store.pool.query("DELETE FROM drafts WHERE pipeline_id = $1", [(await known(name)).id]);
};
const ordering = (name: string) => async () => {
  const { db } = bench.context.store;
  const { id } = await known(name);
  const { id: version } = (await newestVersion(db, id))!;
  await addRun(db, {
    kind: "train",
    pipelineId: id,
    pipelineVersionId: version,
    cause: "hand",
    runTime: TEST_NOW,
  });
};
const cancelling = (name: string) => async () => {
  const { db } = bench.context.store;
  for (const { id } of await openRuns(db, (await known(name)).id)) await askCancel(db, id);
};
const waiting = (name: string, after: string): LabFileOptions => ({
  more: `schedules: [{name: ${name}, run: score, after: ${after}}]`,
});
/** The version of a pipeline that is there no more; of the file of which another is made. */
const serving = (name: string) => async () => {
  const { db } = bench.context.store;
  const models = await listModels(db);
  const pipelines = await Promise.all(models.map((model) => pipelineById(db, model.pipelineId)));
  const place = pipelines.findIndex((pipeline) => pipeline?.name === name);
  return putInService(bench.context, models[place]!.id, {});
};

const SITUATIONS: readonly Situation[] = [
  {
    advice: "Choose another name.",
    mistake: first(saving("one"), saving("two"), renaming("one", "two")),
    remedies: [renaming("one", "three")],
  },
  {
    advice: "Save them in the Braid, or go back to the newest version there; then change this.",
    mistake: first(saving("drafted"), drafting("drafted"), renaming("drafted", "sketched")),
    remedies: [
      first(savingDraft("drafted"), undrafted("drafted"), renaming("drafted", "sketched")),
      first(drafting("sketched"), undrafted("sketched"), renaming("sketched", "drawn")),
    ],
  },
  {
    advice: "Rename it when they have ended, or cancel them.",
    mistake: first(saving("running"), ordering("running"), renaming("running", "ran")),
    remedies: [first(cancelling("running"), renaming("running", "ran"))],
  },
  {
    advice: "Write after: chief in its schedule.",
    mistake: first(
      saving("leader"),
      saving("follower", waiting("then", "leader")),
      drafting("follower"),
      renaming("leader", "chief"),
    ),
    remedies: [first(undrafted("follower"), saving("follower", waiting("then", "chief")))],
  },
  {
    advice: "Download its file from the page of one of its versions, and make a new pipeline of it.",
    mistake: first(
      saving("gone"),
      training("gone"),
      async () => removePipeline(bench.context, await known("gone"), "ada"),
      serving("gone"),
    ),
    remedies: [first(saving("gone"), training("gone"))],
  },
];

const situations = new Situations();
test.each(SITUATIONS.map((situation) => [situation.advice, situation] as const))("%s", (_, situation) =>
  situations.follow(situation),
);

test("no advice about pipelines as a whole is left untried", () => {
  expect(situations.untried(adviceIn(["src/runs/pipelines"]))).toEqual([]);
});
