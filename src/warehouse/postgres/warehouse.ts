import type pg from "pg";
import { z } from "zod";
import { addLeaving, countValues, NOTHING_LEFT, type Leaving } from "@/core/evaluate/leaving";
import type { Question } from "@/core/questions/question";
import { cast, column } from "@/core/expression/ast";
import { sqlType } from "./dialect/expression";
import { postgresDialect } from "./dialect/dialect";
import { printRelation } from "./dialect/relation";
import { project, type Relation, type TableReference } from "@/core/relation/relation";
import { quoteIdentifier, quoteTable, quoteText } from "@/core/sql/quote";
import type { ValueType } from "@/core/value-type";
import { currentAsker } from "../asking";
import { copyOut } from "./copy-out";
import { RowReader } from "./row-reader";
import { SilenceWatch } from "./silence";
import { createPool, type StatementRecord, type WarehouseLogin } from "./connection";

export interface WarehouseConfig {
  readonly reader: WarehouseLogin;
  readonly writer: WarehouseLogin;
  /** Schema in which prediction tables and the ledger live. */
  readonly outputSchema: string;
  /** Schema for tables loaded from files. */
  readonly importSchema: string;
  /** Schema for frames, stages and kept holdouts. */
  readonly scratchSchema: string;
}

const LOCK_MILLISECONDS = 5000;
/** Exports at once, and how long one waits for its turn, in milliseconds. */
export const MOST_EXPORTS = 3;
const EXPORT_PATIENCE = 600_000;
/** How long a run waits for a table that somebody holds locked, in seconds, before it is put off. */
const runLockSeconds = (): number => Number(process.env["RAVLEN_LOCK_SECONDS"]) || 30;

/** How long a statement of a run may take, in minutes. */
export const statementMinutes = (): number => Number(process.env["RAVLEN_STATEMENT_MINUTES"]) || 120;

export interface SessionOptions {
  /** Is given every statement that was run. */
  readonly record: (statement: StatementRecord) => void;
  /** The logical time of questions, as an ISO 8601 text with offset. */
  readonly runTime: string;
}

export interface AskOptions {
  /** The logical time of the question, as an ISO 8601 text with offset; now when left out. */
  readonly runTime?: string;
  /** How long the answer may take. */
  readonly milliseconds?: number | undefined;
}

export type Rows = readonly Readonly<Record<string, unknown>>[];

/** A column of a table, by name and type. */
export interface TypedColumn {
  readonly name: string;
  readonly type: ValueType;
}

/** Rows that are read as typed arrays. */
export interface StreamRequest {
  readonly relation: Relation;
  readonly purpose: string;
  /** Columns that are read as double precision, with the arrays that take them. */
  readonly doubles: readonly { readonly name: string; readonly values: Float64Array }[];
  /** Columns that are read as whole numbers of 32 bits. */
  readonly integers: readonly { readonly name: string; readonly values: Int32Array }[];
  /** How many rows there are. */
  readonly rows: number;
}

/** Rows between two reports of progress. */
const REPORTED_ROWS = 100_000;

/**
 * A PostgreSQL warehouse, reached with two roles. The reader serves catalog, profiles, samples and previews and
 * cannot write; the writer owns the output and scratch schemas and nothing else.
 */
