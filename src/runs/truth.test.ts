import { figureMaker } from "@/core/evaluate/figures";
import { listAlerts } from "@/store/alerts";
import { findPipeline } from "@/store/pipelines";
import { truthOfPipeline } from "@/store/truth";
import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
});
afterAll(() => bench.close());

const day = (number: number): Date => new Date(`2026-06-${String(number).padStart(2, "0")}T08:00:00Z`);
/** Rows want predictions from one day on; their answers are known a day later. */
const file = {
  train: "'answer is not null and seen < cast(run_time() as date)'",
  score: "'seen = cast(run_time() as date)'",
};

/** Made-up answers for rows that had none, on three days. */
async function answersArrive(table: string, answer: string): Promise<void> {
  await bench.sql(
    `UPDATE ${table} SET seen = date '2026-06-02' + (id / 5 % 3)::int, answer = ${answer} WHERE seen >= date '2026-06-02'`,
  );
}

test("figures by day and version are those of the predictions that were delivered, answer by answer", async () => {
  await bench.sql(labTable({ table: "lab.true_yes" }));
  await bench.save(
    labFile({
      name: "truth",
      from: "lab.true_yes",
      ...file,
      delivery: "{name: desk, table: predictions.truth, contract: {otherwise: warn, most_worse: 0.5}}",
    }),
  );
  await bench.train("truth", day(1));
  await answersArrive("lab.true_yes", "CASE WHEN id % 20 < 13 THEN x1 > 0 END");
  for (const value of [2, 3, 4, 5])
    expect((await bench.run("score", "truth", { at: day(value) })).problems).toEqual([]);
  const pipeline = (await findPipeline(bench.context.store.db, "truth"))!;
  const kept = await truthOfPipeline(bench.context.store.db, pipeline.id, "2026-05-01");
  expect(kept.map((day) => day.day)).toEqual(["2026-06-02", "2026-06-03", "2026-06-04"]);
  for (const item of kept) {
    const rows = await bench.sql(
      "SELECT probability, answer FROM predictions.truth JOIN lab.true_yes USING (id) WHERE run_time::date = $1::date",
      [item.day],
    );
    const known = rows.filter((row) => row["answer"] !== null);
    expect({ predicted: item.predicted, answered: item.answered }).toEqual({
      predicted: rows.length,
      answered: known.length,
    });
    const figures = figureMaker("binary", {
      answers: Float64Array.from(known, (row) => Number(row["answer"])),
      outputs: [Float64Array.from(known, (row) => Number(row["probability"]))],
    })(undefined);
    for (const name of ["auc", "log_loss", "brier"] as const)
      expect(item.figures[name]).toBeCloseTo(figures[name]!, 10);
  }
});

test("numbers are held against their answers too", async () => {
  await bench.sql(labTable({ table: "lab.true_number", answer: "x1 + u" }));
  await bench.save(
    labFile({
      name: "truth_number",
      from: "lab.true_number",
      ...file,
      delivery: "{name: desk, table: predictions.truth_number, contract: {otherwise: warn, most_worse: 100}}",
    })
      .replace("kind: binary", "kind: number")
      .replace("algorithm: logistic_regression", "algorithm: linear_regression"),
  );
  await bench.train("truth_number", day(1));
  await answersArrive("lab.true_number", "x1 + 0.5 + 0.1 * (id % 7)");
  for (const value of [2, 3]) await bench.run("score", "truth_number", { at: day(value) });
  const pipeline = (await findPipeline(bench.context.store.db, "truth_number"))!;
  const [first] = await truthOfPipeline(bench.context.store.db, pipeline.id, "2026-05-01");
  const rows = await bench.sql(
    "SELECT prediction, answer FROM predictions.truth_number JOIN lab.true_number USING (id) WHERE run_time::date = date '2026-06-02'",
  );
  const figures = figureMaker("number", {
    answers: Float64Array.from(rows, (row) => Number(row["answer"])),
    outputs: [Float64Array.from(rows, (row) => Number(row["prediction"]))],
  })(undefined);
  for (const name of ["rmse", "mae", "r_squared"] as const)
    expect(first!.figures[name]).toBeCloseTo(figures[name]!, 9);
});

test("predictions that turn out worse than holdout are told once, and clear when they are as on holdout again", async () => {
  await bench.sql(labTable({ table: "lab.true_worse" }));
  await bench.save(
    labFile({
      name: "worse",
      from: "lab.true_worse",
      ...file,
      delivery: "{name: desk, table: predictions.worse, contract: {otherwise: warn}}",
    }),
  );
  const model = await bench.train("worse", day(1));
  const pipeline = (await findPipeline(bench.context.store.db, "worse"))!;
  const told = async () =>
    (await listAlerts(bench.context.store.db, 24)).filter(
      (alert) => alert.pipelineId === pipeline.id && alert.kind === "worse",
    );
  await answersArrive("lab.true_worse", "id % 2 = 0");
  for (const value of [2, 3, 4]) await bench.run("score", "worse", { at: day(value) });
  const [alert, ...more] = await told();
  expect(more).toEqual([]);
  expect(alert).toMatchObject({
    clearedAt: null,
    problems: [
      expect.objectContaining({
        code: "worse_than_promised",
        message: expect.stringContaining(`version ${model.number}`) as string,
      }),
    ],
  });
  // The answers had been wrong: once they are mended the figures are, too.
  await bench.sql(
    "UPDATE lab.true_worse SET answer = p.prediction FROM predictions.worse p WHERE p.id = lab.true_worse.id",
  );
  await bench.run("score", "worse", { at: day(5) });
  expect((await told())[0]!.clearedAt).not.toBeNull();
});
