import { table } from "@/core/relation/relation";
import { openBench, type Bench } from "../../../testing/warehouse";
import { until } from "../../../testing/installation";
import { askingFor } from "../asking";
import { MOST_EXPORTS, streamRows } from "./rows-out";

let bench: Bench;
beforeAll(async () => {
  bench = await openBench();
  await bench.sql(
    "CREATE TABLE public.long AS SELECT id, repeat('x', 500) AS filling FROM generate_series(1, 60000) id",
  );
});
afterAll(() => bench.close());

const COLUMNS = ["id", "filling"];
const LONG = {
  relation: table({ schema: "public", table: "long" }, COLUMNS),
  runTime: new Date().toISOString(),
  columns: COLUMNS,
};
const running = async (text: string): Promise<number> => {
  const [row] = await bench.sql(
    "SELECT count(*)::integer AS running FROM pg_stat_activity WHERE state = 'active' AND query LIKE $1 AND pid <> pg_backend_pid()",
    [text],
  );
  return Number(row?.["running"]);
};

test("readers that take nothing hold up neither questions nor each other for ever", async () => {
  const { warehouse } = bench.context;
  const slow = await Promise.all(
    Array.from({ length: MOST_EXPORTS }, () => streamRows(warehouse, LONG, "csv", 2000)),
  );
  const errors = slow.map((stream) => new Promise((resolve) => stream.once("error", resolve)));
  expect(await running("COPY%")).toBe(MOST_EXPORTS);
  // All connections for exports are taken, and questions are answered.
  const answers = await Promise.all(Array.from({ length: 12 }, () => warehouse.read("SELECT 1 AS one")));
  expect(answers).toHaveLength(12);
  for (const error of await Promise.all(errors))
    expect(String(error)).toContain("the client stopped reading");
  // The next one has its turn, and is whole.
  let bytes = 0;
  for await (const piece of await streamRows(warehouse, LONG, "csv")) bytes += (piece as Buffer).length;
  expect(bytes).toBeGreaterThan(60_000 * 500);
  expect(await until("the exports to end", async () => (await running("COPY%")) === 0)).toBe(true);
});

test("who goes away from a question ends it in the warehouse; others are not met by that", async () => {
  const { warehouse } = bench.context;
  const stop = new AbortController();
  const asked = askingFor(stop.signal, () => warehouse.read("SELECT pg_sleep(60), 'waited for' AS text"));
  const outcome = asked.then(
    () => "answered",
    (error: { readonly code?: string }) => error.code,
  );
  await until("the question to run", async () => (await running("%waited for%")) > 0);
  stop.abort();
  expect(await outcome).toBe("57014");
  expect(await running("%waited for%")).toBe(0);
  const others = await Promise.all(
    Array.from({ length: 30 }, () => warehouse.read("SELECT pg_sleep(0.02), 1 AS one")),
  );
  expect(others).toHaveLength(30);
  await expect(askingFor(AbortSignal.abort(), () => warehouse.read("SELECT 1"))).rejects.toThrow();
});

test("who goes away from an export that is written in pages ends it between two of them", async () => {
  const stop = new AbortController();
  let pages = 0;
  const reading = askingFor(stop.signal, async () => {
    for await (const page of bench.context.warehouse.exports.pages(LONG, 10)) {
      pages += page.length / 10;
      stop.abort();
    }
  });
  await expect(reading).rejects.toThrow();
  expect(pages).toBe(1);
  expect(await running("FETCH%")).toBe(0);
});
