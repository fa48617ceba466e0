"use client";
import { useState } from "react";
import type { Braid } from "@/core/plan/braid";
import {
  columnsTaken,
  prefixFor,
  type JoinAggregate,
  type JoinedTable,
  type TakenRows,
} from "@/core/pipeline/edit/join-table";
import type { TableOutline } from "@/core/pipeline/proposal/outline";
import {
  measuredColumns,
  proposeJoinedColumns,
  proposeJoinShape,
  spreadColumns,
  type ColumnHere as TypedColumn,
  type JoinedColumns,
  type JoinShape,
} from "@/core/pipeline/proposal/propose-join";
import { parseTableName } from "@/core/pipeline/table-name";
import { VALUE_TYPES, type ValueType } from "@/core/value-type";
import { freeTitle } from "../../basic/free-title";
import { useRead } from "../../queries/use-read";
import { columnsAt, type Place } from "../places";
import { useValuesOf, type FoundValues } from "./use-values-of";

/** What a person said; what is left out is as proposed. */
export interface JoinWishes {
  readonly table: string;
  readonly pairs?: readonly JoinedColumns[] | undefined;
  readonly shape?: JoinShape | undefined;
  readonly by?: string | undefined;
  readonly aggregate?: JoinAggregate | undefined;
  readonly column?: string | undefined;
  /** Columns that are not taken. */
  readonly without: readonly string[];
}

const NOTHING_SAID: JoinWishes = { table: "", without: [] };

export interface JoinTableState {
  readonly wishes: JoinWishes;
  readonly change: (changes: Partial<JoinWishes>) => void;
  readonly outline: TableOutline | undefined;
  readonly failure: string | undefined;
  readonly here: readonly TypedColumn[];
  readonly pairs: readonly JoinedColumns[];
  readonly shape: JoinShape;
  /** Columns that can be spread by, that figures can be made of, and that can be taken as they are. */
  readonly offered: {
    readonly spread: readonly string[];
    readonly measured: readonly string[];
    readonly taken: readonly string[];
  };
  readonly taken: TakenRows;
  /** The values that can become columns. */
  readonly values: readonly string[];
  /** The table as it would be joined. */
  readonly joined: JoinedTable;
  /** What still has to be said before it can be. */
  readonly missing: string | undefined;
  /** Names of the columns that come in. */
  readonly incoming: readonly string[];
}

const asValueType = (type: string): ValueType => VALUE_TYPES.find((known) => known === type) ?? "other";

const keyOf = (braid: Braid): readonly string[] =>
  braid.groups.flatMap(({ threads }) => threads.filter(({ role }) => role === "key").map(({ name }) => name));

/** What is taken of the table's rows, by what was said and else by what is proposed. */
function takenRows(
  { aggregate: wanted, by, column, without }: JoinWishes,
  shape: JoinShape,
  offered: JoinTableState["offered"],
  values: readonly string[],
): TakenRows {
  const aggregate = wanted ?? (offered.measured.length > 0 ? "avg" : "count");
  const kept = (names: readonly string[]): readonly string[] =>
    names.filter((name) => !without.includes(name));
  switch (shape) {
    case "row":
      return { shape, columns: kept(offered.taken) };
    case "spread":
      return {
        shape,
        by: by ?? offered.spread[0] ?? "",
        values: kept(values),
        aggregate,
        column: column ?? offered.measured[0] ?? "",
      };
    case "summary":
      return { shape, aggregate, columns: kept(offered.measured) };
  }
}

/** What still has to be said. */
function missingOf(
  { table, pairs, taken }: JoinedTable,
  { outline, values }: { outline: TableOutline | undefined; values: FoundValues | undefined },
): string | undefined {
  if (table === "") return "Choose a table.";
  if (!outline) return "Analysing the table …";
  if (pairs.length === 0) return "Choose the columns to join on.";
  if (taken.shape === "spread" && !values) return "Reading values …";
  return columnsTaken({ taken }).length === 0 ? "Choose at least one column." : undefined;
}

/**
 * The form by which a table is joined at a place of the Braid: what is proposed by what the table holds,
 * and what a person says instead.
 */
export function useJoinTable(braid: Braid, place: Place): JoinTableState {
  const [wishes, setWishes] = useState(NOTHING_SAID);
  const { table } = wishes;
  const parsed = parseTableName(table);
  const query = parsed && new URLSearchParams({ schema: parsed.schema, table: parsed.table }).toString();
  const { value: outline, failure } = useRead<TableOutline>(query && `/api/tables/outline?${query}`);
  const here = columnsAt(braid, place)
    .filter(({ bundle }) => !bundle)
    .map(({ name, type }) => ({ name, type: asValueType(type) }));
  const pairs = wishes.pairs ?? (outline ? proposeJoinedColumns(here, keyOf(braid), outline) : []);
  const matched = pairs.map(({ there }) => there);
  const shape = wishes.shape ?? (outline ? proposeJoinShape(outline, matched) : "row");
  const names = (columns: readonly { readonly name: string }[]): readonly string[] =>
    columns.map(({ name }) => name);
  const spread = outline ? names(spreadColumns(outline, matched)) : [];
  const by = wishes.by ?? spread[0];
  const numbers = outline ? names(measuredColumns(outline, matched)) : [];
  const offered = {
    spread,
    measured: shape === "spread" ? numbers.filter((name) => name !== by) : numbers,
    taken: outline ? names(outline.columns).filter((name) => !matched.includes(name)) : [],
  };
  const values = useValuesOf(table, shape === "spread" ? by : undefined);
  const taken = takenRows(wishes, shape, offered, values?.values ?? []);
  const strand = freeTitle(
    parsed?.table ?? "",
    braid.groups.map((group) => group.strand),
  );
  const joined: JoinedTable = { table, strand, pairs, taken };
  const missing = missingOf(joined, { outline, values });
  const prefix =
    prefixFor(
      joined,
      here.map(({ name }) => name),
    ) ?? "";
  return {
    wishes,
    change: (changes) => setWishes((now) => ({ ...now, ...changes })),
    outline,
    failure: failure ?? values?.failure,
    here,
    pairs,
    shape,
    offered,
    taken,
    values: values?.values ?? [],
    joined,
    missing,
    incoming: columnsTaken(joined).map((name) => `${prefix}${name}`),
  };
}
