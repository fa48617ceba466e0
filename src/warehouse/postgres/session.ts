import type pg from "pg";
import { addLeaving, countValues, NOTHING_LEFT, type Leaving } from "@/core/evaluate/leaving";
import { cast, column } from "@/core/expression/ast";
import type { Question } from "@/core/questions/question";
import { project, type Relation, type TableReference } from "@/core/relation/relation";
import { quoteIdentifier, quoteTable, quoteText } from "./dialect/quote";
import type { TableFacts } from "../port/catalog";
import type { WarehouseConfig } from "../port/engine";
import type { Landing } from "../port/landing";
import type { Loader } from "../port/loader";
import type {
  ColumnValues,
  SessionOptions,
  StreamRequest,
  TypedColumn,
  WarehouseSession,
} from "../port/session";
import { copyOut } from "./copy-out";
import { sqlType } from "./dialect/expression";
import { printRelation } from "./dialect/relation";
import { factsOf } from "./facts";
import { landingOf } from "./landing";
import { loaderOf } from "./loader";
import { RowReader } from "./row-reader";

export type Rows = readonly Readonly<Record<string, unknown>>[];

/** Rows between two reports of progress. */
const REPORTED_ROWS = 100_000;

/** Lists the tables of a schema, which is the parameter $1. */
export const TABLE_NAMES =
  "SELECT c.relname AS name FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = $1 AND c.relkind = 'r'";

/** What a session is made of. */
interface SessionParts {
  readonly client: pg.PoolClient;
  /** The server's process that serves the client. */
  readonly pid: number;
  readonly config: WarehouseConfig;
  readonly options: SessionOptions;
  /** Ends a statement of another connection. */
  readonly cancel: (pid: number) => Promise<void>;
  readonly released: () => void;
}

/** One connection of the writer. */
export class PostgresSession implements WarehouseSession {
  leaving: Leaving = NOTHING_LEFT;
  readonly landing: Landing;
  readonly loader: Loader;
  private asked = 0;

  constructor(private readonly parts: SessionParts) {
    this.landing = landingOf(this, parts.config.outputSchema);
    this.loader = loaderOf(this, parts.config.importSchema);
  }

  get client(): pg.PoolClient {
    return this.parts.client;
  }

  private get options(): SessionOptions {
    return this.parts.options;
  }

  /** Runs one statement and records it with its time and rows. */
  async run(sql: string, purpose: string, values: readonly unknown[] = []): Promise<Rows> {
    return (await this.perform(sql, purpose, values)).rows as Rows;
  }

  async ask<Answer>({ relation, purpose, read }: Question<Answer>): Promise<Answer> {
    return read(await this.run(printRelation(relation, this.options), purpose));
  }

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

  async append(relation: Relation, into: TableReference, purpose: string): Promise<number> {
    const rows = printRelation(relation, this.options);
    await this.run(
      `CREATE UNLOGGED TABLE IF NOT EXISTS ${quoteTable(into)} AS\n${rows}\nWITH NO DATA`,
      `a table for ${purpose}`,
    );
    return this.affected(`INSERT INTO ${quoteTable(into)}\n${rows}`, purpose);
  }

  async create(into: TableReference, columns: readonly TypedColumn[], purpose: string): Promise<void> {
    const list = columns.map(({ name, type }) => `${quoteIdentifier(name)} ${sqlType(type)}`).join(", ");
    await this.run(`CREATE UNLOGGED TABLE ${quoteTable(into)} (${list})`, purpose);
  }

  async insert(into: TableReference, columns: readonly ColumnValues[], purpose: string): Promise<void> {
    const names = columns.map(({ name }) => quoteIdentifier(name)).join(", ");
    const arrays = columns.map(({ type }, index) => `$${index + 1}::${sqlType(type)}[]`).join(", ");
    await this.run(
      `INSERT INTO ${quoteTable(into)} (${names}) SELECT * FROM unnest(${arrays})`,
      purpose,
      columns.map(({ values }) => values),
    );
  }

  async drop(table: TableReference, purpose: string): Promise<void> {
    await this.run(`DROP TABLE IF EXISTS ${quoteTable(table)}`, purpose);
  }

  async tableNames(schema: string, purpose: string): Promise<readonly string[]> {
    return (await this.run(TABLE_NAMES, purpose, [schema])).map((row) => String(row["name"]));
  }

  async analyze(table: TableReference, purpose: string): Promise<void> {
    await this.run(`ANALYZE ${quoteTable(table)}`, purpose);
  }

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

  /** Exact rows and last change of a table, asked by this session, so that they can be cancelled with it. */
  facts(table: TableReference, purpose: string): Promise<TableFacts> {
    return factsOf(this.parts.config, table, (sql, values) => this.run(sql, purpose, values));
  }

  cancel(): Promise<void> {
    return this.parts.cancel(this.parts.pid);
  }

  release(destroy = false): void {
    this.parts.released();
    this.client.release(destroy);
  }
}
