import { createHash } from "node:crypto";
import type { Compiled } from "./compiled";
import { ConditionError, outOfRange } from "./failure";
import * as exact from "./numeric";
import type { Numeric } from "./numeric";
import { exactPower, power } from "./power";
import { asOneType, castTo, comparison, strict } from "./operators";
import { TEXT_FUNCTIONS } from "./text-functions";
import { localAt, momentAt, truncateTo, type Interval } from "./times";
import {
  castValue,
  compareValues,
  inRange,
  isDouble,
  isWhole,
  keyOf,
  roundHalfEven,
  type Type,
  type Value,
} from "./values";

type Make = (args: readonly Compiled[]) => Compiled;

/** A function of doubles that is an error where its result is endless, or vanishes, and its argument is neither. */
const ofDouble =
  (compute: (value: number) => number): Make =>
  ([arg]) => {
    const type: Type = arg!.type === "numeric" ? "numeric" : "double precision";
    return {
      type,
      at: strict([castTo(arg!, "double precision")], (value) => {
        const result = compute(value as number);
        if (!Number.isFinite(result) && Number.isFinite(value as number)) throw outOfRange();
        return type === "numeric" ? (exact.byDoubles(result) as Value) : result;
      }),
    };
  };

/** Rounding: whole numbers become doubles, exact ones stay exact. */
const rounding =
  (double: (value: number) => number, numeric: (value: Numeric) => Numeric): Make =>
  ([arg]) =>
    arg!.type === "numeric"
      ? { type: "numeric", at: strict([arg!], (value) => numeric(value as Numeric) as Value) }
      : {
          type: "double precision",
          at: strict([castTo(arg!, "double precision")], (value) => double(value as number)),
        };

const logarithm = (compute: (value: number) => number): Make =>
  ofDouble((value) => {
    if (value <= 0) throw new ConditionError("invalid argument for natural logarithm");
    return compute(value);
  });

/** The largest or smallest of values that are there. */
const extreme =
  (sign: 1 | -1): Make =>
  (args) => {
    const parts = asOneType(args);
    const { type } = parts[0]!;
    return {
      type,
      at: (place) =>
        parts.reduce<Value>((best, part) => {
          const value = part.at(place);
          if (value === null || best === null) return value ?? best;
          return sign * compareValues(type, value, best) > 0 ? value : best;
        }, null),
    };
  };

function zoned(zone: Compiled, moment: Compiled): Compiled {
  const isInstant = moment.type === "timestamptz";
  const source = moment.type === "date" ? castTo(moment, "timestamptz") : moment;
  return {
    type: isInstant || moment.type === "date" ? "timestamp" : "timestamptz",
    at: strict([zone, source], (name, value) =>
      source.type === "timestamptz"
        ? localAt(name as string, value as bigint)
        : momentAt(name as string, value as bigint),
    ),
  };
}

const wholeOf =
  (compute: (left: bigint, right: bigint) => bigint): Make =>
  (args) => ({
    type: "bigint",
    at: strict(
      args.map((arg) => castTo(arg, "bigint")),
      (left, right) => compute(left as bigint, right as bigint),
    ),
  });

