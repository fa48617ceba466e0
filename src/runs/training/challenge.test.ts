import { judgeChallenge } from "@/core/evaluate/challenge";
import { figureMaker } from "@/core/evaluate/figures";
import { listAlerts } from "@/store/alerts";
import { modelById, serviceHistory } from "@/store/models";
import { findPipeline, newestVersion } from "@/store/pipelines";
import { addRun, runById, runRecord } from "@/store/runs";
import { labFile, labTable } from "../../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../../testing/warehouse";
import { executeRun } from "../execute";
import { putInService } from "../service";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
});
afterAll(() => bench.close());

/** Trains as a schedule would. */
async function retrain(name: string, minutes: number) {
  const { db } = bench.context.store;
  const pipeline = (await findPipeline(db, name))!;
  const version = (await newestVersion(db, pipeline.id))!;
  const run = (await addRun(db, {
    kind: "train",
    pipelineId: pipeline.id,
    pipelineVersionId: version.id,
    cause: "schedule",
    runTime: new Date(TEST_NOW.getTime() + minutes * 60_000),
  }))!;
  await executeRun(bench.context, run.id, "test");
  const ended = (await runById(db, run.id))!;
  expect(ended.problems).toEqual([]);
  return {
    model: (await modelById(db, ended.modelId!))!,
    log: (await runRecord(db, run.id)).log.map((entry) => entry.message),
    inService: async () => (await findPipeline(db, name))!.inService,
  };
}

const rule = (name: string, retraining: string, settings = "{}") =>
  labFile({
    name,
    from: `lab.${name}`,
    settings,
    more: `retraining: ${retraining}`,
    delivery: `{name: desk, table: predictions.${name}}`,
  });

test("a better version is always put in service by the rule, one that is not better stays a candidate, and both say why", async () => {
  await bench.sql(labTable({ table: "lab.better", rows: 6000 }));
  // The first version learns next to nothing.
  await bench.save(rule("better", "{rule: when_better, metric: log_loss}", "{ridge: 1000}"));
  const first = await bench.train("better");
  await bench.save(rule("better", "{rule: when_better, metric: log_loss}"));
  const { model, log, inService } = await retrain("better", 1);
  expect(model.challenge).toMatchObject({
    against: first.number,
    metric: "log_loss",
    rule: "when_better",
    promoted: true,
  });
  expect(model.challenge!.gain).toBeGreaterThan(0);
  expect(model.challenge!.interval![0]).toBeGreaterThan(0);
  expect(await inService()).toBe(model.id);
  expect((await serviceHistory(bench.context.store.db, model.pipelineId))[0]).toMatchObject({
    modelId: model.id,
    by: "the rule for retraining",
    reason: model.challenge!.because,
  });
  expect(log.some((line) => line.includes(`Version ${model.number} is in service now`))).toBe(true);
  const again = await retrain("better", 2);
  expect(again.model.challenge).toMatchObject({ against: model.number, promoted: false });
  expect(await again.inService()).toBe(model.id);
  expect(again.log.some((line) => line.includes(`version ${model.number} remains in service`))).toBe(true);
});

test("the figures are of rows that both held out, as they are now, and each version answers by its own preparation", async () => {
  await bench.sql(labTable({ table: "lab.fresh", rows: 3000 }));
  await bench.save(rule("fresh", "{rule: never}"));
  const first = await bench.train("fresh");
  await bench.sql(
    "INSERT INTO lab.fresh SELECT id + 10000, site, x1 + 0.3, x2, cat, seen, NOT answer FROM lab.fresh WHERE answer IS NOT NULL",
  );
  const { model, inService } = await retrain("fresh", 1);
  const found = model.challenge!;
  expect(found).toMatchObject({ against: first.number, promoted: false, rule: "never" });
  expect(await inService()).toBe(first.id);
  expect(found.rows).toBe(model.data.holdoutRows);
  // Half of the rows say the opposite of what the champion learned from.
  expect(found.champion).not.toBeCloseTo(first.metrics[found.metric]!, 6);
  const answers = await bench.sql(
    `SELECT ravlen_target, ravlen_output_0 FROM scratch.${model.data.holdoutTable}`,
  );
  const own = figureMaker("binary", {
    answers: Float64Array.from(answers, (row) => Number(row["ravlen_target"])),
    outputs: [Float64Array.from(answers, (row) => Number(row["ravlen_output_0"]))],
  })(undefined);
  expect(found.challenger).toBeCloseTo(own[found.metric]!, 10);
});

