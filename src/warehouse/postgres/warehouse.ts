import type pg from "pg";
import { z } from "zod";
import type { Question } from "@/core/questions/question";
import type { Relation } from "@/core/relation/relation";
import { currentAsker } from "../asking";
import type { WarehouseCatalog } from "../port/catalog";
import type { WarehouseConfig } from "../port/engine";
import type { Exports } from "../port/exports";
import type { PredictionFunctions } from "../port/functions";
import type { Ledger } from "../port/landing";
import type { SessionOptions } from "../port/session";
import type { AskOptions, Warehouse } from "../port/warehouse";
import { statementMinutes } from "../statement-time";
import { catalogOf } from "./catalog";
import { createPool } from "./connection";
import { postgresDialect } from "./dialect/dialect";
import { printRelation } from "./dialect/relation";
import { functionsOf } from "./functions";
import { ledgerOf } from "./ledger";
import { badPattern } from "./pattern";
import { exportsOf, MOST_EXPORTS } from "./rows-out";
import { PostgresSession, TABLE_NAMES, type Rows } from "./session";
import { SilenceWatch } from "./silence";

const LOCK_MILLISECONDS = 5000;
/** How long an export waits for its turn. */
const EXPORT_PATIENCE = 600_000;
/** How long a run waits for a table that somebody holds locked, in seconds, before it is put off. */
const runLockSeconds = (): number => Number(process.env["RAVLEN_LOCK_SECONDS"]) || 30;

/**
 * A PostgreSQL warehouse, reached with two roles. The reader serves catalog, profiles, samples and previews and
 * cannot write; the writer owns the output and scratch schemas and nothing else.
 */
export class PostgresWarehouse implements Warehouse {
  readonly dialect = postgresDialect;
  readonly catalog: WarehouseCatalog;
  readonly ledger: Ledger;
  readonly exports: Exports;
  readonly functions: PredictionFunctions;
  readonly readers: pg.Pool;
  readonly writers: pg.Pool;
  /**
   * Connections for whole tables that are handed out, however slowly somebody takes them: questions never wait for
   * them.
   */
  readonly exporters: pg.Pool;
  /** For ending what another connection asks. */
  private readonly enders: pg.Pool;
  private readonly silence: SilenceWatch;

  /** @param patience milliseconds that a statement waits before the server is asked whether it still answers */
  constructor(
    readonly config: WarehouseConfig,
    patience?: number,
  ) {
    this.readers = createPool(config.reader, 6, "reader");
    this.writers = createPool(config.writer, 6, "writer");
    this.exporters = createPool(config.reader, MOST_EXPORTS, "export", EXPORT_PATIENCE);
    this.enders = createPool(config.reader, 1, "cancel");
    this.silence = new SilenceWatch(config.reader, 60_000 * (statementMinutes() + 2), patience);
    for (const pool of this.pools) this.silence.over(pool);
    this.catalog = catalogOf(this);
    this.ledger = ledgerOf(this);
    this.exports = exportsOf(this);
    this.functions = functionsOf(this);
  }

  private get pools(): readonly pg.Pool[] {
    return [this.readers, this.writers, this.exporters, this.enders];
  }

  badPattern(pattern: string): Promise<string | undefined> {
    return badPattern(this, pattern);
  }

  answers(): Promise<boolean> {
    return this.silence.answers();
  }

  /**
   * Runs one statement as the reader, ended by the server after `milliseconds`, or when who asks goes away
   * (`asking`); a table that somebody holds locked is not waited for long.
   */
  async read(sql: string, values: readonly unknown[] = [], milliseconds = 60_000): Promise<Rows> {
    const signal = currentAsker();
    signal?.throwIfAborted();
    const client = await this.silence.connect(this.readers);
    let cancelling: Promise<unknown> | undefined;
    let cancel = (): void => undefined;
    try {
      // A role can undo the default of its own transactions, but not what a transaction began with.
      const pid = await beginReading(client, milliseconds);
      cancel = () => {
        cancelling ??= this.enders.query("SELECT pg_cancel_backend($1)", [pid]).catch(() => undefined);
      };
      signal?.addEventListener("abort", cancel, { once: true });
      signal?.throwIfAborted();
      const result = await client.query(sql, [...values]);
      signal?.removeEventListener("abort", cancel);
      await cancelling;
      await client.query("COMMIT");
      client.release(cancelling !== undefined);
      return result.rows as Rows;
    } catch (error) {
      signal?.removeEventListener("abort", cancel);
      await cancelling;
      const ended = await client.query("ROLLBACK").catch(() => undefined);
      // What was to be cancelled may be cancelled a moment later: nobody else shall meet that.
      client.release(ended === undefined || cancelling !== undefined);
      throw error;
    }
  }

