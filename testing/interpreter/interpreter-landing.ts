import { ROUTE_COLUMN } from "@/core/plan/deliver";
import { writeTableName } from "@/core/pipeline/table-name";
import type { Delivery } from "@/core/pipeline/operating-schema";
import { ProblemError, type Problem } from "@/core/problem";
import type { Relation, TableReference } from "@/core/relation/relation";
import { keyMissing, keyRepeats, rowsUnscored } from "@/warehouse/landing-problems";
import type { Move, NewerBy } from "@/warehouse/move";
import type {
  DeclaredColumn,
  DeliveryRun,
  LandedRows,
  Landing,
  UnansweredRows,
} from "@/warehouse/port/landing";
import type { MemoryTables } from "./memory";
import type { Rows } from "./relations";
import { castValue, compareValues, keyOf, writeValue, type Type, type Value } from "./values";

/** An entry of the ledger. */
export interface LedgerRow extends DeliveryRun {
  readonly table: string;
  readonly rows: number;
  readonly byTable: Readonly<Record<string, number>>;
  readonly newest: string | undefined;
  readonly landedAt: Date;
}

type Row = readonly Value[];

const EXAMPLES = 3;
const REPEATED = 5;

/** Reads columns of rows by name. */
class Reader {
  constructor(private readonly columns: Rows["columns"]) {}

  place(name: string): number {
    return this.columns.findIndex((column) => column.name === name);
  }

  type(name: string): Type {
    return this.columns[this.place(name)]!.type;
  }

  value(row: Row, name: string): Value {
    return row[this.place(name)] ?? null;
  }

  /** A text that rows share which agree in some columns. */
  key(row: Row, names: readonly string[]): string {
    return names.map((name) => keyOf(this.type(name), this.value(row, name))).join("\u0000");
  }

  text(row: Row, name: string): string {
    return writeValue(this.type(name), this.value(row, name)) ?? "";
  }
}

/** Whether a stored row is not of a later run than a staged one. */
function isNotLater(stored: Value, staged: Value): boolean {
  return stored === null || compareValues("timestamptz", stored, staged) <= 0;
}

/** Rows of a table once staged rows have moved in, and how many did. */
function movedInto(before: Rows, staged: Rows, move: Move, position: number): { rows: Row[]; moved: number } {
  const [there, here] = [new Reader(before.columns), new Reader(staged.columns)];
  const routed = here.place(ROUTE_COLUMN) < 0;
  const mine = staged.rows.filter((row) => routed || Number(here.value(row, ROUTE_COLUMN)) === position);
  const arranged = (row: Row): Row => before.columns.map(({ name }) => here.value(row, name));
  const same = move.mode === "partition" ? [move.partition!] : move.key;
  const stagedTimes = new Map(staged.rows.map((row) => [here.key(row, same), here.value(row, "run_time")]));
  const storedTimes = new Map(before.rows.map((row) => [there.key(row, same), there.value(row, "run_time")]));
  if (move.mode === "append") return { rows: [...before.rows, ...mine.map(arranged)], moved: mine.length };
  if (move.mode === "replace") return { rows: mine.map(arranged), moved: mine.length };
  const stays = (row: Row): boolean => {
    const time = stagedTimes.get(there.key(row, same));
    return time === undefined || !isNotLater(there.value(row, "run_time"), time);
  };
  const coming = mine.filter((row) => {
    const time = storedTimes.get(here.key(row, same)) ?? null;
    return isNotLater(time, here.value(row, "run_time"));
  });
  return { rows: [...before.rows.filter(stays), ...coming.map(arranged)], moved: coming.length };
}

type DeliveryName = Pick<DeliveryRun, "pipeline" | "formerNames" | "delivery">;

/** Whether an entry is of a delivery, under any name of its pipeline. */
const isOf = (entry: LedgerRow, { pipeline, formerNames, delivery }: DeliveryName): boolean =>
  entry.delivery === delivery && [pipeline, ...formerNames].includes(entry.pipeline);

/** Lands rows in tables that are kept here. Nothing happens in between, so all of it lands or nothing. */
class MemoryLanding implements Landing {
  constructor(
    private readonly tables: MemoryTables,
    private readonly ledger: LedgerRow[],
    private readonly compute: (relation: Relation) => Rows,
  ) {}

  landed({ run, delivery }: Pick<DeliveryRun, "run" | "delivery">): Promise<number | undefined> {
    const entry = this.ledger.find((found) => found.run === run && found.delivery === delivery);
    return Promise.resolve(entry?.rows);
  }

  newest(delivery: DeliveryName, newerBy: NewerBy): Promise<string | undefined> {
    return Promise.resolve(this.mark(delivery, newerBy));
  }

  private mark(delivery: DeliveryName, { type }: NewerBy): string | undefined {
    const values = this.ledger.flatMap((entry) =>
      isOf(entry, delivery) && entry.newest !== undefined ? [castValue(entry.newest, "text", type)] : [],
    );
    const [largest] = values.sort((left, right) => compareValues(type, right, left));
    return largest === undefined ? undefined : (writeValue(type, largest) ?? undefined);
  }

  tablesThere(tables: readonly TableReference[]): Promise<readonly TableReference[]> {
    return Promise.resolve(tables.filter((table) => this.tables.has(table)));
  }