export class Warehouse {
  readonly dialect = postgresDialect;
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
  }

  private get pools(): readonly pg.Pool[] {
    return [this.readers, this.writers, this.exporters, this.enders];
  }

  /** Whether the server is there, asked now. */
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

  /** Answers a question as the reader. */
  async ask<Answer>(
    { relation, read }: Question<Answer>,
    { runTime = new Date().toISOString(), milliseconds }: AskOptions = {},
  ): Promise<Answer> {
    return read(await this.read(printRelation(relation, { runTime }), [], milliseconds));
  }

  /** Whether a role is answered; throws when it is not. */
  async ping(role: "reader" | "writer"): Promise<void> {
    if (role === "reader") await this.read("SELECT 1", [], 5000);
    else await this.writers.query("SELECT 1");
  }

  /** Names of the tables of a schema. */
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
  }: Partial<SessionOptions> = {}): Promise<WarehouseSession> {
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
    return new WarehouseSession(client, rows[0]?.pid ?? 0, { record, runTime }, () =>
      client.removeListener("error", broken),
    );
  }

  /** Ends the statement that a session is running, if it is one of ours. */
  async cancel(pid: number): Promise<void> {
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

const TABLE_NAMES =
  "SELECT c.relname AS name FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = $1 AND c.relkind = 'r'";

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

export class WarehouseSession {
  /** What came out of the warehouse in this session. */
  leaving: Leaving = NOTHING_LEFT;
  private asked = 0;

  constructor(
    readonly client: pg.PoolClient,
    readonly pid: number,
    private readonly options: SessionOptions,
    private readonly released: () => void,
  ) {}

  /** Runs one statement and records it with its time and rows. */
  async run(sql: string, purpose: string, values: readonly unknown[] = []): Promise<Rows> {
    return (await this.perform(sql, purpose, values)).rows as Rows;
  }

  /** Answers a question about the rows at the session's logical time. */
  async ask<Answer>({ relation, purpose, read }: Question<Answer>): Promise<Answer> {
    return read(await this.run(printRelation(relation, this.options), purpose));
  }

  /**
   * Computes rows into a new scratch table.
   * @param lifetime whether the table is needed for this run only, or kept, so that it must outlive a crash of the server
   * @returns how many rows there are
   */
  async materialize(
    relation: Relation,
    into: TableReference,
    purpose: string,
    lifetime: "run" | "kept" = "run",
  ): Promise<number> {
    const unlogged = lifetime === "run" ? "UNLOGGED " : "";
    const rows = printRelation(relation, this.options);
    return this.affected(`CREATE ${unlogged}TABLE ${quoteTable(into)} AS\n${rows}`, purpose);
  }

  /** Adds rows to a scratch table, which is made when it is not there. @returns how many rows were added */
  async append(relation: Relation, into: TableReference, purpose: string): Promise<number> {
    const rows = printRelation(relation, this.options);
    await this.run(
      `CREATE UNLOGGED TABLE IF NOT EXISTS ${quoteTable(into)} AS\n${rows}\nWITH NO DATA`,
      `a table for ${purpose}`,
    );
    return this.affected(`INSERT INTO ${quoteTable(into)}\n${rows}`, purpose);
  }

  /** Makes an empty scratch table. */
  async create(into: TableReference, columns: readonly TypedColumn[], purpose: string): Promise<void> {
    const list = columns.map(({ name, type }) => `${quoteIdentifier(name)} ${sqlType(type)}`).join(", ");
    await this.run(`CREATE UNLOGGED TABLE ${quoteTable(into)} (${list})`, purpose);
  }

  /** Adds rows to a table, whose values are here, column by column. */
  async insert(
    into: TableReference,
    columns: readonly (TypedColumn & { readonly values: readonly unknown[] })[],
    purpose: string,
  ): Promise<void> {
    const names = columns.map(({ name }) => quoteIdentifier(name)).join(", ");
    const arrays = columns.map(({ type }, index) => `$${index + 1}::${sqlType(type)}[]`).join(", ");
    await this.run(
      `INSERT INTO ${quoteTable(into)} (${names}) SELECT * FROM unnest(${arrays})`,
      purpose,
      columns.map(({ values }) => values),
    );
  }

  /** Drops a table, which need not be there. */
  async drop(table: TableReference, purpose: string): Promise<void> {
    await this.run(`DROP TABLE IF EXISTS ${quoteTable(table)}`, purpose);
  }

  /** Names of the tables of a schema. */
  async tableNames(schema: string, purpose: string): Promise<readonly string[]> {
    return (await this.run(TABLE_NAMES, purpose, [schema])).map((row) => String(row["name"]));
  }

  /** Has the warehouse look at the values of a table, so that it plans well what reads it. */
  async analyze(table: TableReference, purpose: string): Promise<void> {
    await this.run(`ANALYZE ${quoteTable(table)}`, purpose);
  }

  /** Gives this session the name of its owner, and ends sessions that an earlier one with that name has left. */
  async takeOver(owner: string): Promise<void> {
    await this.run(`SET application_name = ${quoteText(owner)}`, "label this session with the run");
    await this.run(
      "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE application_name = $1 AND usename = current_user AND pid <> pg_backend_pid()",
      "end sessions of an earlier attempt",
      [owner],
    );
  }

  /** Runs one statement and gives how many rows it wrote. */
  async affected(sql: string, purpose: string, values: readonly unknown[] = []): Promise<number> {
    return (await this.perform(sql, purpose, values)).rowCount ?? 0;
  }

  private async perform(sql: string, purpose: string, values: readonly unknown[]): Promise<pg.QueryResult> {
    const started = performance.now();
    const result = await this.waiting(() => this.client.query(sql, [...values]));
    this.options.record({ sql, purpose, milliseconds: performance.now() - started, rows: result.rowCount });
    this.leave({ values: countValues(result.rows) });
    return result;
  }

  /** Whether an answer of the warehouse is waited for. */
  get waits(): boolean {
    return this.asked > 0;
  }

  private async waiting<T>(work: () => Promise<T>): Promise<T> {
    this.asked += 1;
    try {
      return await work();
    } finally {
      this.asked -= 1;
    }
  }

  /**
   * Reads columns of rows into typed arrays. A missing double becomes NaN, a missing whole number 0; what is NaN
   * in the warehouse, where it lies above every number, becomes Infinity.
   * @param progress is called now and then with the number of rows so far; may throw to stop
   * @throws Error when there are more or fewer rows than expected
   */
  async stream(
    { relation, purpose, doubles, integers, rows }: StreamRequest,
    progress: (rows: number) => void = () => undefined,
  ): Promise<void> {
    const read = project(relation, [
      ...doubles.map(({ name }) => ({ name, expression: cast(column(name), "double precision") })),
      ...integers.map(({ name }) => ({ name, expression: cast(column(name), "integer") })),
    ]);
    const sql = printRelation(read, this.options);
    const reader = new RowReader(
      doubles.map(({ values }) => values),
      integers.map(({ values }) => values),
      rows,
    );
    const started = performance.now();
    let reported = 0;
    const take: typeof reader.take = (view, from, to) => {
      reader.take(view, from, to);
      if (reader.rows - reported <= REPORTED_ROWS) return;
      reported = reader.rows;
      progress(reported);
    };
    await this.waiting(() => copyOut(this.client, `COPY (${sql}) TO STDOUT (FORMAT binary)`, take));
    this.options.record({ sql, purpose, milliseconds: performance.now() - started, rows: reader.rows });
    this.leave({ values: reader.rows * (doubles.length + integers.length) });
    if (reader.rows !== rows) throw new Error(`expected ${rows} rows, ${reader.rows} came`);
  }

  /**
   * Counts what came out of the warehouse in another way than as the answer to a statement, or says what kind of
   * rows an answer was.
   */
  leave(more: Partial<Leaving>): void {
    this.leaving = addLeaving(this.leaving, more);
  }

  /** Runs `work` in one transaction: all of it lands, or nothing. */
  async transaction<T>(work: () => Promise<T>): Promise<T> {
    await this.client.query("BEGIN");
    try {
      const value = await work();
      await this.client.query("COMMIT");
      return value;
    } catch (error) {
      await this.client.query("ROLLBACK").catch(() => undefined);
      throw error;
    }
  }

  /** Gives the connection back; a session that failed is closed, so that no temporary table outlives it. */
  release(destroy = false): void {
    this.released();
    this.client.release(destroy);
  }
}