test("where the champion can no longer be asked the newest serves by the rule that takes it; else a person is told to decide", async () => {
  const { db } = bench.context.store;
  const undecided = async (name: string) => {
    const { id } = (await findPipeline(db, name))!;
    return (await listAlerts(db, 24)).filter(
      (alert) => alert.pipelineId === id && alert.kind === "undecided",
    );
  };
  /** A version whose column is gone serves, and the file does without that column. */
  const gone = async (name: string, how: string) => {
    await bench.sql(labTable({ table: `lab.${name}` }));
    await bench.save(
      rule(name, how).replace(
        "      - {do: fill",
        "      - {do: derive, columns: {x3: abs(x1)}}\n      - {do: fill",
      ),
    );
    const first = await bench.train(name);
    await bench.save(rule(name, how).replaceAll("x1", "x2"));
    await bench.sql(`ALTER TABLE lab.${name} DROP COLUMN x1`);
    return first;
  };
  await gone("taken", "{rule: always}");
  const taken = await retrain("taken", 1);
  expect(taken.model.challenge).toBeNull();
  expect(await taken.inService()).toBe(taken.model.id);
  expect(taken.log.some((line) => line.includes("could not be compared with version 1"))).toBe(true);
  expect(await undecided("taken")).toEqual([]);

  const first = await gone("left", "{rule: when_better}");
  const left = await retrain("left", 1);
  expect(await left.inService()).toBe(first.id);
  expect(left.log.some((line) => line.includes("could not be compared with version 1"))).toBe(true);
  expect(await undecided("left")).toMatchObject([{ clearedAt: null, times: 1 }]);
  await retrain("left", 2);
  expect(await undecided("left")).toMatchObject([{ clearedAt: null, times: 2 }]);
  await putInService(bench.context, left.model.id, { by: "Ada" });
  expect(await undecided("left")).toMatchObject([{ clearedWith: "version 2 was put in service" }]);
});

test("a decision that rests on a comparison with a version is void when another serves by then", async () => {
  await bench.sql(labTable({ table: "lab.void" }));
  await bench.save(rule("void", "{rule: never}"));
  const versions = [await bench.train("void"), await bench.train("void"), await bench.train("void")];
  const serving = async () => (await findPipeline(bench.context.store.db, "void"))!.inService;
  const [one, two, three] = versions.map(({ id }) => id) as [number, number, number];
  await expect(putInService(bench.context, two, {}, one)).rejects.toMatchObject({
    problems: [expect.objectContaining({ code: "service_changed" })],
  });
  expect(await serving()).toBe(three);
  await putInService(bench.context, two, {}, three);
  expect(await serving()).toBe(two);
});

const found = { metric: "auc", rows: 1000, interval: [0.01, 0.03], gain: 0.02 } as const;
test.each([
  ["never, though it is better", "never", found, 0, false],
  ["always, though it is worse", "always", { ...found, gain: -0.5 }, 0, true],
  ["better, and no accident", "when_better", found, 0, true],
  ["better, but by less than the margin", "when_better", found, 0.05, false],
  [
    "better, but that may be an accident",
    "when_better",
    { ...found, interval: [-0.01, 0.05] as const },
    0,
    false,
  ],
  ["worse", "when_better", { ...found, gain: -0.02, interval: [-0.03, -0.01] as const }, 0, false],
] as const)("what a rule makes of it: %s", (_what, which, given, margin, promoted) => {
  expect(judgeChallenge(which, given, margin).promoted).toBe(promoted);
});
