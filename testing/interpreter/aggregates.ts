import type { Call } from "@/core/expression/ast";
import type { Compiled, Place } from "./compiled";
import * as exact from "./numeric";
import type { Numeric } from "./numeric";

import { DAY, type Interval } from "./times";
import { compareValues, inRange, isDouble, isWhole, keyOf, type Type, type Value } from "./values";

/** The values of an aggregate's arguments in the rows that it is about. */
type Rows = readonly (readonly Value[])[];

interface Aggregate {
  readonly type: Type;
  /** @param rows of every row the values of the arguments */
  readonly of: (rows: Rows) => Value;
}

type Make = (args: readonly Compiled[], call: Call) => Aggregate;

const first = (rows: Rows): readonly Value[] =>
  rows.map(([value]) => value ?? null).filter((value) => value !== null);

/** An aggregate of the values that are there; NULL when there are none. */
const ofValues =
  (compute: (values: readonly Value[], type: Type) => Value, result: (type: Type) => Type): Make =>
  ([arg]) => ({
    type: result(arg!.type),
    of: (rows) => {
      const values = first(rows);
      return values.length === 0 ? null : compute(values, arg!.type);
    },
  });

const sumType = (type: Type): Type => {
  if (type === "smallint" || type === "integer") return "bigint";
  return type === "bigint" ? "numeric" : type;
};

function total(values: readonly Value[], type: Type): Value {
  if (type === "smallint" || type === "integer")
    return inRange(
      "bigint",
      values.reduce<bigint>((sum, value) => sum + (value as bigint), 0n),
    );
  if (type === "bigint")
    return exact.ofInteger(values.reduce<bigint>((sum, value) => sum + (value as bigint), 0n)) as Value;
  if (type === "numeric")
    return values.reduce<Numeric>(
      (sum, value) => exact.add(sum, value as Numeric),
      exact.ofInteger(0n),
    ) as Value;
  if (type === "interval")
    return values.reduce<Interval>(
      (sum, value) => {
        const { months, days, micros } = value as Interval;
        return { months: sum.months + months, days: sum.days + days, micros: sum.micros + micros };
      },
      { months: 0, days: 0, micros: 0n },
    );
  return values.reduce<number>((sum, value) => sum + (value as number), 0);
}

const isExact = (type: Type): boolean => isWhole(type) || type === "numeric";

function mean(values: readonly Value[], type: Type): Value {
  const sum = total(values, type);
  if (isDouble(type)) return (sum as number) / values.length;
  if (type === "interval") {
    const { months, days, micros } = sum as Interval;
    const whole = BigInt(months) * 30n * DAY + BigInt(days) * DAY + micros;
    const share = whole / BigInt(values.length);
    return { months: 0, days: Number(share / DAY), micros: share % DAY };
  }
  const numerator = typeof sum === "bigint" ? exact.ofInteger(sum) : (sum as Numeric);
  return exact.divide(numerator, exact.ofInteger(BigInt(values.length))) as Value;
}

const meanType = (type: Type): Type => {
  if (type === "interval") return type;
  return isExact(type) ? "numeric" : "double precision";
};

const doubles = (values: readonly Value[], type: Type): readonly number[] =>
  values.map((value) => (type === "numeric" ? exact.toDouble(value as Numeric) : Number(value)));

/** Squared distances from the mean, in two passes. */
function squares(numbers: readonly number[]): number {
  const middle = numbers.reduce((sum, value) => sum + value, 0) / numbers.length;
  return numbers.reduce((sum, value) => sum + (value - middle) ** 2, 0);
}

const spread = (sample: boolean, root: boolean): Make =>
  ofValues(
    (values, type) => {
      const count = values.length - (sample ? 1 : 0);
      if (count === 0) return null;
      const variance = squares(doubles(values, type)) / count;
      const result = root ? Math.sqrt(variance) : variance;
      return isExact(type) ? (exact.byDoubles(result) as Value) : result;
    },
    (type) => (isExact(type) ? "numeric" : "double precision"),
  );

const extreme = (sign: 1 | -1): Make =>
  ofValues(
    (values, type) =>
      values.reduce((best, value) => (sign * compareValues(type, value!, best!) > 0 ? value : best)),
    (type) => type,
  );

const inOrder = (values: readonly Value[], type: Type): readonly Value[] =>
  values.toSorted((left, right) => compareValues(type, left!, right!));

function discrete(values: readonly Value[], share: number): Value {
  return values[Math.max(0, Math.ceil(share * values.length) - 1)] ?? null;
}

function interpolated(values: readonly number[], share: number): number {
  const place = share * (values.length - 1);
  const [low, high] = [values[Math.floor(place)]!, values[Math.ceil(place)]!];
  return low === high ? low : low + (place - Math.floor(place)) * (high - low);
}

/** The share of an ordered aggregate, the same in every row, and the values in order. */
const ordered =
  (
    compute: (values: readonly Value[], share: number, type: Type) => Value,
    result: (type: Type) => Type,
  ): Make =>
  ([, value]) => ({
    type: result(value!.type),
    of: (rows) => {
      const values = rows.map((row) => row[1] ?? null).filter((found) => found !== null);
      if (values.length === 0) return null;
      const wanted = rows[0]![0]!;
      const number = typeof wanted === "number" ? wanted : exact.toDouble(wanted as Numeric);
      return compute(inOrder(values, value!.type), number, value!.type);
    },
  });

