import type { CatalogTable } from "@/core/plan/catalog";
import type { TableReference } from "@/core/relation/relation";
import { valueTypeFromName, type ValueType } from "@/core/value-type";
import type { GoldenTable } from "../golden/engine";
import { Interpreter, type Rows } from "./relations";
import { castValue, type Type } from "./values";

const keyOf = ({ schema, table }: TableReference): string => JSON.stringify([schema, table]);

const columnType = (type: Type): ValueType => (type === "unknown" ? "text" : type);

/** How a warehouse writes types that have a short name. */
const DECLARED: Readonly<Record<string, string>> = {
  timestamptz: "timestamp with time zone",
  timestamp: "timestamp without time zone",
};

interface StoredTable {
  readonly described: CatalogTable;
  readonly key: readonly string[];
  readonly rows: Rows;
  /** Another one after each change. */
  readonly version: number;
}

/** Tables that are kept here. */
export class MemoryTables {
  private readonly tables = new Map<string, StoredTable>();
  private changes = 0;

  load({ schema, table, columns, rows, key = [] }: GoldenTable): void {
    const types = columns.map(({ type }) => valueTypeFromName(type));
    const described = columns.map(({ name, type, notNull = false }, place) => ({
      name,
      type: types[place]!,
      declared: DECLARED[type] ?? type,
      nullable: !notNull && !key.includes(name),
    }));
    const values = rows.map((row) => row.map((value, place) => castValue(value, "text", types[place]!)));
    const typed = columns.map(({ name }, place) => ({ name, type: types[place]! }));
    this.put({ schema, table, columns: described }, { columns: typed, rows: values }, key);
  }

  /** Keeps rows as a table, in the place of one that there is. */
  keep({ schema, table }: TableReference, { columns, rows }: Rows): void {
    const typed = columns.map(({ name, type }) => ({ name, type: columnType(type) }));
    const described = typed.map(({ name, type }) => ({ name, type, declared: type, nullable: true }));
    this.put({ schema, table, columns: described }, { columns: typed, rows });
  }

  private put(described: CatalogTable, rows: Rows, key: readonly string[] = []): void {
    this.changes += 1;
    this.tables.set(keyOf(described), { described, rows, key, version: this.changes });
  }

  has(table: TableReference): boolean {
    return this.tables.has(keyOf(table));
  }

  rows(table: TableReference): Rows {
    const found = this.tables.get(keyOf(table));
    if (!found) throw new Error(`no table ${keyOf(table)}`);
    return found.rows;
  }

  /** Differs after each change; empty where there is no such table. */
  marker(table: TableReference): string {
    return String(this.tables.get(keyOf(table))?.version ?? "");
  }

  /** Columns of the primary key; none where there is none. */
  key(table: TableReference): readonly string[] {
    return this.tables.get(keyOf(table))?.key ?? [];
  }

  drop(table: TableReference): void {
    this.tables.delete(keyOf(table));
  }

  list(): readonly CatalogTable[] {
    return [...this.tables.values()].map(({ described }) => described);
  }

  names(schema: string): readonly string[] {
    return this.list().flatMap((table) => (table.schema === schema ? [table.table] : []));
  }

  /** @param runTime the logical time, as an ISO 8601 text */
  interpreter(runTime: string): Interpreter {
    return new Interpreter({ runTime, table: (schema, table) => this.rows({ schema, table }) });
  }
}
