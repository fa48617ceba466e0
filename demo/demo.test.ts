import { readFileSync } from "node:fs";
import { parsePipeline } from "@/core/pipeline/parse";
import { unwrap } from "@/core/problem";
import { checkText } from "@/runs/check-file";
import { valuesOf } from "@/runs/draft/columns";
import { stepCounts } from "@/runs/draft/preview";
import { openBench, type Bench } from "../testing/warehouse";
import { loadDemo } from "./load";
import { TABLES } from "./tables";
import { DEMO_NOW, makeWorld } from "./world";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.admin((client) => loadDemo(client, { scale: 1 }));
});
afterAll(() => bench.close());

const one = async (text: string): Promise<Record<string, unknown>> => (await bench.sql(text))[0]!;

test("the same seed gives the same rows", () => {
  for (const table of TABLES) {
    const rows = () => JSON.stringify([...table.rows(7, 0.02, makeWorld(7, 0.02))]);
    expect(rows()).toBe(rows());
    expect(rows()).not.toBe(JSON.stringify([...table.rows(8, 0.02, makeWorld(8, 0.02))]));
  }
});

test("the tables have the faults that real tables have, and nothing from the future", async () => {
  expect(Number((await one("SELECT count(*) AS n FROM larkmere.parcels"))["n"])).toBe(60_000);
  const faults =
    await one(`SELECT count(*) FILTER (WHERE weight_g IS NULL) AS gaps, count(DISTINCT carrier) AS spellings, count(DISTINCT lower(btrim(carrier))) AS carriers,
    (SELECT count(*) FROM (SELECT town, observed_at FROM larkmere.weather GROUP BY 1, 2 HAVING count(*) > 1) d) AS doubled,
    min(booked_at) FILTER (WHERE size_class = 'XL') > timestamptz '2026-06-01' AS new_category, max(greatest(booked_at, delivered_at, collected_at)) <= timestamptz '${DEMO_NOW.toISOString()}' AS past FROM larkmere.parcels`);
  expect(Number(faults["gaps"])).toBeGreaterThan(1000);
  expect(Number(faults["spellings"])).toBeGreaterThan(Number(faults["carriers"]));
  expect(Number(faults["doubled"])).toBeGreaterThan(10);
  expect(faults).toMatchObject({ carriers: "4", new_category: true, past: true });
});

test("the main pipeline learns a truth that is there but not complete, and delivers what is still waiting", async () => {
  const text = readFileSync("demo/uncollected-72h.yaml", "utf8");
  await bench.save(text);
  const { name } = unwrap(parsePipeline(text)).file;
  const model = await bench.train(name, DEMO_NOW);
  expect(model.metrics.auc).toBeGreaterThan(0.8);
  expect(model.metrics.auc).toBeLessThan(0.88);
  const run = await bench.run("score", name, { at: DEMO_NOW });
  expect(run.state).toBe("done");
  const waiting = await one(
    `SELECT count(*)::int AS n FROM larkmere.parcels WHERE delivered_at > timestamptz '${DEMO_NOW.toISOString()}' - interval '72 hours' AND collected_at IS NULL`,
  );
  expect(run.rows).toBe(waiting["n"]);
  expect(waiting["n"]).toBeGreaterThan(50);
});

test.each([
  ["arrivals-by-site-day", "site days", 20_000],
  ["latch-wear", "readings", 8000],
  ["message-topic", "messages", 3900],
])(
  "%s prepares its rows up to the point of training, and nothing in it gives the answer away",
  async (name, strand, least) => {
    const plan = unwrap(await checkText(readFileSync(`demo/${name}.yaml`, "utf8"), bench.context.warehouse));
    expect(plan.warnings).toEqual([]);
    const { rows, present } = await stepCounts(
      plan,
      bench.context.warehouse,
      strand,
      plan.main.steps.length,
      DEMO_NOW.toISOString(),
    );
    expect(rows).toBeGreaterThan(least);
    // What reaches the learner is complete, but for the target.
    const gaps = plan.features
      .filter((feature) => (present[feature.name] ?? rows) < rows)
      .map((feature) => feature.name);
    expect(gaps).toEqual([]);
    if (plan.file.roles.target.kind === "classes")
      expect(
        (
          await valuesOf(
            plan,
            bench.context.warehouse,
            strand,
            plan.main.steps.length,
            DEMO_NOW.toISOString(),
            plan.file.roles.target.column,
          )
        ).every((value) => value.rows > rows / 50),
      ).toBe(true);
  },
);

test("the column known only afterwards gives the answer away, and training says so", async () => {
  const text = readFileSync("demo/uncollected-72h.yaml", "utf8")
    .replace("name: uncollected-72h", "name: leaking")
    .replace(/ {4}- column: reminders_sent\n.*\n/, "")
    .replace("    reminders_sent: after\n", "")
    .replace("predictions.uncollected_72h", "predictions.leaking");
  await bench.save(text);
  const plain = await bench.run("train", "leaking", { at: DEMO_NOW });
  expect(plain.problems[0]).toMatchObject({
    code: "separated",
    message: expect.stringContaining('"reminders_sent"') as string,
  });
});
