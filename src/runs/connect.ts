import { problem, type Problem } from "@/core/problem";
import { workingImports } from "@/store/imports";
import { unfinishedRuns } from "@/store/runs";
import { demoState, saveWarehouse } from "@/store/settings";
import type { Store } from "@/store/database";
import { engine } from "@/warehouse/engines";
import type { RoleCheck, WarehouseConfig } from "@/warehouse/port/engine";

/** What came of connecting a warehouse. */
export interface Connected {
  readonly checks: readonly RoleCheck[];
  /** Whether it is the warehouse from now on. */
  readonly connected: boolean;
}

/** Why another warehouse cannot be connected now. */
async function obstacle({ db }: Store): Promise<Problem | undefined> {
  if (await demoState(db))
    return problem(
      "demo_warehouse",
      "This is the demo, whose clock is not the computer's.",
      "Stop it, and start a separate installation in another folder: RAVLEN_HOME=FOLDER ./ravlen start.",
    );
  const [runs, imports] = await Promise.all([unfinishedRuns(db), workingImports(db)]);
  return runs + imports.length > 0
    ? problem(
        "warehouse_in_use",
        "Runs or imports are active in the connected warehouse.",
        "Wait until they end, or cancel them.",
      )
    : undefined;
}

/**
 * Tries a warehouse and, when both roles can do their work, makes it the one that is used from now on; web
 * server and workers turn to
 * it by themselves. Logins are kept encrypted. Problems: demo_warehouse, warehouse_in_use.
 */
export async function connectWarehouse(
  store: Store,
  config: WarehouseConfig,
  key: Buffer,
): Promise<Connected | { readonly problem: Problem }> {
  const stopped = await obstacle(store);
  if (stopped) return { problem: stopped };
  const checks = await engine.tryRoles(config);
  const connected = checks.every(({ state }) => state !== "wrong");
  if (connected) await saveWarehouse(store.db, "warehouse", config, key);
  return { checks, connected };
}