/** Every function of single rows, by name. */
export const SCALARS: Readonly<Record<string, Make>> = {
  // Rows are only compared by it, so any hash will do.
  row_hash: (args) => ({
    type: "bigint",
    at: (place) => {
      const keys = args.map(({ type, at }) => keyOf(type, at(place)));
      return createHash("sha256").update(JSON.stringify(keys)).digest().readBigInt64BE();
    },
  }),
  ...TEXT_FUNCTIONS,
  abs: ([arg]) => {
    const { type } = arg!;
    return {
      type,
      at: strict([arg!], (value) => {
        if (type === "numeric")
          return exact.compareNumeric(value as Numeric, exact.ofInteger(0n)) < 0
            ? (exact.negate(value as Numeric) as Value)
            : value!;
        if (isWhole(type))
          return inRange(type, (value as bigint) < 0n ? -(value as bigint) : (value as bigint));
        return Math.abs(value as number);
      }),
    };
  },
  ceil: rounding(Math.ceil, exact.ceil),
  floor: rounding(Math.floor, exact.floor),
  trunc: rounding(Math.trunc, exact.truncate),
  round: (args) => {
    const [arg, digits] = args;
    if (!digits) return rounding(roundHalfEven, exact.round)([arg!]);
    return {
      type: "numeric",
      at: strict(
        [castTo(arg!, "numeric"), digits],
        (value, count) => exact.round(value as Numeric, Number(count)) as Value,
      ),
    };
  },
  sign: rounding((value) => Math.sign(value) || 0, exact.signOf),
  sqrt: ofDouble((value) => {
    if (value < 0) throw new ConditionError("invalid argument for power function");
    return Math.sqrt(value);
  }),
  exp: (args) => {
    const double = ofDouble((value) => {
      const result = Math.exp(value);
      if (result === 0 && Number.isFinite(value)) throw outOfRange();
      return result;
    });
    return args[0]!.type === "numeric"
      ? { type: "numeric", at: strict(args, (value) => exact.exponential(value as Numeric) as Value) }
      : double(args);
  },
  ln: logarithm(Math.log),
  log: logarithm(Math.log10),
  tanh: ofDouble(Math.tanh),
  sin: ofDouble(Math.sin),
  cos: ofDouble(Math.cos),
  power: (args) => {
    const isExact = args.some(({ type }) => type === "numeric") && !args.some(({ type }) => isDouble(type));
    const parts = args.map((arg) => castTo(arg, "double precision"));
    return {
      type: isExact ? "numeric" : "double precision",
      at: isExact
        ? strict(
            args.map((arg) => castTo(arg, "numeric")),
            (base, exponent) => exactPower(base as Numeric, exponent as Numeric) as Value,
          )
        : strict(parts, (base, exponent) => power(base as number, exponent as number)),
    };
  },
  greatest: extreme(1),
  least: extreme(-1),
  coalesce: (args) => {
    const parts = asOneType(args);
    return {
      type: parts[0]!.type,
      at: (place) => {
        for (const part of parts) {
          const value = part.at(place);
          if (value !== null) return value;
        }
        return null;
      },
    };
  },
  nullif: ([value, other]) => {
    const isEqual = comparison("=", value!, other!);
    return { type: value!.type, at: (place) => (isEqual.at(place) === true ? null : value!.at(place)) };
  },
  date_trunc: ([unit, moment]) => {
    const type: Type = moment!.type === "timestamp" ? "timestamp" : "timestamptz";
    return {
      type,
      at: strict([castTo(unit!, "text"), castTo(moment!, type)], (name, value) =>
        truncateTo(name as string, value as bigint),
      ),
    };
  },
  month_text: ([moment]) => ({
    type: "text",
    at: strict([castTo(moment!, "date")], (day) => (castValue(day!, "date", "text") as string).slice(0, 7)),
  }),
  isfinite: ([moment]) => ({ type: "boolean", at: strict([moment!], () => true) }),
  timezone: ([zone, moment]) => zoned(castTo(zone!, "text"), moment!),
  make_interval: (args) => ({
    type: "interval",
    at: strict(args, (...values): Interval => {
      const [years = 0, months = 0, weeks = 0, days = 0, hours = 0] = values.map(Number);
      return { months: 12 * years + months, days: 7 * weeks + days, micros: BigInt(hours) * 3_600_000_000n };
    }),
  }),
  mod: (args) => {
    const parts = asOneType(args);
    const { type } = parts[0]!;
    return {
      type,
      at: strict(parts, (left, right) => {
        if (type === "numeric") return exact.remainder(left as Numeric, right as Numeric) as Value;
        if (right === 0n) throw new ConditionError("division by zero");
        return (left as bigint) % (right as bigint);
      }),
    };
  },
  bitwise_and: wholeOf((left, right) => left & right),
  bitwise_xor: wholeOf((left, right) => left ^ right),
  shifted_right: wholeOf((value, bits) => value >> bits),
  array_element: ([array, place]) => ({
    type: "double precision",
    at: strict([array!, place!], (values, at) => (values as readonly Value[])[Number(at) - 1] ?? null),
  }),
  term_weight: ([vector, term]) => ({
    type: "double precision",
    at: (place) => {
      const values = (vector!.at(place) ?? []) as readonly number[];
      const at = values.indexOf(Number(term!.at(place)));
      return at < 0 ? 0 : values[at + 1]!;
    },
  }),
  second_largest: (args) => {
    const parts = args.map((arg) => castTo(arg, "double precision"));
    return {
      type: "double precision",
      at: (place) =>
        parts
          .map((part) => part.at(place))
          .toSorted((left, right) => compareValues("double precision", right, left))[1] ?? null,
    };
  },
  trim_scale: ([value]) => ({
    type: "numeric",
    at: strict([value!], (number) => exact.trimmed(number as Numeric) as Value),
  }),
  width_bucket: (args) => ({
    type: "integer",
    at: strict(args, (value, low, high, count) => {
      const [at, from, to, bars] = [value, low, high, count].map(Number) as [number, number, number, number];
      if (at < from) return 0n;
      return at >= to ? BigInt(bars + 1) : BigInt(Math.floor(((at - from) * bars) / (to - from)) + 1);
    }),
  }),
};
