import type pg from "pg";
import { addLeaving, countValues, NOTHING_LEFT, type Leaving } from "@/core/evaluate/leaving";
import { cast, column } from "@/core/expression/ast";
import type { Question } from "@/core/questions/question";
import { project, type Relation, type TableReference } from "@/core/relation/relation";
import { quoteIdentifier, quoteTable, quoteText } from "@/core/sql/quote";
import type { ValueType } from "@/core/value-type";
import type { StatementRecord } from "./connection";
import { copyOut } from "./copy-out";
import { sqlType } from "./dialect/expression";
import { printRelation } from "./dialect/relation";
import { RowReader } from "./row-reader";

export interface SessionOptions {
  /** Is given every statement that was run. */
  readonly record: (statement: StatementRecord) => void;
  /** The logical time of questions, as an ISO 8601 text with offset. */
  readonly runTime: string;
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

/** Lists the tables of a schema, which is the parameter $1. */
export const TABLE_NAMES =
  "SELECT c.relname AS name FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = $1 AND c.relkind = 'r'";

/** One connection of the writer. Every statement is recorded with its purpose, time and rows. */
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
