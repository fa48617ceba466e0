import { readFileSync } from "node:fs";
import path from "node:path";
import { z } from "zod";
import { loadGrammar } from "@/core/expression/parse";
import { openStore, type Store } from "@/store/database";
import { clockOffset, readWarehouse } from "@/store/settings";
import { openWarehouse } from "@/warehouse/engines";
import type { Warehouse } from "@/warehouse/port/warehouse";

/** What the one command writes down about the running installation, for web server, worker and command line. */
export const instanceSchema = z.object({
  databaseUrl: z.string(),
  /** 32 bytes in hexadecimal: encrypts warehouse logins. */
  key: z.string(),
  port: z.number(),
  databasePort: z.number(),
  pid: z.number(),
});
export type Instance = z.infer<typeof instanceSchema>;

/** Folder with everything this installation keeps: database, secrets, state. */
export function homeFolder(): string {
  return process.env["RAVLEN_HOME"] ?? path.join(process.cwd(), ".ravlen");
}

/** Folder for files that nobody needs once their process has ended; emptied at each start. */
export const temporaryFolder = (home = homeFolder()): string => path.join(home, "temporary");

export const instanceFile = (home: string): string => path.join(home, "instance.json");

export function readInstance(home = homeFolder()): Instance | undefined {
  try {
    return instanceSchema.parse(JSON.parse(readFileSync(instanceFile(home), "utf8")));
  } catch {
    return undefined;
  }
}

const NO_WAREHOUSE = "No warehouse is set up. Run ./ravlen connect, or ./ravlen demo to try it out.";

/** Everything that work on behalf of a person or a schedule needs. */
export interface Context {
  readonly store: Store;
  readonly warehouse: Warehouse;
  /** The application's clock: the computer's, except in the demo. */
  readonly now: () => Promise<Date>;
}

/** Opens stores and warehouse for a running installation. */
export async function openContext(instance: Pick<Instance, "databaseUrl" | "key">): Promise<Context> {
  await loadGrammar();
  const store = openStore(instance.databaseUrl);
  const config = await readWarehouse(store.db, Buffer.from(instance.key, "hex"));
  if (!config) {
    await store.pool.end();
    throw new Error(NO_WAREHOUSE);
  }
  return {
    store,
    warehouse: openWarehouse(config),
    now: async () => new Date(Date.now() + (await clockOffset(store.db))),
  };
}

/** The same with the warehouse that is connected now. The old one is left to whoever is still asking it. */
export async function withWarehouseOfNow(
  context: Context,
  instance: Pick<Instance, "key">,
): Promise<Context> {
  const config = await readWarehouse(context.store.db, Buffer.from(instance.key, "hex"));
  if (!config) throw new Error(NO_WAREHOUSE);
  return { ...context, warehouse: openWarehouse(config) };
}

export async function closeContext(context: Context): Promise<void> {
  await Promise.all([context.store.pool.end(), context.warehouse.end()]);
}
