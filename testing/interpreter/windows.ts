import type { WindowFrame } from "@/core/expression/ast";
import type { Compiled } from "./compiled";
import { addInterval, parseInterval } from "./times";
import { compareValues, keyOf, type Type, type Value } from "./values";

type Row = readonly Value[];

/** What rows are put in order by. */
export interface WindowOrder {
  readonly expression: Compiled;
  readonly descending: boolean;
}

/** Rows of a partition in order, with the number of the group of peers that each is in. */
export interface Partition {
  readonly rows: readonly Row[];
  readonly peers: readonly number[];
}

/** The order of two values; missing ones come last either way. */
export function compareInOrder(type: Type, left: Value, right: Value, descending: boolean): number {
  if (left === null || right === null) return Number(left === null) - Number(right === null);
  return (descending ? -1 : 1) * compareValues(type, left, right);
}

const at = (compiled: Compiled, row: Row, rows: readonly Row[]): Value => compiled.at({ row, rows });

/** Rows in an order; of equal ones the earlier stays first. */
export const sortedBy = (rows: readonly Row[], order: readonly WindowOrder[]): readonly Row[] =>
  rows.toSorted((left, right) => {
    for (const { expression, descending } of order) {
      const compared = compareInOrder(
        expression.type,
        at(expression, left, rows),
        at(expression, right, rows),
        descending,
      );
      if (compared !== 0) return compared;
    }
    return 0;
  });

/** Divides rows by some expressions and puts the parts in order. */
export function partitionsOf(
  rows: readonly Row[],
  by: readonly Compiled[],
  order: readonly WindowOrder[],
): readonly Partition[] {
  const parts = new Map<string, Row[]>();
  for (const row of rows) {
    const key = by.map((part) => keyOf(part.type, at(part, row, rows))).join("\u0000");
    parts.set(key, [...(parts.get(key) ?? []), row]);
  }
  return [...parts.values()].map((part) => {
    const sorted = sortedBy(part, order);
    const keyAt = (row: Row): string =>
      order.map(({ expression }) => keyOf(expression.type, at(expression, row, rows))).join("\u0000");
    let group = 0;
    const peers = sorted.map((row, place) => {
      if (place > 0 && keyAt(row) !== keyAt(sorted[place - 1]!)) group += 1;
      return group;
    });
    return { rows: sorted, peers };
  });
}

/** Rows that an aggregate sees from a place of its partition. */
export function rowsInFrame(
  { rows, peers }: Partition,
  place: number,
  order: readonly WindowOrder[],
  frame: WindowFrame | undefined,
): readonly Row[] {
  const own = peers[place]!;
  const inGroups = (from: number, to: number): readonly Row[] =>
    rows.filter((_, index) => peers[index]! >= from && peers[index]! <= to);
  if (!frame) return order.length === 0 ? rows : inGroups(0, own);
  switch (frame.kind) {
    case "earlier times":
      return inGroups(own - frame.moments, own - 1);
    case "previous time":
      return inGroups(own - frame.moments, own - frame.moments);
    case "all before":
      return inGroups(0, own - 1);
    case "span before": {
      const { expression } = order[0]!;
      const now = at(expression, rows[place]!, rows);
      if (now === null) return [];
      const { months, days, micros } = parseInterval(frame.interval);
      const moment = expression.type === "date" ? (now as bigint) * 86_400_000_000n : (now as bigint);
      const since = addInterval(moment, { months: -months, days: -days, micros: -micros });
      return rows.filter((row, index) => {
        const value = at(expression, row, rows);
        if (value === null || peers[index]! >= own) return false;
        const when = expression.type === "date" ? (value as bigint) * 86_400_000_000n : (value as bigint);
        return when >= since;
      });
    }
  }
}

/** What functions of a window alone give, by name. @param arg the value of the first argument in a row */
export const RANKS: Readonly<
  Record<string, (partition: Partition, place: number, values: (place: number) => readonly Value[]) => Value>
> = {
  row_number: (_partition, place) => BigInt(place + 1),
  rank: ({ peers }, place) => BigInt(peers.indexOf(peers[place]!) + 1),
  dense_rank: ({ peers }, place) => BigInt(peers[place]! + 1),
  ntile: ({ rows }, place, values) => {
    const count = Number(values(place)[0]);
    const [size, larger] = [Math.floor(rows.length / count), rows.length % count];
    const before = larger * (size + 1);
    if (place < before) return BigInt(Math.floor(place / (size + 1)) + 1);
    return BigInt(larger + Math.floor((place - before) / Math.max(1, size)) + 1);
  },
  lag: (_partition, place, values) => {
    const back = Number(values(place)[1] ?? 1n);
    return place - back >= 0 ? (values(place - back)[0] ?? null) : null;
  },
  lead: ({ rows }, place, values) => {
    const ahead = Number(values(place)[1] ?? 1n);
    return place + ahead < rows.length ? (values(place + ahead)[0] ?? null) : null;
  },
  first_value: (_partition, _place, values) => values(0)[0] ?? null,
};
