import { openContext, readInstance, withWarehouseOfNow, type Context, type Instance } from "@/runs/context";
import { openQueue } from "@/runs/queue";
import { warehouseMark } from "@/store/settings";
import type PgBoss from "pg-boss";

/** What the web server works with, and which warehouse that is. */
interface Opened {
  context: Context;
  mark: number | undefined;
  /** When it was last looked whether another warehouse was connected. */
  lookedAt: number;
}

/** One set of connections for the whole web server, however often a page module is loaded. */
const shared = globalThis as typeof globalThis & {
  ravlenOpened?: Promise<Opened> | undefined;
  ravlenBoss?: Promise<PgBoss> | undefined;
};

const LOOK_MILLISECONDS = 1000;
/** Answers that are still being given come from the warehouse of before for so long. */
const LEAVING_MILLISECONDS = 60_000;

function instanceHere(): Instance {
  const instance = readInstance();
  if (!instance) throw new Error("Ravlen is not running here.");
  return instance;
}

async function open(): Promise<Opened> {
  const context = await openContext(instanceHere());
  return { context, mark: await warehouseMark(context.store.db), lookedAt: Date.now() };
}

/** Turns to the warehouse that is connected now, where it is another one. */
async function follow(opened: Opened): Promise<void> {
  opened.lookedAt = Date.now();
  const mark = await warehouseMark(opened.context.store.db);
  if (mark === opened.mark) return;
  const { warehouse: before } = opened.context;
  opened.context = await withWarehouseOfNow(opened.context, instanceHere());
  opened.mark = mark;
  setTimeout(() => void before.end().catch(() => undefined), LEAVING_MILLISECONDS).unref();
}

export async function appContext(): Promise<Context> {
  shared.ravlenOpened ??= open().catch((error: unknown) => {
    // A failure (the database is just restarting) must not be remembered for good.
    shared.ravlenOpened = undefined;
    throw error;
  });
  const opened = await shared.ravlenOpened;
  if (Date.now() - opened.lookedAt > LOOK_MILLISECONDS) await follow(opened);
  return opened.context;
}

/** Looks at once whether another warehouse is connected. */
export async function followWarehouse(): Promise<void> {
  const opened = await shared.ravlenOpened;
  if (opened) await follow(opened);
}

/** Whether the warehouse is the one that came with the installation, on its own server. */
export const isOwnWarehouse = ({ warehouse }: Context): boolean =>
  warehouse.config.reader.port === instanceHere().databasePort &&
  warehouse.config.reader.host === "127.0.0.1";

/** Encrypts logins of warehouses. */
export const encryptionKey = (): Buffer => Buffer.from(instanceHere().key, "hex");

export function appQueue(): Promise<PgBoss> {
  shared.ravlenBoss ??= (async () =>
    openQueue(instanceHere().databaseUrl, "sender", () => undefined))().catch((error: unknown) => {
    shared.ravlenBoss = undefined;
    throw error;
  });
  return shared.ravlenBoss;
}
