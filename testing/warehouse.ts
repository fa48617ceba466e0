import { TEST_NOW } from "./test-time";
import { randomBytes } from "node:crypto";
import type pg from "pg";
import { z } from "zod";
import type { Model } from "@/core/learn/model";
import { parsePipeline } from "@/core/pipeline/parse";
import { describeProblem, unwrap, type Problem } from "@/core/problem";
import { loadGrammar } from "@/core/expression/parse";
import { asAdmin, type AdminLogin } from "@/cli/services/postgres";
import { provisionStore, provisionWarehouse } from "@/cli/services/provision";
import { checkText } from "@/runs/check-file";
import type { Context } from "@/runs/context";
import { executeRun } from "@/runs/execute";
import { migrateStore, openStore } from "@/store/database";
import { modelById, setInService, type ModelRow } from "@/store/models";
import { findPipeline, newestVersion, saveVersion } from "@/store/pipelines";
import { addRun, runById, type RunRow } from "@/store/runs";
import type { RunKind, RunOptions } from "@/store/schema";
import type { WarehouseConfig } from "@/warehouse/port/engine";
import type { Warehouse } from "@/warehouse/port/warehouse";
import { PostgresWarehouse } from "@/warehouse/postgres/warehouse";

const adminSchema = z.object({ host: z.string(), port: z.number(), user: z.string(), password: z.string() });

/** The superuser of the PostgreSQL that `./ravlen test` started. */
export function testAdmin(): AdminLogin {
  const text = process.env["RAVLEN_TEST_ADMIN"];
  if (!text)
    throw new Error("These tests need the PostgreSQL that ./ravlen test starts: ./ravlen test warehouse");
  return adminSchema.parse(JSON.parse(text));
}

/** A version's model as one of a known learner. */
export function modelAs<Name extends Model["algorithm"]>(
  row: ModelRow,
  algorithm: Name,
): Extract<Model, { algorithm: Name }> {
  if (row.model.algorithm !== algorithm)
    throw new Error(`expected ${algorithm}, found ${row.model.algorithm}`);
  return row.model as Extract<Model, { algorithm: Name }>;
}

export { TEST_NOW };

/** A context whose warehouse is what it is, so that a test can write statements. */
interface BenchContext<Kind extends Warehouse> extends Context {
  readonly warehouse: Kind;
}

/** A fresh application database and a fresh warehouse, with the means to work in them as a person would. */
export interface Bench<Kind extends Warehouse = PostgresWarehouse> {
  readonly context: BenchContext<Kind>;
  readonly databaseUrl: string;
  readonly warehouseName: string;
  /** Runs statements as the superuser of the warehouse. */
  readonly sql: (text: string, values?: readonly unknown[]) => Promise<readonly Record<string, unknown>[]>;
  readonly admin: <T>(work: (client: pg.Client) => Promise<T>) => Promise<T>;
  /** Saves a pipeline file, or throws with its problems. */
  readonly save: (text: string) => Promise<void>;
  /** Problems that a text has against this warehouse. */
  readonly problems: (text: string) => Promise<readonly Problem[]>;
  /** Orders a run and does it here and now. */
  readonly run: (
    kind: RunKind,
    pipeline: string,
    options?: RunOptions & { readonly at?: Date },
  ) => Promise<RunRow>;
  /** Trains, fails the test when that fails, and puts the version in service. */
  readonly train: (pipeline: string, at?: Date) => Promise<ModelRow>;
  readonly close: () => Promise<void>;
}

/** Opens a bench of its own, for one test file or one benchmark, on the server that a superuser's login names. */
export const openBench = (admin: AdminLogin = testAdmin()): Promise<Bench> =>
  openBenchOf((config) => new PostgresWarehouse(config), admin);

/** The same with a warehouse of any kind; what the application keeps for itself is in PostgreSQL. */
export async function openBenchOf<Kind extends Warehouse>(
  openWarehouse: (config: WarehouseConfig) => Kind,
  admin: AdminLogin = testAdmin(),
): Promise<Bench<Kind>> {
  await loadGrammar();
  const id = randomBytes(4).toString("hex");
  const databaseUrl = await provisionStore(admin, `store_${id}`);
  const warehouseName = `warehouse_${id}`;
  const config = await provisionWarehouse(admin, {
    database: warehouseName,
    outputSchema: "predictions",
    scratchSchema: "scratch",
    importSchema: "imported",
  });
  const store = openStore(databaseUrl);
  await migrateStore(store, process.cwd());
  const context: BenchContext<Kind> = {
    store,
    warehouse: openWarehouse(config),
    now: () => Promise.resolve(TEST_NOW),
  };
  const { db } = store;
  const asWarehouseAdmin: Bench["admin"] = (work) => asAdmin(admin, warehouseName, work);

  const run: Bench["run"] = async (kind, name, { at, ...options } = {}) => {
    const pipeline = await findPipeline(db, name);
    const version = pipeline && (await newestVersion(db, pipeline.id));
    if (!pipeline || !version) throw new Error(`no pipeline ${name}`);
    const ordered = await addRun(db, {
      kind,
      pipelineId: pipeline.id,
      pipelineVersionId: version.id,
      cause: "hand",
      runTime: at ?? TEST_NOW,
      options,
    });
    await executeRun(context, ordered!.id, "test");
    return (await runById(db, ordered!.id))!;
  };
  return {
    context,
    databaseUrl,
    warehouseName,
    run,
    admin: asWarehouseAdmin,
    sql: (text, values = []) =>
      asWarehouseAdmin(
        async (client) => (await client.query<Record<string, unknown>>(text, [...values])).rows,
      ),
    save: async (text) => {
      const plan = unwrap(await checkText(text, context.warehouse));
      await saveVersion(db, unwrap(parsePipeline(text)).file, text, plan.hash, TEST_NOW);
    },
    problems: async (text) => {
      const checked = await checkText(text, context.warehouse);
      return checked.ok ? checked.value.warnings : checked.problems;
    },
    train: async (name, at) => {
      const trained = await run("train", name, at ? { at } : {});
      if (trained.state !== "done")
        throw new Error(`training ${trained.state}: ${trained.problems.map(describeProblem).join("; ")}`);
      const model = (await modelById(db, trained.modelId!))!;
      await setInService(db, model.pipelineId, model.id);
      return model;
    },
    close: async () => {
      await Promise.all([store.pool.end(), context.warehouse.end()]);
    },
  };
}
