import { openBench, type Bench } from "../testing/warehouse";
import { letTimePass, sendWeightsLater } from "./later";
import { DEMO_SEED, loadDemo } from "./load";
import { DAY, DEMO_NOW, makeWorld } from "./world";

const SCALE = 0.1;
let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.admin((client) => loadDemo(client, { scale: SCALE }));
});
afterAll(() => bench.close());

const one = async (text: string): Promise<Record<string, unknown>> => (await bench.sql(text))[0]!;
const counts = () =>
  one(
    "SELECT (SELECT count(*)::int FROM larkmere.parcels) AS parcels, (SELECT count(*)::int FROM larkmere.messages) AS messages, (SELECT count(*)::int FROM larkmere.weather) AS weather",
  );

test("days pass: parcels are booked, come and go, nothing happens later than now, and it happens the same way again", async () => {
  const world = makeWorld(DEMO_SEED, SCALE);
  const before = await counts();
  const waiting = await one(
    "SELECT count(*)::int AS n, min(parcel_id) AS first FROM larkmere.parcels WHERE delivered_at > timestamptz '2026-06-28' AND collected_at IS NULL",
  );
  const until = (days: number): Date => new Date(DEMO_NOW.getTime() + days * DAY);
  for (const day of [0, 1, 2, 3, 4, 5, 6])
    await bench.admin((client) =>
      letTimePass(client, world, { scale: SCALE, from: until(day), to: until(day + 1) }),
    );
  const after = await counts();
  // About as many a day as before: 6,000 parcels in 425 days.
  expect(Number(after["parcels"]) - Number(before["parcels"])).toBeGreaterThan(60);
  expect(Number(after["parcels"]) - Number(before["parcels"])).toBeLessThan(140);
  expect(Number(after["weather"]) - Number(before["weather"])).toBe(14 * 28);
  expect(Number(after["messages"])).toBeGreaterThan(Number(before["messages"]));
  const found =
    await one(`SELECT max(greatest(booked_at, delivered_at, collected_at)) <= timestamptz '${until(7).toISOString()}' AS past, bool_and(collected_at IS NULL OR collected_at > delivered_at) AS ordered,
    count(*) FILTER (WHERE collected_at > timestamptz '${DEMO_NOW.toISOString()}')::int AS collected, count(*) FILTER (WHERE delivered_at > timestamptz '${DEMO_NOW.toISOString()}')::int AS delivered FROM larkmere.parcels`);
  expect(found).toMatchObject({ past: true, ordered: true });
  expect(Number(found["delivered"])).toBeGreaterThan(50);
  expect(Number(found["collected"])).toBeGreaterThan(Number(waiting["n"]) / 2);
  const text = "SELECT md5(string_agg(p::text, '' ORDER BY parcel_id)) AS sum FROM larkmere.parcels p";
  const sum = await one(text);
  await bench.admin((client) => loadDemo(client, { scale: SCALE }));
  for (const day of [0, 1, 2, 3, 4, 5, 6])
    await bench.admin((client) =>
      letTimePass(client, world, { scale: SCALE, from: until(day), to: until(day + 1) }),
    );
  expect(await one(text)).toEqual(sum);
});

test("scales that were out sent next to nothing on four days, and what they owe for two comes later", async () => {
  const gaps = () =>
    bench.sql(
      "SELECT delivered_at::date::text AS day, avg((weight_g IS NULL)::int)::float8 AS share FROM larkmere.parcels WHERE delivered_at::date IN ('2026-05-11', '2026-05-12', '2026-06-03') GROUP BY 1 ORDER BY 1",
    );
  expect((await gaps()).map((row) => Number(row["share"]) > 0.7)).toEqual([false, true, true]);
  await bench.admin(sendWeightsLater);
  expect((await gaps()).map((row) => Number(row["share"]) > 0.7)).toEqual([false, true, false]);
});
