import type { Question } from "@/core/questions/question";
import type { Dialect } from "@/core/dialect";
import type { Relation, TableReference } from "@/core/relation/relation";
import type { KeyListing, TableFacts, WarehouseCatalog } from "@/warehouse/port/catalog";
import type { WarehouseConfig } from "@/warehouse/port/engine";
import type { Exports } from "@/warehouse/port/exports";
import type { PredictionFunctions } from "@/warehouse/port/functions";
import type { Ledger, LedgerEntry } from "@/warehouse/port/landing";
import type { SessionOptions } from "@/warehouse/port/session";
import type { AskOptions, Warehouse } from "@/warehouse/port/warehouse";
import type { GoldenTable } from "../golden/engine";
import { driverRows } from "./driver-rows";
import type { LedgerRow } from "./interpreter-landing";
import { InterpreterSession } from "./interpreter-session";
import { MemoryTables } from "./memory";

/** As many columns as PostgreSQL takes, so that both refuse the same files. */
const DIALECT: Dialect = {
  name: "the interpreter",
  printRelation: (relation) => JSON.stringify(relation, undefined, 1),
  limits: { tableColumns: 1570, rowBytes: 7700 },
};

const absent = (what: string) => (): never => {
  throw new Error(`the interpreter has no ${what}`);
};

const keysOf = (columns: readonly string[]): readonly KeyListing[] =>
  columns.length === 0 ? [] : [{ kind: "primary key", columns, target: null, references: null }];

function catalogOf(tables: MemoryTables): WarehouseCatalog {
  const facts = (table: TableReference): TableFacts => ({
    rows: tables.rows(table).rows.length,
    changedAt: null,
    marker: tables.marker(table),
  });
  return {
    read: () => Promise.resolve({ tables: tables.list() }),
    tables: absent("listing of tables"),
    keys: (table) => Promise.resolve(keysOf(tables.key(table))),
    isStored: () => Promise.resolve(true),
    facts: (table) => Promise.resolve(facts(table)),
    keptFacts: (wanted) => Promise.resolve(wanted.map(facts)),
    changeMarker: (table) => Promise.resolve(tables.marker(table)),
    contentMarker: (table) => Promise.resolve(tables.marker(table)),
  };
}

const entryOf = (row: LedgerRow): LedgerEntry => ({ ...row, runTime: new Date(row.runTime) });

/** The newest of some entries that have a key in common. */
function newestBy(ledger: readonly LedgerRow[], keyOf: (row: LedgerRow) => string): readonly LedgerEntry[] {
  const newest = new Map<string, LedgerRow>();
  for (const row of ledger) {
    const known = newest.get(keyOf(row));
    if (!known || known.runTime <= row.runTime) newest.set(keyOf(row), row);
  }
  return [...newest.values()].map(entryOf);
}

function ledgerOf(ledger: readonly LedgerRow[]): Ledger {
  return {
    newestOfTables: () => Promise.resolve(newestBy(ledger, ({ table }) => table)),
    newestOfDeliveries: (of) => {
      if (of === undefined)
        return Promise.resolve(
          newestBy(ledger, ({ pipeline, delivery }) => JSON.stringify([pipeline, delivery])),
        );
      const names = [of.name, ...of.formerNames];
      const own = ledger.filter(({ pipeline }) => names.includes(pipeline));
      return Promise.resolve(newestBy(own, ({ delivery }) => delivery));
    },
    tablesOfRun: (run) =>
      Promise.resolve(ledger.filter((row) => row.run === run).flatMap((row) => Object.keys(row.byTable))),
  };
}

/**
 * A warehouse whose tables are kept here and whose relations are computed by the interpreter: small and slow, with
 * neither statements nor transactions. It keeps the port from being shaped like one kind of warehouse.
 */
export class InterpreterWarehouse implements Warehouse {
  readonly dialect = DIALECT;
  readonly catalog: WarehouseCatalog;
  readonly ledger: Ledger;
  readonly exports: Exports = {
    most: 1,
    running: () => 0,
    stream: absent("exports"),
    pages: absent("exports"),
  };
  readonly functions: PredictionFunctions = {
    find: () => Promise.resolve([]),
    describe: () => Promise.resolve([]),
    callText: absent("functions"),
    replace: absent("functions"),
    drop: () => Promise.resolve(),
  };
  private readonly tables = new MemoryTables();
  private readonly landed: LedgerRow[] = [];

  constructor(readonly config: WarehouseConfig) {
    this.catalog = catalogOf(this.tables);
    this.ledger = ledgerOf(this.landed);
  }

  load(table: GoldenTable): void {
    this.tables.load(table);
  }

  ask<Answer>({ relation, read }: Question<Answer>, options: AskOptions = {}): Promise<Answer> {
    const { runTime = new Date().toISOString() } = options;
    return Promise.resolve(read(driverRows(this.tables.interpreter(runTime).rowsOf(relation))));
  }

  estimate(relation: Relation, { runTime = new Date().toISOString() }: AskOptions = {}): Promise<number> {
    return Promise.resolve(this.tables.interpreter(runTime).rowsOf(relation).rows.length);
  }

  badPattern(): Promise<undefined> {
    return Promise.resolve(undefined);
  }

  answers(): Promise<boolean> {
    return Promise.resolve(true);
  }

  ping(): Promise<void> {
    return Promise.resolve();
  }

  tableNames(schema: string): Promise<readonly string[]> {
    return Promise.resolve(this.tables.names(schema));
  }

  session({ runTime = new Date().toISOString() }: Partial<SessionOptions> = {}): Promise<InterpreterSession> {
    return Promise.resolve(new InterpreterSession(this.tables, this.landed, runTime));
  }

  end(): Promise<void> {
    return Promise.resolve();
  }
}
