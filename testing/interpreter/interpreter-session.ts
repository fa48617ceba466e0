import { addLeaving, countValues, NOTHING_LEFT, type Leaving } from "@/core/evaluate/leaving";
import { cast, column } from "@/core/expression/ast";
import type { Question } from "@/core/questions/question";
import { project, type Relation, type TableReference } from "@/core/relation/relation";
import type { TableFacts } from "@/warehouse/port/catalog";
import type { Landing } from "@/warehouse/port/landing";
import type { Loader } from "@/warehouse/port/loader";
import type { ColumnValues, StreamRequest, TypedColumn, WarehouseSession } from "@/warehouse/port/session";
import { driverRows } from "./driver-rows";
import { landingOf, type LedgerRow } from "./interpreter-landing";
import type { MemoryTables } from "./memory";
import type { Rows } from "./relations";
import { castValue, isDouble, type Value } from "./values";

/** A value of the caller as one of a column. */
function valueOf(type: TypedColumn["type"], value: unknown): Value {
  if (value === null || value === undefined) return null;
  if (isDouble(type)) return Number(value);
  if (typeof value === "boolean") return value;
  return castValue(String(value), "text", type);
}

/** A missing value as NaN, and NaN, which lies above every number, as endless. */
function streamed(value: number | null): number {
  if (value === null) return Number.NaN;
  return Number.isNaN(value) ? Number.POSITIVE_INFINITY : value;
}

/** A session over tables that are kept here. */
export class InterpreterSession implements WarehouseSession {
  leaving: Leaving = NOTHING_LEFT;
  readonly waits = false;
  readonly landing: Landing;

  constructor(
    private readonly tables: MemoryTables,
    ledger: LedgerRow[],
    private readonly runTime: string,
  ) {
    this.landing = landingOf(tables, ledger, (relation) => this.rows(relation));
  }

  get loader(): Loader {
    throw new Error("the interpreter loads no files");
  }

  private rows(relation: Relation): Rows {
    return this.tables.interpreter(this.runTime).rowsOf(relation);
  }

  async ask<Answer>({ relation, read }: Question<Answer>): Promise<Answer> {
    const rows = await Promise.resolve(driverRows(this.rows(relation)));
    this.leave({ values: countValues(rows) });
    return read(rows);
  }

  materialize(relation: Relation, into: TableReference): Promise<number> {
    const rows = this.rows(relation);
    this.tables.keep(into, rows);
    return Promise.resolve(rows.rows.length);
  }

  append(relation: Relation, into: TableReference): Promise<number> {
    const { columns, rows } = this.rows(relation);
    const before = this.tables.has(into) ? this.tables.rows(into) : { columns, rows: [] };
    this.tables.keep(into, { ...before, rows: [...before.rows, ...rows] });
    return Promise.resolve(rows.length);
  }

  create(into: TableReference, columns: readonly TypedColumn[]): Promise<void> {
    this.tables.keep(into, { columns, rows: [] });
    return Promise.resolve();
  }

  insert(into: TableReference, given: readonly ColumnValues[]): Promise<void> {
    const { columns, rows } = this.tables.rows(into);
    const taken = columns.map(({ name }) => given.find((column) => column.name === name)!);
    const count = given[0]?.values.length ?? 0;
    const added = Array.from({ length: count }, (_, index) =>
      taken.map(({ type, values }) => valueOf(type, values[index])),
    );
    this.tables.keep(into, { columns, rows: [...rows, ...added] });
    return Promise.resolve();
  }

  drop(table: TableReference): Promise<void> {
    this.tables.drop(table);
    return Promise.resolve();
  }

  tableNames(schema: string): Promise<readonly string[]> {
    return Promise.resolve(this.tables.names(schema));
  }

  analyze(): Promise<void> {
    return Promise.resolve();
  }

  stream({ relation, doubles, integers, rows: expected }: StreamRequest): Promise<void> {
    const { rows } = this.rows(
      project(relation, [
        ...doubles.map(({ name }) => ({ name, expression: cast(column(name), "double precision") })),
        ...integers.map(({ name }) => ({ name, expression: cast(column(name), "integer") })),
      ]),
    );
    if (rows.length !== expected) throw new Error(`expected ${expected} rows, ${rows.length} came`);
    for (const [index, row] of rows.entries()) {
      for (const [place, { values }] of doubles.entries()) {
        values[index] = streamed(row[place] as number | null);
      }
      for (const [place, { values }] of integers.entries())
        values[index] = Number(row[doubles.length + place] ?? 0);
    }
    this.leave({ values: rows.length * (doubles.length + integers.length) });
    return Promise.resolve();
  }

  facts(table: TableReference): Promise<TableFacts> {
    const { rows } = this.tables.rows(table);
    return Promise.resolve({ rows: rows.length, changedAt: null, marker: this.tables.marker(table) });
  }

  takeOver(): Promise<void> {
    return Promise.resolve();
  }

  leave(more: Partial<Leaving>): void {
    this.leaving = addLeaving(this.leaving, more);
  }

  cancel(): Promise<void> {
    return Promise.resolve();
  }

  release(): void {
    // Nothing is held.
  }
}
