import type { ValueType } from "@/core/value-type";
import {
  compareNumeric,
  ofDouble,
  ofInteger,
  parseNumeric,
  toDouble,
  toInteger,
  writeNumeric,
  type Numeric,
} from "./numeric";
import { badText, ConditionError, outOfRange } from "./failure";
import {
  DAY,
  dayOf,
  parseInterval,
  parseMoment,
  writeDate,
  writeInterval,
  writeLocal,
  type Interval,
} from "./times";

/**
 * A value, NULL as null: whole numbers are bigints, exact ones Numeric, doubles numbers, texts and identifiers
 * strings, dates days, moments and local times microseconds, lists arrays.
 */
export type Value =
  null | boolean | bigint | number | string | Exclude<Numeric, string> | Interval | readonly Value[];

/** The type of an expression; "unknown" for NULL and lists, whose type nobody asks for. */
export type Type = ValueType | "unknown";

export const isWhole = (type: Type): boolean => ["smallint", "integer", "bigint"].includes(type);
export const isDouble = (type: Type): boolean => type === "double precision" || type === "real";
export const isMoment = (type: Type): boolean => ["date", "timestamp", "timestamptz"].includes(type);

/** Code points, not code units, decide the order of texts. */
function compareTexts(left: string, right: string): number {
  const [one, other] = [[...left], [...right]];
  for (let index = 0; index < Math.min(one.length, other.length); index += 1) {
    const difference = one[index]!.codePointAt(0)! - other[index]!.codePointAt(0)!;
    if (difference !== 0) return Math.sign(difference);
  }
  return Math.sign(one.length - other.length);
}

function compareDoubles(left: number, right: number): number {
  if (Number.isNaN(left) || Number.isNaN(right))
    return Number(Number.isNaN(left)) - Number(Number.isNaN(right));
  return Number(left > right) - Number(left < right);
}

const MONTH = 30n * DAY;
const sizeOf = ({ months, days, micros }: Interval): bigint =>
  BigInt(months) * MONTH + BigInt(days) * DAY + micros;

/** The order of two values of one type, neither of which is missing. */
export function compareValues(type: Type, left: Value, right: Value): number {
  if (type === "numeric") return compareNumeric(left as Numeric, right as Numeric);
  if (isDouble(type)) return compareDoubles(left as number, right as number);
  if (type === "interval") {
    const [one, other] = [sizeOf(left as Interval), sizeOf(right as Interval)];
    return Number(one > other) - Number(one < other);
  }
  if (type === "boolean") return Number(left) - Number(right);
  if (typeof left === "string" && typeof right === "string") return compareTexts(left, right);
  if (Array.isArray(left) && Array.isArray(right))
    return compareTexts(JSON.stringify(left), JSON.stringify(right));
  const [one, other] = [left as bigint, right as bigint];
  return Number(one > other) - Number(one < other);
}

/** A text that equal values of a type share: NaN equals itself, -0 equals 0, 1.0 equals 1. */
export function keyOf(type: Type, value: Value): string {
  if (value === null) return "missing";
  if (type === "numeric") {
    const numeric = value as Numeric;
    if (typeof numeric === "string") return numeric;
    return `=${writeNumeric(numeric)
      .replace(/(\.\d*?)0+$/, "$1")
      .replace(/\.$/, "")}`;
  }
  if (isDouble(type)) return `=${(value as number) + 0}`;
  if (type === "interval") return `=${sizeOf(value as Interval)}`;
  return `=${typeof value === "object" ? JSON.stringify(value) : String(value)}`;
}

/** The shortest digits that read back as the same double, with an exponent from 1e15 and below 1e-4. */
function writeDouble(value: number, digits: string): string {
  if (!Number.isFinite(value)) return String(value);
  if (value === 0) return Object.is(value, -0) ? "-0" : "0";
  const [mantissa = "", exponentText = "0"] = digits.split("e");
  const exponent = Number(exponentText);
  if (exponent < -4 || exponent >= 15) {
    const size = String(Math.abs(exponent)).padStart(2, "0");
    return `${mantissa}e${exponent < 0 ? "-" : "+"}${size}`;
  }
  return writeNumeric(parseNumeric(digits));
}

/** Exponential digits of a number of 32 bits: as few as read back the same. */
function realDigits(value: number): string {
  for (let digits = 0; digits < 9; digits += 1) {
    const text = value.toExponential(digits);
    if (Math.fround(Number(text)) === value) return text;
  }
  return value.toExponential(9);
}

