import { spawn, type ChildProcess } from "node:child_process";
import { randomBytes } from "node:crypto";
import { chmodSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { freePort } from "@/cli/services/ports";
import {
  adminLogin,
  asAdmin,
  startPostgres,
  stopPostgres,
  type AdminLogin,
  type PostgresFolder,
} from "@/cli/services/postgres";
import { provisionStore, provisionWarehouse } from "@/cli/services/provision";
import { parsePipeline } from "@/core/pipeline/parse";
import { unwrap } from "@/core/problem";
import { checkText } from "@/runs/check-file";
import { closeContext, instanceFile, openContext, type Context, type Instance } from "@/runs/context";
import { openQueue, orderRun } from "@/runs/queue";
import { migrateStore, openStore } from "@/store/database";
import { listModels, setInService } from "@/store/models";
import { findPipeline, saveVersion } from "@/store/pipelines";
import { runById, runRecord, type RunRow } from "@/store/runs";
import { saveWarehouse } from "@/store/settings";

export const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => void setTimeout(resolve, milliseconds));

/** Waits until something is found. */
export async function until<T>(
  what: string,
  look: () => Promise<T | undefined | false>,
  seconds = 180,
  every = 100,
): Promise<T> {
  const end = Date.now() + seconds * 1000;
  for (;;) {
    const found = await look().catch(() => undefined);
    if (found) return found;
    if (Date.now() > end) throw new Error(`waited ${seconds} s for ${what}`);
    await pause(every);
  }
}

const DATABASE = "faults_warehouse";

/** A whole installation of its own: its PostgreSQL can be stopped and its workers killed without disturbing anything else. */
export class TestInstallation {
  readonly workers: ChildProcess[] = [];
  context!: Context;
  boss!: Awaited<ReturnType<typeof openQueue>>;

  private constructor(
    readonly home: string,
    private readonly folder: PostgresFolder,
    readonly admin: AdminLogin,
    private readonly instance: Instance,
  ) {}

  static async open(): Promise<TestInstallation> {
    const home = mkdtempSync(path.join(tmpdir(), "ravlen-faults-"));
    chmodSync(home, 0o711);
    const { folder, port } = await startPostgres(
      home,
      () => freePort(54600),
      () => undefined,
    );
    const admin = adminLogin(home, port);
    const key = randomBytes(32).toString("hex");
    const databaseUrl = await provisionStore(admin, "faults_store");
    const store = openStore(databaseUrl);
    await migrateStore(store, process.cwd());
    await saveWarehouse(
      store.db,
      "warehouse",
      await provisionWarehouse(admin, {
        database: DATABASE,
        outputSchema: "predictions",
        scratchSchema: "scratch",
        importSchema: "imported",
      }),
      Buffer.from(key, "hex"),
    );
    await store.pool.end();
    const instance: Instance = {
      databaseUrl,
      key,
      port: await freePort(4600),
      databasePort: port,
      pid: process.pid,
    };
    writeFileSync(instanceFile(home), JSON.stringify(instance), { mode: 0o600 });
    const made = new TestInstallation(home, folder, admin, instance);
    await made.connect();
    return made;
  }

  /** Lets workers that are started from now on reach the warehouse at another port. */
  async reachWarehouseAt(port: number): Promise<void> {
    const { config } = this.context.warehouse;
    await saveWarehouse(
      this.context.store.db,
      "warehouse",
      { ...config, reader: { ...config.reader, port }, writer: { ...config.writer, port } },
      Buffer.from(this.instance.key, "hex"),
    );
  }

  private async connect(): Promise<void> {
    this.context = await openContext(this.instance);
    this.boss = await openQueue(this.instance.databaseUrl, "sender", () => undefined);
  }

  async close(): Promise<void> {
    for (const worker of this.workers) await this.kill(worker);
    await this.boss.stop({ graceful: false, wait: false });
    await closeContext(this.context);
    stopPostgres(this.folder);
    rmSync(this.home, { recursive: true, force: true });
  }

  startWorker(env: Readonly<Record<string, string>> = {}): Promise<ChildProcess> {
    return this.start("src/worker/main.ts", env);
  }

  /** Starts the web server; the pages have to be built. */
  startWeb(): Promise<ChildProcess> {
    return this.start("src/cli/web.ts", {});
  }

  /** The whole address of a path. */
  address(path: string): string {
    return `http://127.0.0.1:${this.instance.port}${path}`;
  }

  /** What the web server answers to a path. */
  async page(path: string): Promise<string> {
    return (await fetch(this.address(path))).text();
  }