  columnsOf(relation: Relation): Promise<readonly DeclaredColumn[]> {
    const { columns } = this.compute(relation);
    return Promise.resolve(columns.filter(({ name }) => name !== ROUTE_COLUMN));
  }

  judge(): Promise<void> {
    return Promise.resolve();
  }

  leaveOutUnanswered(stage: TableReference, key: readonly string[]): Promise<UnansweredRows> {
    const { columns, rows } = this.tables.rows(stage);
    const reader = new Reader(columns);
    const without = rows.filter((row) => reader.value(row, "prediction") === null);
    const examples = without.map((row) => key.map((name) => reader.text(row, name)).join(" / ")).sort();
    this.tables.keep(stage, { columns, rows: rows.filter((row) => !without.includes(row)) });
    return Promise.resolve({ rows: without.length, examples: examples.slice(0, EXAMPLES) });
  }

  async checkStage(stage: TableReference, key: readonly string[], of: Delivery["of"]): Promise<number> {
    const { columns, rows } = this.tables.rows(stage);
    const reader = new Reader(columns);
    const isUnscored = (row: Row): boolean => of !== "features" && reader.value(row, "prediction") === null;
    const unscored = rows.filter(isUnscored).length;
    if (unscored > 0) throw new ProblemError(rowsUnscored(unscored, rows.length));
    const keyless = rows.filter((row) => key.some((name) => reader.value(row, name) === null)).length;
    if (keyless > 0) throw new ProblemError(keyMissing(keyless));
    return Promise.resolve(rows.length);
  }

  repeatedKeys(stage: TableReference, key: readonly string[]): Promise<Problem | undefined> {
    const { columns, rows } = this.tables.rows(stage);
    const reader = new Reader(columns);
    const texts = rows.map((row) => key.map((name) => reader.text(row, name)).join(", "));
    const repeated = new Set(texts.filter((text, index) => texts.indexOf(text) < index));
    const examples = [...repeated].sort().slice(0, REPEATED);
    return Promise.resolve(examples.length === 0 ? undefined : keyRepeats(examples));
  }

  prepare(table: TableReference, { stage }: Omit<Move, "tables">): Promise<boolean> {
    const { columns } = this.tables.rows(stage);
    const kept = columns.filter(({ name }) => name !== ROUTE_COLUMN);
    if (!this.tables.has(table)) this.tables.keep(table, { columns: kept, rows: [] });
    return Promise.resolve(false);
  }

  /** Staged rows that are still new. */
  private fresh(move: Move, mark: string | undefined): Rows {
    const { columns, rows } = this.tables.rows(move.stage);
    const reader = new Reader(columns);
    const known = new Set(
      move.onlyNew ? move.tables.flatMap((table) => keysOf(this.tables.rows(table), move.key)) : [],
    );
    const { newerBy } = move;
    const isNew = (row: Row): boolean => {
      if (newerBy === undefined || mark === undefined) return true;
      const value = reader.value(row, newerBy.column);
      return value === null || compareValues(newerBy.type, value, castValue(mark, "text", newerBy.type)) > 0;
    };
    return { columns, rows: rows.filter((row) => isNew(row) && !known.has(reader.key(row, move.key))) };
  }

  land(move: Move, delivery: DeliveryRun): Promise<LandedRows> {
    const before = this.ledger.find(
      (entry) => entry.run === delivery.run && entry.delivery === delivery.delivery,
    );
    if (before) return Promise.resolve({ rows: before.rows, byTable: [], before: true });
    const mark = move.newerBy && this.mark(delivery, move.newerBy);
    const staged = this.fresh(move, mark);
    const isOutrun =
      move.mode === "replace" &&
      this.ledger.some((entry) => isOf(entry, delivery) && entry.runTime > delivery.runTime);
    const byTable = move.tables.map((table, position) => {
      if (isOutrun) return 0;
      const { columns } = this.tables.rows(table);
      const { rows, moved } = movedInto(this.tables.rows(table), staged, move, position);
      this.tables.keep(table, { columns, rows });
      return moved;
    });
    const rows = byTable.reduce((sum, count) => sum + count, 0);
    this.ledger.push({
      ...delivery,
      table: writeTableName(move.tables.at(-1)!),
      rows,
      byTable: Object.fromEntries(
        move.tables.map((table, index) => [writeTableName(table), byTable[index]!]),
      ),
      newest: newestOf(staged, move.newerBy) ?? mark,
      landedAt: new Date(),
    });
    return Promise.resolve({ rows, byTable, before: false });
  }
}

function keysOf({ columns, rows }: Rows, key: readonly string[]): readonly string[] {
  const reader = new Reader(columns);
  return rows.map((row) => reader.key(row, key));
}

/** The largest staged value of the column that rows are newer by, as text. */
function newestOf({ columns, rows }: Rows, newerBy: NewerBy | undefined): string | undefined {
  if (newerBy === undefined) return undefined;
  const reader = new Reader(columns);
  const values = rows.map((row) => reader.value(row, newerBy.column)).filter((value) => value !== null);
  const [largest] = values.sort((left, right) => compareValues(newerBy.type, right, left));
  return largest === undefined ? undefined : (writeValue(newerBy.type, largest) ?? undefined);
}

export const landingOf = (
  tables: MemoryTables,
  ledger: LedgerRow[],
  compute: (relation: Relation) => Rows,
): Landing => new MemoryLanding(tables, ledger, compute);
