import { readFileSync, rmSync, writeFileSync } from "node:fs";
import path from "node:path";
import { z } from "zod";
import {
  homeFolder,
  instanceFile,
  openContext,
  closeContext,
  readInstance,
  type Context,
  type Instance,
} from "@/runs/context";
import { importMegabytes } from "@/runs/import/memory";
import { migrateStore, openStore } from "@/store/database";
import { readWarehouse, saveWarehouse } from "@/store/settings";
import { buildPages } from "./build";
import { KeptChild, type ChildOptions } from "./children";
import { lockFolder } from "./folder-lock";
import { ALIVE_PATH } from "./liveness";
import { freePort } from "./ports";
import { openPrivateFolder } from "./private-folder";
import { adminLogin, keepPostgres, startPostgres, stopPostgres, type AdminLogin } from "./postgres";
import { encryptionKey, provisionStore, provisionWarehouse } from "./provision";

export const say = (line: string): void => void process.stderr.write(`ravlen: ${line}\n`);

export const DEFAULT_WEB_PORT = 4380;
export const DEFAULT_DATABASE_PORT = 54380;

/** Whether a process is alive and is one of this project's. Process ids are used again by others. */
function isOurs(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return readFileSync(`/proc/${pid}/cmdline`, "utf8").includes("src/cli/main.ts");
  } catch {
    return false;
  }
}

/** The running installation of this folder, if its command is alive. */
export function runningInstance(home = homeFolder()): Instance | undefined {
  const instance = readInstance(home);
  return instance && isOurs(instance.pid) ? instance : undefined;
}

/** What the web server says when it is ready. */
const listening = z.object({ port: z.number() });

export interface Running {
  readonly instance: Instance;
  readonly admin: AdminLogin;
  readonly context: Context;
  readonly startWorkers: (count: number) => Promise<void>;
  readonly startWeb: () => Promise<void>;
  readonly stop: () => Promise<void>;
}

export interface StartOptions {
  readonly webPort: number;
  readonly databasePort: number;
  readonly build: boolean;
  /** Names of the databases; tests use their own. */
  readonly warehouse: {
    readonly database: string;
    readonly outputSchema: string;
    readonly scratchSchema: string;
    readonly importSchema: string;
  };
}

/** Of several workers, the one that keeps free for what is small. */
const SMALL_WORKER = 1;

/**
 * Starts database, store and warehouse of this folder and gives the means to start web server and workers.
 * Whatever an earlier start left behind is stopped first; data are kept.
 */
export async function startInstallation(options: StartOptions): Promise<Running> {
  const home = homeFolder();
  const other = runningInstance(home);
  if (other)
    throw new Error(`Ravlen is already running here: http://127.0.0.1:${other.port} (process ${other.pid}).`);
  const unlock = await lockFolder(home);
  try {
    openPrivateFolder(home);
    return await startLocked(home, options, unlock);
  } catch (error) {
    unlock();
    throw error;
  }
}

async function startLocked(home: string, options: StartOptions, unlock: () => void): Promise<Running> {
  const root = process.cwd();
  if (options.build) await buildPages(root, say);
  say("starting the database");
  const { port: databasePort, folder } = await startPostgres(home, () => freePort(options.databasePort), say);
  const admin = adminLogin(home, databasePort);
  const databaseUrl = await provisionStore(admin, "ravlen");
  let instance: Instance = {
    databaseUrl,
    key: encryptionKey(home),
    port: options.webPort,
    databasePort,
    pid: process.pid,
  };
  const note = (): void => writeFileSync(instanceFile(home), JSON.stringify(instance), { mode: 0o600 });
  note();
  const store = openStore(databaseUrl);
  await migrateStore(store, root);
  const key = Buffer.from(instance.key, "hex");
  const config = await readWarehouse(store.db, key);
  // Our own warehouse gets fresh passwords and perhaps another port; one that was connected is left as it is.
  const own = !config || config.reader.database === options.warehouse.database;
  if (own)
    await saveWarehouse(store.db, "warehouse", await provisionWarehouse(admin, options.warehouse), key);
  await store.pool.end();
  const context = await openContext(instance);
  const children: KeptChild[] = [];
  const unwatch = keepPostgres(home, folder, databasePort, say);
  const add = async (
    name: string,
    script: string,
    { env = {}, ...more }: Partial<Pick<ChildOptions, "alive" | "onReady" | "env" | "megabytes">> = {},
  ): Promise<void> => {
    const child = new KeptChild({
      name,
      script: path.join(root, script),
      home,
      env: { RAVLEN_HOME: home, ...env },
      say,
      ...more,
    });
    children.push(child);
    await child.start();
  };
  return {
    get instance() {
      return instance;
    },
    admin,
    context,
    startWorkers: async (count) => {
      for (let index = 0; index < count; index += 1)
        await add(index === 0 ? "worker" : `worker-${index + 1}`, "src/worker/main.ts", {
          env: { RAVLEN_WORKER_TAKES: index === SMALL_WORKER ? "small" : "all" },
        });
      await add("imports", "src/worker/imports.ts", { megabytes: importMegabytes() });
    },
    startWeb: () =>
      add("web", "src/cli/web.ts", {
        alive: () => `http://127.0.0.1:${instance.port}${ALIVE_PATH}`,
        // The port that is wanted may be taken; the web server says which one it has.
        onReady: (said) => {
          instance = { ...instance, ...listening.parse(said) };
          note();
        },
      }),
    stop: async () => {
      unwatch();
      await Promise.all(children.map((child) => child.stop()));
      await closeContext(context);
      stopPostgres(folder);
      rmSync(instanceFile(home), { force: true });
      unlock();
    },
  };
}