/** A value as a cast to text writes it. */
export function writeValue(type: Type, value: Value): string | null {
  if (value === null) return null;
  if (type === "numeric") return writeNumeric(value as Numeric);
  if (type === "double precision") return writeDouble(value as number, (value as number).toExponential());
  if (type === "real") return writeDouble(value as number, realDigits(value as number));
  if (type === "date") return writeDate(Number(value));
  if (type === "timestamp") return writeLocal(value as bigint);
  if (type === "timestamptz") return writeLocal(value as bigint, "+00");
  if (type === "interval") return writeInterval(value as Interval);
  if (Array.isArray(value))
    return `{${value.map((part) => writeValue("double precision", part as Value)).join(",")}}`;
  return typeof value === "object" ? JSON.stringify(value) : String(value);
}

const RANGES: Readonly<Partial<Record<Type, bigint>>> = {
  smallint: 2n ** 15n,
  integer: 2n ** 31n,
  bigint: 2n ** 63n,
};

/** A whole number in the range of its type. */
export function inRange(type: Type, value: bigint): bigint {
  const bound = RANGES[type];
  if (bound !== undefined && (value < -bound || value >= bound)) throw outOfRange();
  return value;
}

/** The even neighbour of a double in a tie, else the nearest; of small negative numbers -0. */
export function roundHalfEven(value: number): number {
  if (!Number.isFinite(value) || Math.abs(value) >= 2 ** 52) return value;
  const size = Math.abs(value);
  const below = Math.floor(size);
  const rest = size - below;
  const isUp = rest > 0.5 || (rest === 0.5 && below % 2 === 1);
  const rounded = below + (isUp ? 1 : 0);
  return value < 0 || Object.is(value, -0) ? -rounded : rounded;
}

const doubleOf = (text: string): number => Number(text.trim().replace(/^([+-]?)inf(inity)?$/i, "$1Infinity"));

function fromText(text: string, to: Type): Value {
  if (isWhole(to)) {
    if (!/^\s*[+-]?\d+\s*$/.test(text)) throw badText();
    return inRange(to, BigInt(text.trim()));
  }
  switch (to) {
    case "numeric":
      return parseNumeric(text) as Value;
    case "double precision":
    case "real": {
      parseNumeric(text);
      return to === "real" ? Math.fround(doubleOf(text)) : doubleOf(text);
    }
    case "boolean": {
      const word = text.trim().toLowerCase();
      if (word !== "" && ["true", "yes", "on", "1"].some((name) => name.startsWith(word) && word !== "o"))
        return true;
      if (word !== "" && ["false", "no", "off", "0"].some((name) => name.startsWith(word) && word !== "o"))
        return false;
      throw badText();
    }
    case "date":
      return BigInt(dayOf(parseMoment(text).local));
    case "timestamp":
      return parseMoment(text).local;
    case "timestamptz": {
      const { local, offset = 0n } = parseMoment(text);
      return local - offset;
    }
    case "interval":
      return parseInterval(text);
    default:
      return text;
  }
}

function toWhole(value: Value, from: Type, to: Type): bigint {
  if (from === "boolean") return value === true ? 1n : 0n;
  if (isWhole(from)) return inRange(to, value as bigint);
  if (from === "numeric") {
    if (typeof value === "string") throw new ConditionError("feature not supported");
    return inRange(to, toInteger(value as Numeric));
  }
  const rounded = roundHalfEven(value as number);
  if (!Number.isFinite(rounded)) throw outOfRange();
  return inRange(to, BigInt(rounded));
}

function toFloating(value: Value, from: Type, to: Type): number {
  const double = from === "numeric" ? toDouble(value as Numeric) : Number(value);
  if (to === "double precision") return double;
  const real = Math.fround(double);
  if ((!Number.isFinite(real) && Number.isFinite(double)) || (real === 0 && double !== 0)) throw outOfRange();
  return real;
}

function toExact(value: Value, from: Type): Numeric {
  if (isWhole(from)) return ofInteger(value as bigint);
  return ofDouble(value as number, from === "real" ? 6 : 15);
}

/** A value as another type. @throws ConditionError where it does not fit */
export function castValue(value: Value, from: Type, to: Type): Value {
  if (value === null || from === to || from === "unknown") return value;
  if (to === "text") return writeValue(from, value);
  if (from === "text") return fromText(value as string, to);
  if (isWhole(to)) return toWhole(value, from, to);
  if (isDouble(to)) return toFloating(value, from, to);
  if (to === "numeric") return toExact(value, from) as Value;
  if (to === "boolean") return value !== 0n;
  if (to === "date") return BigInt(dayOf(value as bigint));
  if (from === "date" && isMoment(to)) return (value as bigint) * DAY;
  return value;
}

/** How a value is written inside of a concatenation: conditions by their first letter. */
export function concatText(type: Type, value: Value): string {
  if (type === "boolean") return value === true ? "t" : "f";
  return writeValue(type, value) ?? "";
}
