import { serviceHistory } from "@/store/models";
import { findPipeline } from "@/store/pipelines";
import { labFile, labTable } from "../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";
import { consequencesOf, putInService, retire, takeBack, takeOutOfService } from "./service";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
});
afterAll(() => bench.close());

const published = async (name: string): Promise<string[]> =>
  (
    await bench.sql(
      "SELECT proname FROM pg_proc WHERE pronamespace = 'predictions'::regnamespace AND proname LIKE $1 ORDER BY 1",
      [`predict_${name}%`],
    )
  ).map((row) => String(row["proname"]));

test("versions come and go with reasons; what that does is told before; a retired one cannot serve", async () => {
  const { db } = bench.context.store;
  const file = labFile({
    name: "served",
    more: "functions: {}\nschedules: [{name: nightly, run: score, cron: '15 2 * * *', zone: Europe/Lisbon}]",
    delivery:
      "{name: desk, table: predictions.served, routes: [{when: prediction, table: predictions.served_yes}]}",
  });
  await bench.save(file);
  const one = await bench.train("served");
  await bench.save(file.replace("share: 0.25", "share: 0.3"));
  const two = await bench.train("served");
  await takeOutOfService(bench.context, (await findPipeline(db, "served"))!, {});
  await putInService(bench.context, one.id, { by: "ada", reason: "the first" });
  expect(await consequencesOf(bench.context, two.id)).toEqual({
    version: 2,
    candidate: "plain",
    doubts: [],
    now: { id: one.id, number: 1, candidate: "plain" },
    files: [1, 2],
    deliveries: [{ name: "desk", tables: ["predictions.served_yes", "predictions.served"] }],
    schedules: [{ name: "nightly", next: "2026-07-01T01:15:00.000Z" }],
    functions: ["predict_served", "predict_served_rows"],
    before: { id: two.id, number: 2 },
  });
  await putInService(bench.context, two.id, { by: "ada", reason: "better by a little" });
  expect(await published("served")).toEqual([
    "predict_served",
    "predict_served_rows",
    "predict_served_v1",
    "predict_served_v1_rows",
    "predict_served_v2",
    "predict_served_v2_rows",
  ]);
  await expect(retire(bench.context, two.id)).rejects.toMatchObject({
    problems: [expect.objectContaining({ code: "version_in_service" })],
  });
  await retire(bench.context, one.id);
  expect(await published("served")).toEqual([
    "predict_served",
    "predict_served_rows",
    "predict_served_v2",
    "predict_served_v2_rows",
  ]);
  await expect(putInService(bench.context, one.id, {})).rejects.toMatchObject({
    problems: [expect.objectContaining({ code: "version_retired" })],
  });
  expect((await findPipeline(db, "served"))!.inService).toBe(two.id);
  await takeBack(bench.context, one.id);
  await putInService(bench.context, one.id, { reason: "back" });
  expect(
    (await serviceHistory(db, one.pipelineId))
      .slice(0, 3)
      .map((event) => [event.modelId, event.by, event.reason]),
  ).toEqual([
    [one.id, null, "back"],
    [two.id, "ada", "better by a little"],
    [one.id, "ada", "the first"],
  ]);
  expect(await bench.run("score", "served", { at: TEST_NOW })).toMatchObject({ state: "done", rows: 400 });
});

test("a version whose functions cannot be made does not serve, and what served before still does", async () => {
  const { db } = bench.context.store;
  await bench.save(
    labFile({
      name: "kept",
      more: "functions: {grant_to: [nobody_by_this_name]}",
      delivery: "{name: desk, table: predictions.kept}",
    }),
  );
  const one = await bench.train("kept");
  const two = await bench.train("kept");
  await expect(putInService(bench.context, one.id, {})).rejects.toThrow(/nobody_by_this_name/);
  expect((await findPipeline(db, "kept"))!.inService).toBe(two.id);
  expect(await published("kept")).toEqual([]);
});