  private start(script: string, env: Readonly<Record<string, string>>): Promise<ChildProcess> {
    const child = spawn(process.execPath, ["--import", "tsx", script], {
      env: { ...process.env, RAVLEN_HOME: this.home, RAVLEN_LOG: "silent", NODE_ENV: "production", ...env },
      stdio: ["ignore", "ignore", "inherit", "ipc"],
    });
    this.workers.push(child);
    return new Promise((resolve, reject) => {
      child.once("message", () => resolve(child));
      child.once("exit", (code, signal) => reject(new Error(`${script} ended (${signal ?? code})`)));
    });
  }

  /** Does something in a process of its own, as the web server does it, and does not wait for it. */
  act(act: "serve" | "withdraw" | "retire" | "save", argument: string | number): ChildProcess {
    const child = spawn(process.execPath, ["--import", "tsx", "testing/act.ts", act, String(argument)], {
      env: { ...process.env, RAVLEN_HOME: this.home, RAVLEN_LOG: "silent", NODE_ENV: "production" },
      stdio: ["ignore", "ignore", "inherit"],
    });
    this.workers.push(child);
    return child;
  }

  /** Holds what a statement changes in the warehouse until it is told to let go, so that others who want to change it wait. */
  async hold(statement: string): Promise<() => Promise<void>> {
    let release: () => void = () => undefined;
    const waiting = new Promise<void>((resolve) => (release = resolve));
    let held: () => void = () => undefined;
    const begun = new Promise<void>((resolve) => (held = resolve));
    const done = asAdmin(this.admin, DATABASE, async (client) => {
      await client.query("BEGIN");
      await client.query(statement);
      held();
      await waiting;
      await client.query("ROLLBACK");
    });
    await begun;
    return async () => {
      release();
      await done;
    };
  }

  async kill(worker: ChildProcess): Promise<void> {
    if (worker.exitCode !== null || worker.signalCode !== null) return;
    const gone = new Promise((resolve) => worker.once("exit", resolve));
    worker.kill("SIGKILL");
    await gone;
  }

  /** Stops PostgreSQL, as a server that goes down does or as one that crashes, and starts it again. */
  async restartPostgres(how: "fast" | "immediate" = "fast"): Promise<void> {
    await this.boss.stop({ graceful: false, wait: false });
    await closeContext(this.context);
    stopPostgres(this.folder, how);
    await startPostgres(
      this.home,
      () => Promise.resolve(this.instance.databasePort),
      () => undefined,
    );
    await this.connect();
  }

  /** Runs a statement as the superuser of the warehouse. */
  sql(text: string, values: readonly unknown[] = []): Promise<readonly Record<string, unknown>[]> {
    return asAdmin(
      this.admin,
      DATABASE,
      async (client) => (await client.query<Record<string, unknown>>(text, [...values])).rows,
    );
  }

  async save(text: string): Promise<void> {
    const plan = unwrap(await checkText(text, this.context.warehouse));
    await saveVersion(
      this.context.store.db,
      unwrap(parsePipeline(text)).file,
      text,
      plan.hash,
      await this.context.now(),
    );
  }

  async order(kind: "train" | "score", runTime: string, pipeline = "lab"): Promise<string> {
    return unwrap(
      await orderRun(this.context, this.boss, { kind, pipeline, cause: "hand", runTime: new Date(runTime) }),
    ).id;
  }

  ended(id: string, seconds = 240): Promise<RunRow> {
    return until(
      `the end of run ${id}`,
      async () => {
        const run = await runById(this.context.store.db, id);
        return run && ["done", "failed", "cancelled"].includes(run.state) && run;
      },
      seconds,
    );
  }

  atStep(id: string, name: string, every = 100): Promise<true> {
    return until(
      `step "${name}"`,
      async () =>
        (await runRecord(this.context.store.db, id)).steps.some(
          (step) => step.name === name && step.state === "running",
        ) && true,
      180,
      every,
    );
  }

  async serveNewest(pipeline = "lab"): Promise<void> {
    const found = (await findPipeline(this.context.store.db, pipeline))!;
    await setInService(
      this.context.store.db,
      found.id,
      (await listModels(this.context.store.db, found.id))[0]!.id,
    );
  }

  /** Lets the claims of dead workers lapse now instead of in some seconds. */
  async lapse(): Promise<void> {
    await this.context.store.pool.query(
      "UPDATE runs SET heartbeat_at = now() - interval '1 hour' WHERE state = 'running'",
    );
  }

  /** Tables in the scratch schema that no version keeps. */
  async leftovers(): Promise<readonly string[]> {
    return (
      await this.sql(
        "SELECT relname FROM pg_class WHERE relnamespace = 'scratch'::regnamespace AND relkind = 'r' AND relname !~ '^(holdout|blind|trained)'",
      )
    ).map((row) => String(row["relname"]));
  }

  /** Resident memory of a worker now, in bytes. */
  memoryOf(worker: ChildProcess): number {
    const found = /VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${worker.pid}/status`, "utf8"));
    return 1024 * Number(found?.[1] ?? 0);
  }
}
