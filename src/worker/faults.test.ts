import { spawn, type ChildProcess } from "node:child_process";
import { randomBytes } from "node:crypto";
import { chmodSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { freePort } from "@/cli/services/ports";
import { asAdmin, adminLogin, startPostgres, stopPostgres, type AdminLogin, type PostgresFolder } from "@/cli/services/postgres";
import { provisionStore, provisionWarehouse } from "@/cli/services/provision";
import { checkText } from "@/runs/check-file";
import { closeContext, instanceFile, openContext, type Context, type Instance } from "@/runs/context";
import { openQueue, orderRun } from "@/runs/queue";
import { parsePipeline } from "@/core/pipeline/parse";
import { unwrap } from "@/core/problem";
import { migrateStore, openStore } from "@/store/database";
import { listModels, setInService } from "@/store/models";
import { findPipeline, saveVersion } from "@/store/pipelines";
import { runById, runRecord, type RunRow } from "@/store/runs";
import { saveWarehouse } from "@/store/settings";
import { labFile, labTable } from "../../testing/lab";

/** A whole installation of its own: its PostgreSQL can be stopped and its worker killed without disturbing other tests. */
let home: string;
let folder: PostgresFolder;
let admin: AdminLogin;
let instance: Instance;
let context: Context;
let boss: Awaited<ReturnType<typeof openQueue>>;
const workers: ChildProcess[] = [];
const DATABASE = "faults_warehouse";

const pause = (milliseconds: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, milliseconds));

async function until<T>(what: string, look: () => Promise<T | undefined | false>, seconds = 60): Promise<T> {
  const end = Date.now() + seconds * 1000;
  for (;;) {
    const found = await look().catch(() => undefined);
    if (found) return found;
    if (Date.now() > end) throw new Error(`waited ${seconds} s for ${what}`);
    await pause(100);
  }
}

function startWorker(): Promise<ChildProcess> {
  const child = spawn(process.execPath, ["--import", "tsx", "src/worker/main.ts"], { env: { ...process.env, RAVLEN_HOME: home, RAVLEN_LOG: "silent", NODE_ENV: "production" }, stdio: ["ignore", "ignore", "inherit", "ipc"] });
  workers.push(child);
  return new Promise((resolve, reject) => {
    child.once("message", () => resolve(child));
    child.once("exit", (code, signal) => reject(new Error(`worker ended (${signal ?? code})`)));
  });
}

async function kill(worker: ChildProcess): Promise<void> {
  const gone = new Promise((resolve) => worker.once("exit", resolve));
  worker.kill("SIGKILL");
  await gone;
}

const sql = (text: string): Promise<readonly Record<string, unknown>[]> => asAdmin(admin, DATABASE, async (client) => (await client.query<Record<string, unknown>>(text)).rows);
const order = async (kind: "train" | "score", runTime: string): Promise<string> => unwrap(await orderRun(context, boss, { kind, pipeline: "lab", cause: "hand", runTime: new Date(runTime) })).id;
const ended = (id: string, seconds = 90): Promise<RunRow> => until(`the end of run ${id}`, async () => {
  const run = await runById(context.store.db, id);
  return run && ["done", "failed", "cancelled"].includes(run.state) && run;
}, seconds);
const atStep = (id: string, name: string): Promise<true> => until(`step "${name}"`, async () => (await runRecord(context.store.db, id)).steps.some((each) => each.name === name && each.state === "running") && true);

/** Makes every row that is written into the prediction table take its time, so that there is a middle to be killed in. */
const SLOW = `CREATE OR REPLACE FUNCTION public.slowly() RETURNS trigger LANGUAGE plpgsql AS 'BEGIN PERFORM pg_sleep(0.01); RETURN NEW; END';
CREATE TRIGGER slowly BEFORE INSERT ON predictions.lab FOR EACH ROW EXECUTE FUNCTION public.slowly()`;

async function connect(): Promise<void> {
  context = await openContext(instance);
  boss = await openQueue(instance.databaseUrl, "sender", () => undefined);
}

