import { readdirSync } from "node:fs";
import path from "node:path";
import { labFile, labTable } from "../../testing/lab";
import { openBench, type Bench } from "../../testing/warehouse";
import type { Problem } from "@/core/problem";
import { openQueue } from "@/runs/queue";
import { listBackfills } from "@/store/backfills";
import { findPipeline } from "@/store/pipelines";
import { listRuns } from "@/store/runs";
import * as actions from "./actions";
import * as connectionActions from "./connection-actions";
import * as demoActions from "./demo-actions";
import * as draftActions from "./draft-actions";
import * as fileActions from "./file-actions";
import * as importActions from "./import-actions";
import * as operatingActions from "./operating-actions";
import * as pipelineActions from "./pipeline-actions";
import * as tableActions from "./table-actions";
import * as trainingActions from "./training-actions";

/** Pages are not served here, so none is to be made anew. */
jest.mock("next/cache", () => ({ revalidatePath: () => undefined }));

/** What anybody may send to the web server: whatever it is, it is answered in our words, and no database hears of it. */
let bench: Bench;
let boss: Awaited<ReturnType<typeof openQueue>>;
beforeAll(async () => {
  bench = await openBench();
  boss = await openQueue(bench.databaseUrl, "sender", () => undefined);
  Object.assign(globalThis, {
    ravlenOpened: Promise.resolve({ context: bench.context, lookedAt: Infinity }),
    ravlenBoss: Promise.resolve(boss),
  });
  await bench.sql(labTable({ rows: 400 }));
  await bench.save(labFile({ more: 'schedules: [{name: daily, run: score, cron: "0 6 * * *", zone: UTC}]' }));
  await bench.train("lab");
});
afterAll(async () => {
  await boss.stop({ graceful: false, wait: false });
  await bench.close();
});

const ODD: readonly unknown[] = [
  undefined,
  null,
  "",
  "\0",
  "1.5",
  -1,
  0,
  1.5,
  Number.NaN,
  2 ** 31,
  1e300,
  "x".repeat(3_000_000),
  [],
  [null],
  {},
  { name: "\0" },
  { pipeline: "lab\0", table: "lab.rows", into: "", columns: ["\0"], allUnseen: "stop" },
  { pipeline: "lab", delivery: "desk", from: "2026-02-31", until: "9999-99-99", parallel: 1e9, by: "" },
  { pipeline: "lab", kind: "train", candidate: "\0", without: ["\0"], share: -1 },
  { pipeline: "lab", part: "candidates", place: 1e9, entry: { name: "\0" } },
  { text: "\0", basedOn: 1.5, note: 7, revision: 2 ** 40, pipeline: "lab" },
  { model: 2 ** 31, note: "\0", starred: "yes" },
  { schema: "\0", table: "rows" },
];

