import { openContext, readInstance, type Context } from "@/runs/context";
import { openQueue } from "@/runs/queue";
import type PgBoss from "pg-boss";

/** One set of connections for the whole web server, however often a page module is loaded. */
const shared = globalThis as typeof globalThis & {
  ravlenContext?: Promise<Context> | undefined;
  ravlenBoss?: Promise<PgBoss> | undefined;
};

export function appContext(): Promise<Context> {
  shared.ravlenContext ??= (async () => {
    const instance = readInstance();
    if (!instance) throw new Error("Ravlen is not running here.");
    return openContext(instance);
  })().catch((error: unknown) => {
    // A failure (the database is just restarting) must not be remembered for good.
    shared.ravlenContext = undefined;
    throw error;
  });
  return shared.ravlenContext;
}

export function appQueue(): Promise<PgBoss> {
  shared.ravlenBoss ??= (async () => {
    const instance = readInstance();
    if (!instance) throw new Error("Ravlen is not running here.");
    return openQueue(instance.databaseUrl, "sender", () => undefined);
  })().catch((error: unknown) => {
    shared.ravlenBoss = undefined;
    throw error;
  });
  return shared.ravlenBoss;
}