  async ask<Answer>(
    { relation, read }: Question<Answer>,
    { runTime = new Date().toISOString(), milliseconds }: AskOptions = {},
  ): Promise<Answer> {
    return read(await this.read(printRelation(relation, { runTime }), [], milliseconds));
  }

  async ping(role: "reader" | "writer"): Promise<void> {
    if (role === "reader") await this.read("SELECT 1", [], 5000);
    else await this.writers.query("SELECT 1");
  }

  async tableNames(schema: string): Promise<readonly string[]> {
    return (await this.read(TABLE_NAMES, [schema], 5000)).map((row) => String(row["name"]));
  }

  /** How many rows the planner expects of a relation, which costs no look at them; undefined where it cannot say. */
  async estimate(
    relation: Relation,
    { runTime = new Date().toISOString(), milliseconds }: AskOptions = {},
  ): Promise<number | undefined> {
    const [row] = await this.read(
      `EXPLAIN (FORMAT JSON) ${printRelation(relation, { runTime })}`,
      [],
      milliseconds,
    );
    return planRows.safeParse(row).data?.["QUERY PLAN"][0].Plan["Plan Rows"];
  }

  /** One session of the writer, for work that belongs together: temporary tables, transactions, many questions. */
  async session({
    record = () => undefined,
    runTime = new Date().toISOString(),
  }: Partial<SessionOptions> = {}): Promise<PostgresSession> {
    const client = await this.silence.connect(this.writers);
    // A connection lost between two statements must end the run, not the process.
    const broken = (): void => undefined;
    client.on("error", broken);
    // Wide sums are compiled for longer than they run, and parallel workers pay off on far smaller tables than
    // PostgreSQL assumes.
    await client.query(
      "SET jit = off; SET max_parallel_workers_per_gather = 2; SET min_parallel_table_scan_size = '1MB'; SET work_mem = '128MB'",
    );
    await client.query(
      `SET lock_timeout = ${Math.trunc(1000 * runLockSeconds())}; SET statement_timeout = ${Math.trunc(60_000 * statementMinutes())}`,
    );
    const { rows } = await client.query<{ pid: number }>("SELECT pg_backend_pid() AS pid");
    return new PostgresSession({
      client,
      pid: rows[0]?.pid ?? 0,
      config: this.config,
      options: { record, runTime },
      cancel: (pid) => this.cancel(pid),
      released: () => client.removeListener("error", broken),
    });
  }

  /** Ends the statement that a session is running, if it is one of ours. */
  private async cancel(pid: number): Promise<void> {
    await this.writers.query(
      "SELECT pg_cancel_backend(pid) FROM pg_stat_activity WHERE pid = $1 AND usename = current_user",
      [pid],
    );
  }

  async end(): Promise<void> {
    this.silence.end();
    await Promise.all(this.pools.map((pool) => pool.end()));
  }
}

/** The rows that the planner expects, in its answer to EXPLAIN. */
const planRows = z.object({
  "QUERY PLAN": z.tuple([z.looseObject({ Plan: z.looseObject({ "Plan Rows": z.number() }) })]),
});

/** Begins a transaction that cannot write. @returns the process that serves it */
async function beginReading(client: pg.PoolClient, milliseconds: number): Promise<number> {
  const answers = (await client.query(
    `BEGIN READ ONLY; SET LOCAL statement_timeout = ${Math.trunc(milliseconds)}; SET LOCAL lock_timeout = ${LOCK_MILLISECONDS}; SELECT pg_backend_pid() AS pid`,
  )) as unknown as readonly pg.QueryResult<{ pid: number }>[];
  return answers.at(-1)?.rows[0]?.pid ?? 0;
}