beforeAll(async () => {
  home = mkdtempSync(path.join(tmpdir(), "ravlen-faults-"));
  chmodSync(home, 0o711);
  const started = await startPostgres(home, () => freePort(54600), () => undefined);
  folder = started.folder;
  admin = adminLogin(home, started.port);
  const key = randomBytes(32).toString("hex");
  const databaseUrl = await provisionStore(admin, "faults_store");
  const store = openStore(databaseUrl);
  await migrateStore(store, process.cwd());
  await saveWarehouse(store.db, "warehouse", await provisionWarehouse(admin, { database: DATABASE, outputSchema: "predictions", scratchSchema: "scratch", importSchema: "imported" }), Buffer.from(key, "hex"));
  await store.pool.end();
  instance = { databaseUrl, key, port: 0, databasePort: started.port, pid: process.pid };
  writeFileSync(instanceFile(home), JSON.stringify(instance), { mode: 0o600 });
  await connect();
  await sql(labTable());
  const text = labFile();
  const plan = unwrap(await checkText(text, context.warehouse));
  await saveVersion(context.store.db, unwrap(parsePipeline(text)).file, text, plan.hash, new Date());
});

afterAll(async () => {
  for (const worker of workers) if (worker.exitCode === null && worker.signalCode === null) await kill(worker);
  await boss.stop({ graceful: false, wait: false });
  await closeContext(context);
  stopPostgres(folder);
  rmSync(home, { recursive: true, force: true });
});

async function expectOnce(runId: string, rows: number): Promise<void> {
  expect(await sql("SELECT count(*)::int AS rows, count(DISTINCT id)::int AS keys FROM predictions.lab")).toEqual([{ rows, keys: rows }]);
  expect(await sql(`SELECT count(*)::int AS rows FROM predictions.lab WHERE run_id = '${runId}'`)).toEqual([{ rows }]);
  expect(await sql(`SELECT rows::int FROM predictions.ravlen_ledger WHERE run_id = '${runId}'`)).toEqual([{ rows }]);
  expect(await sql("SELECT relname FROM pg_class WHERE relnamespace = 'scratch'::regnamespace AND relkind = 'r' AND relname !~ '^holdout'")).toEqual([]);
}

test("a worker killed while it writes: the next one finishes the run, and each key is there once", async () => {
  const first = await startWorker();
  expect((await ended(await order("train", "2026-06-30T12:00:00Z"))).state).toBe("done");
  const pipeline = (await findPipeline(context.store.db, "lab"))!;
  await setInService(context.store.db, pipeline.id, (await listModels(context.store.db, pipeline.id))[0]!.id);
  const before = await order("score", "2026-06-30T12:00:00Z");
  expect((await ended(before)).state).toBe("done");
  await sql(SLOW);
  const run = await order("score", "2026-07-01T12:00:00Z");
  await atStep(run, "move them into the prediction table");
  await kill(first);
  // Nobody sees half of it: all rows are still yesterday's.
  await expectOnceBefore(before);
  await startWorker();
  const finished = await ended(run);
  expect(finished).toMatchObject({ state: "done", rows: 400, attempt: 2 });
  await expectOnce(run, 400);
});

async function expectOnceBefore(run: string): Promise<void> {
  expect(await sql(`SELECT count(*)::int AS rows FROM predictions.lab WHERE run_id = '${run}'`)).toEqual([{ rows: 400 }]);
}

test("PostgreSQL restarted while a run writes: the run is taken up again and ends well", async () => {
  const run = await order("score", "2026-07-02T12:00:00Z");
  await atStep(run, "move them into the prediction table");
  await boss.stop({ graceful: false, wait: false });
  await closeContext(context);
  stopPostgres(folder);
  await startPostgres(home, () => Promise.resolve(instance.databasePort), () => undefined);
  await connect();
  expect(await ended(run)).toMatchObject({ state: "done", rows: 400 });
  await expectOnce(run, 400);
});

test("two workers on one queue do each run once", async () => {
  await sql("DROP TRIGGER slowly ON predictions.lab");
  await startWorker();
  const runs = await Promise.all(Array.from({ length: 6 }, (_, index) => order("score", `2026-07-0${index + 3}T12:00:00Z`)));
  for (const run of runs) expect(await ended(run)).toMatchObject({ state: "done", attempt: 1 });
  expect(await sql("SELECT count(*)::int AS n FROM predictions.ravlen_ledger")).toEqual([{ n: 9 }]);
});
