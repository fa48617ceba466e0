import { listAlerts } from "@/store/alerts";
import { driftOfPipeline, pastDrift } from "@/store/drift";
import { labFile, labTable } from "../../testing/lab";
import { openBench, TEST_NOW, type Bench } from "../../testing/warehouse";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(labTable());
});
afterAll(() => bench.close());

const later = (days: number): Date => new Date(TEST_NOW.getTime() + days * 86_400_000);

test("rows like those of training do not drift; a shifted number, a new category and gaps do, and somebody hears of it until it is over", async () => {
  await bench.save(
    labFile({
      name: "drifting",
      delivery:
        "{name: desk, table: predictions.drifting, contract: {most_missing_increase: 1, most_unseen: 1}}",
    }),
  );
  const model = await bench.train("drifting");
  const spreads = model.data.spreads!;
  expect(spreads.map((spread) => [spread.column, spread.kind])).toEqual([
    ["x1", "number"],
    ["x2", "number"],
    ["cat", "category"],
    ["prediction", "number"],
  ]);
  // Tenths hold a tenth each, of the training rows alone; nothing lies beyond their range.
  const [below, ...inside] = spreads[0]!.counts;
  expect([below, inside.pop()]).toEqual([0, 0]);
  for (const count of inside) expect(count / model.data.trainingRows).toBeCloseTo(0.1, 1);
  expect(spreads[2]).toMatchObject({
    levels: expect.arrayContaining(["ash", "elm", "fir", "oak"]) as string[],
  });
  const open = async (): Promise<number> =>
    (await listAlerts(bench.context.store.db, 24)).filter(
      (alert) => alert.kind === "drift" && alert.clearedAt === null,
    ).length;
  expect(await bench.run("score", "drifting")).toMatchObject({ state: "done" });
  expect(await open()).toBe(0);
  // A column that changes without the predictions is kept on record; nobody is woken, unless the contract says so.
  await bench.sql("UPDATE lab.rows SET cat = CASE WHEN id % 2 = 0 THEN cat END WHERE answer IS NULL");
  await bench.run("score", "drifting", { at: later(0.5) });
  expect(await open()).toBe(0);
  await bench.sql(
    "UPDATE lab.rows SET x1 = x1 + 4, cat = 'yew' WHERE answer IS NULL; UPDATE lab.rows SET x2 = NULL WHERE answer IS NULL AND id % 2 = 0",
  );
  await bench.run("score", "drifting", { at: later(1) });
  expect(await open()).toBe(1);
  const kept = await driftOfPipeline(bench.context.store.db, model.pipelineId, 10);
  const [first, , second] = kept;
  expect(await pastDrift(bench.context.store.db, model.pipelineId, 10)).toEqual(
    kept.map(({ runTime, columns }) => ({
      runTime,
      psi: Object.fromEntries(columns.map(({ column, psi }) => [column, psi])),
    })),
  );
  const of = (row: typeof first, column: string) => row!.columns.find((drift) => drift.column === column)!;
  for (const column of ["x1", "x2", "cat", "prediction"]) expect(of(first, column).psi).toBeLessThan(0.2);
  for (const column of ["x1", "cat", "prediction"]) expect(of(second, column).psi).toBeGreaterThan(0.25);
  expect(of(second, "x2").missing[1]).toBeGreaterThan(0.5);
  expect(of(second, "cat").parts.at(-1)).toMatchObject({ name: "unseen", before: 0, now: 1 });
  await bench.sql(labTable());
  await bench.run("score", "drifting", { at: later(2) });
  expect(await open()).toBe(0);
});

test("flags, columns of zeros, constants and a hundred more columns are held against training, as counted by hand", async () => {
  await bench.sql(
    `CREATE TABLE lab.flags AS SELECT id, x1, x2, answer, ((id / 7) % 20 = 0)::int AS flag, CASE WHEN (id / 7) % 16 = 0 THEN id * 0.37 ELSE 0 END AS amount, 1 + 0 * id AS one, ${Array.from({ length: 110 }, (_, index) => `(id * ${index + 3}) % ${index + 7} AS n${index}`).join(", ")} FROM lab.rows`,
  );
  await bench.save(
    `ravlen: 1
name: flags
strands: [{name: rows, from: lab.flags}]
roles: {key: [id], target: {column: answer, kind: binary}}
rows: {from: rows, train: answer is not null, score: answer is null}
holdout: {share: 0.25, seed: 1}
candidates: [{name: c, algorithm: decision_tree}]
delivery: [{name: desk, table: predictions.flags, contract: {most_missing_increase: 1, most_unseen: 1, most_outside: 1}}]`,
  );
  const model = await bench.train("flags");
  expect(model.data.spreads).toHaveLength(116);
  await bench.sql(
    "UPDATE lab.flags SET flag = ((id / 7) % 10 < 6)::int, amount = CASE WHEN (id / 7) % 5 = 0 THEN 0 ELSE id * 0.37 END, one = 7 WHERE answer IS NULL",
  );
  await bench.run("score", "flags", { at: later(3) });
  const [found] = await driftOfPipeline(bench.context.store.db, model.pipelineId, 1);
  expect(found!.columns).toHaveLength(116);
  const of = (column: string) => found!.columns.find((drift) => drift.column === column)!;
  expect(of("flag").psi).toBeGreaterThan(1.5);
  expect(of("amount").psi).toBeGreaterThan(2);
  expect(of("one").parts).toEqual([
    { name: "1", before: 1, now: 0 },
    { name: "unseen", before: 0, now: 1 },
  ]);
  const [byHand] = await bench.sql(
    "SELECT avg(flag) FILTER (WHERE answer IS NULL)::float8 AS now, avg((amount = 0)::int) FILTER (WHERE answer IS NULL)::float8 AS zeros FROM lab.flags",
  );
  expect(of("flag").parts.find((part) => part.name === "1")!.now).toBeCloseTo(Number(byHand!["now"]), 12);
  expect(of("amount").parts.find((part) => part.name === "0")!.now).toBeCloseTo(Number(byHand!["zeros"]), 12);
});