/** What may be answered where something is wrong. Never what a database or a library says. */
function expectOurWords(what: string, problems: readonly Problem[]): void {
  expect([what, problems.length > 0]).toEqual([what, true]);
  for (const { code, message } of problems) {
    expect([what, code, /^(unexpected|warehouse_error)$/.test(code)]).toEqual([what, code, false]);
    expect([what, message]).toEqual([
      what,
      expect.not.stringMatching(/[[{]\s*"|invalid_|Invalid input|ZodError/),
    ]);
  }
}

type Action = (...given: readonly unknown[]) => Promise<{ ok: boolean; problems?: readonly Problem[] }>;

test("every action answers whatever is sent in our words", async () => {
  const all = Object.entries({
    ...actions,
    ...connectionActions,
    ...demoActions,
    ...draftActions,
    ...fileActions,
    ...importActions,
    ...operatingActions,
    ...pipelineActions,
    ...tableActions,
    ...trainingActions,
  }) as unknown as readonly (readonly [string, Action])[];
  expect(all.length).toBeGreaterThan(30);
  for (const [name, action] of all) {
    // What is sent may be good by chance (a name that is not there, hours that are none): then it is no problem.
    for (const first of ODD)
      for (const more of [[], ODD.slice(0, 4), [true, { by: "\0", reason: 5 }]]) {
        const answer = await action(first, ...more);
        if (!answer.ok)
          expectOurWords(`${name}(${JSON.stringify(first)?.slice(0, 60)})`, answer.problems ?? []);
      }
  }
});

type Handler = (request: Request, context: { params: Promise<Record<string, string>> }) => Promise<Response>;

/** Every route of the application, by its place. */
const ROUTES = readdirSync("src/app/api", { recursive: true, encoding: "utf8" }).filter(
  (file) => file.endsWith("route.ts") && !/^(runs\/events|metrics|health)/.test(file),
);
const TEXTS = ["", "\0", "1.5", "-1", "0", String(2 ** 31), "9".repeat(400), "lab", "%", "' OR 1=1", "[]"];

test.each(ROUTES)("%s answers whatever is sent in our words", async (file) => {
  const module = (await import(path.resolve("src/app/api", file))) as Readonly<Record<string, Handler>>;
  for (const method of ["GET", "POST"] as const) {
    const handler = module[method];
    if (!handler) continue;
    for (const text of TEXTS) {
      const query = new URLSearchParams(
        [
          "schema",
          "table",
          "column",
          "order",
          "offset",
          "limit",
          "format",
          "a",
          "b",
          "x",
          "y",
          "target",
          "choice",
          "value",
          "name",
        ].map((name) => [name, text]),
      );
      for (const body of method === "GET"
        ? [undefined]
        : [text, JSON.stringify(text), JSON.stringify({ text }), "{}"]) {
        const request = new Request(`http://127.0.0.1/api?${query}`, {
          method,
          ...(body === undefined ? {} : { body }),
        });
        const response = await handler(request, { params: Promise.resolve({ id: text, question: text }) });
        const what = `${method} ${file} ${JSON.stringify(text).slice(0, 40)}`;
        expect([what, response.status < 500]).toEqual([what, true]);
        if (!response.ok)
          expectOurWords(what, ((await response.json()) as { problems: readonly Problem[] }).problems);
        else await response.body?.cancel();
      }
    }
  }
});

test("the same order at the same moment is one, and once it has ended another", async () => {
  const { db } = bench.context.store;
  const pipeline = (await findPipeline(db, "lab"))!;
  const order = {
    pipeline: "lab",
    delivery: "",
    from: "2026-06-01",
    until: "2026-06-05",
    parallel: 2,
    by: "",
  };
  const backfills = await Promise.all(
    Array.from({ length: 10 }, () => operatingActions.startBackfill(order)),
  );
  expect(new Set(backfills.map((backfill) => backfill.ok && backfill.value)).size).toBe(1);
  expect(await listBackfills(db, pipeline.id)).toHaveLength(1);
  const other = await operatingActions.startBackfill({ ...order, until: "2026-06-06" });
  expect(other.ok && other.value !== (backfills[0]?.ok && backfills[0].value)).toBe(true);

  const count = async (): Promise<number> =>
    (await listRuns(db, { limit: 100, pipelineId: pipeline.id })).length;
  // Some of what was sent above was a good order.
  await bench.context.store.pool.query("UPDATE runs SET state = 'cancelled' WHERE state = 'queued'");
  const before = await count();
  const started = () => actions.startRun({ kind: "train", pipeline: "lab" });
  const runs = await Promise.all(Array.from({ length: 10 }, started));
  expect(new Set(runs.map((run) => run.ok && run.value)).size).toBe(1);
  expect(await count()).toBe(before + 1);
  // Another candidate or share is another order.
  await trainingActions.startTrial({ pipeline: "lab", share: 0.5 });
  expect(await count()).toBe(before + 2);
  const first = runs[0]!;
  await actions.cancelRun(first.ok ? first.value : "");
  await started();
  expect(await count()).toBe(before + 3);
});