/** The first value in an order; of equal orders the smaller one, or for the last the larger one. */
const byOrder =
  (sign: 1 | -1): Make =>
  ([value, order]) => ({
    type: value!.type,
    of: (rows) => {
      const present = rows.filter(([found]) => found !== null);
      const compared = (left: Value, right: Value): number => {
        if (left === null || right === null) return Number(left === null) - Number(right === null);
        return compareValues(order!.type, left, right);
      };
      const sorted = present.toSorted(
        (left, right) =>
          sign * compared(left[1]!, right[1]!) || sign * compareValues(value!.type, left[0]!, right[0]!),
      );
      return sorted[0]?.[0] ?? null;
    },
  });

/** Quantiles: shares first, the value last. */
const quantiles =
  (compute: (values: readonly Value[], share: number, type: Type) => Value): Make =>
  (args) => ({
    type: "unknown",
    of: (rows) => {
      const type = args.at(-1)!.type;
      const values = rows.map((row) => row.at(-1) ?? null).filter((value) => value !== null);
      if (values.length === 0) return null;
      const sorted = inOrder(values, type);
      return rows[0]!.slice(0, -1).map((share) => compute(sorted, Number(share), type));
    },
  });

const asNumbers = (values: readonly Value[], type: Type): readonly number[] => doubles(values, type);

/** Every aggregate, by name. */
export const AGGREGATES: Readonly<Record<string, Make>> = {
  count: (args, { star }) => ({
    type: "bigint",
    of: (rows) => BigInt(star || args.length === 0 ? rows.length : first(rows).length),
  }),
  sum: ofValues(total, sumType),
  avg: ofValues(mean, meanType),
  min: extreme(-1),
  max: extreme(1),
  var_pop: spread(false, false),
  var_samp: spread(true, false),
  stddev_pop: spread(false, true),
  stddev_samp: spread(true, true),
  bool_and: ofValues(
    (values) => values.every((value) => value === true),
    () => "boolean",
  ),
  bool_or: ofValues(
    (values) => values.some((value) => value === true),
    () => "boolean",
  ),
  share: ofValues(
    (values) => values.filter((value) => value === true).length / values.length,
    () => "double precision",
  ),
  percentile_disc: ordered(discrete, (type) => type),
  percentile_cont: ordered(
    (values, share, type) => interpolated(asNumbers(values, type), share),
    () => "double precision",
  ),
  mode: (args) => ({
    type: args.at(-1)!.type,
    of: (rows) => {
      const type = args.at(-1)!.type;
      const values = rows.map((row) => row.at(-1) ?? null).filter((value) => value !== null);
      const counts = new Map<string, number>();
      for (const value of values) counts.set(keyOf(type, value), (counts.get(keyOf(type, value)) ?? 0) + 1);
      const most = Math.max(0, ...counts.values());
      return inOrder(values, type).find((value) => counts.get(keyOf(type, value)) === most) ?? null;
    },
  }),
  first_by: byOrder(1),
  last_by: byOrder(-1),
  all_values: () => ({ type: "unknown", of: (rows) => rows.map(([value]) => value ?? null) }),
  distinct_values: ([arg]) => ({
    type: "unknown",
    of: (rows) => {
      if (rows.length === 0) return null;
      const byKey = new Map(rows.map(([value]) => [keyOf(arg!.type, value ?? null), value ?? null]));
      const present = [...byKey.values()].filter((value) => value !== null);
      return [...inOrder(present, arg!.type), ...(byKey.has("missing") ? [null] : [])];
    },
  }),
  quantiles: quantiles((values, share) => discrete(values, share)),
  interpolated_quantiles: quantiles((values, share, type) => interpolated(asNumbers(values, type), share)),
  distinct_rows: (args) => ({
    type: "bigint",
    of: (rows) =>
      BigInt(
        new Set(rows.map((row) => row.map((value, at) => keyOf(args[at]!.type, value)).join("\u0000"))).size,
      ),
  }),
  corr: (args) => ({
    type: "double precision",
    of: (rows) => {
      const pairs = rows.filter((row) => !row.includes(null));
      const [one, other] = args.map((arg, at) =>
        doubles(
          pairs.map((row) => row[at]!),
          arg.type,
        ),
      );
      if (pairs.length === 0) return null;
      const middle = (values: readonly number[]): number =>
        values.reduce((sum, value) => sum + value, 0) / values.length;
      const [meanOne, meanOther] = [middle(one!), middle(other!)];
      const product = one!.reduce((sum, value, at) => sum + (value - meanOne) * (other![at]! - meanOther), 0);
      const size = Math.sqrt(squares(one!) * squares(other!));
      return size === 0 ? null : product / size;
    },
  }),
};

/** Computes an aggregate over some rows: those of its filter, each value once where it is distinct. */
export function aggregateOver(
  call: Call,
  args: readonly Compiled[],
  filter: Compiled | undefined,
): { readonly type: Type; readonly over: (rows: readonly (readonly Value[])[]) => Value } {
  const { type, of } = AGGREGATES[call.name]!(args, call);
  return {
    type,
    over: (rows) => {
      const places = rows.map((row): Place => ({ row, rows }));
      const kept = filter ? places.filter((place) => filter.at(place) === true) : places;
      const values = kept.map((place) => args.map((arg) => arg.at(place)));
      if (!call.distinct) return of(values);
      const once = new Map(values.map((row) => [keyOf(args[0]!.type, row[0] ?? null), row]));
      return of([...once.values()]);
    },
  };
}
