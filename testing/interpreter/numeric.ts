import { badText, ConditionError, divisionByZero } from "./failure";

/** An exact number: units / 10^scale; or what is no finite number. */
export type Numeric = { readonly units: bigint; readonly scale: number } | "NaN" | "Infinity" | "-Infinity";

type Finite = Exclude<Numeric, string>;

const power10 = (exponent: number): bigint => 10n ** BigInt(exponent);
const absolute = (value: bigint): bigint => (value < 0n ? -value : value);

export const ofInteger = (units: bigint): Numeric => ({ units, scale: 0 });

/** Reads a decimal number, with or without an exponent. @throws ConditionError for any other text */
export function parseNumeric(text: string): Numeric {
  const trimmed = text.trim();
  const named = /^(nan|[+-]?inf(?:inity)?)$/i.exec(trimmed)?.[1]?.toLowerCase();
  if (named !== undefined) {
    if (named === "nan") return "NaN";
    return named.startsWith("-") ? "-Infinity" : "Infinity";
  }
  const parts = /^([+-]?)(\d*)(?:\.(\d*))?(?:e([+-]?\d+))?$/i.exec(trimmed);
  const [, sign, whole = "", fraction = "", exponent = "0"] = parts ?? [];
  if (!parts || whole + fraction === "") throw badText();
  const units = BigInt(whole + fraction) * (sign === "-" ? -1n : 1n);
  const scale = fraction.length - Number(exponent);
  return scale >= 0 ? { units, scale } : { units: units * power10(-scale), scale: 0 };
}

export function writeNumeric(value: Numeric): string {
  if (typeof value === "string") return value;
  const digits = absolute(value.units)
    .toString()
    .padStart(value.scale + 1, "0");
  const whole = digits.slice(0, digits.length - value.scale);
  const fraction = value.scale === 0 ? "" : `.${digits.slice(digits.length - value.scale)}`;
  return `${value.units < 0n ? "-" : ""}${whole}${fraction}`;
}

export const toDouble = (value: Numeric): number => Number(writeNumeric(value));

/** A double as an exact number of as many digits as every double keeps. */
export const ofDouble = (value: number, digits = 15): Numeric =>
  Number.isFinite(value) ? parseNumeric(value.toPrecision(digits)) : (String(value) as "NaN");

/** Without zeros at its end. */
export function trimmed(value: Numeric): Numeric {
  if (typeof value === "string") return value;
  let { units, scale } = value;
  while (scale > 0 && units % 10n === 0n) {
    units /= 10n;
    scale -= 1;
  }
  return { units, scale };
}

/** Units of both at the larger of their scales. */
function aligned(left: Finite, right: Finite): readonly [bigint, bigint, number] {
  const scale = Math.max(left.scale, right.scale);
  return [left.units * power10(scale - left.scale), right.units * power10(scale - right.scale), scale];
}

/** -1, 0 or 1. NaN equals itself and is larger than every other number. */
export function compareNumeric(left: Numeric, right: Numeric): number {
  if (typeof left === "string" || typeof right === "string") {
    const rank = (value: Numeric): number => {
      if (typeof value !== "string") return 0;
      return { "-Infinity": -1, Infinity: 1, NaN: 2 }[value];
    };
    return Math.sign(rank(left) - rank(right));
  }
  const [one, other] = aligned(left, right);
  return Number(one > other) - Number(one < other);
}

/** Arithmetic with what is no finite number goes as that of doubles. */
function withoutDigits(
  left: Numeric,
  right: Numeric,
  operate: (left: number, right: number) => number,
): Numeric {
  return String(operate(toDouble(left), toDouble(right))) as "NaN";
}

export function add(left: Numeric, right: Numeric): Numeric {
  if (typeof left === "string" || typeof right === "string")
    return withoutDigits(left, right, (one, other) => one + other);
  const [one, other, scale] = aligned(left, right);
  return { units: one + other, scale };
}

export function negate(value: Numeric): Numeric {
  if (typeof value !== "string") return { ...value, units: -value.units };
  if (value === "NaN") return value;
  return value === "Infinity" ? "-Infinity" : "Infinity";
}

export const subtract = (left: Numeric, right: Numeric): Numeric => add(left, negate(right));

export function multiply(left: Numeric, right: Numeric): Numeric {
  if (typeof left === "string" || typeof right === "string")
    return withoutDigits(left, right, (one, other) => one * other);
  return { units: left.units * right.units, scale: left.scale + right.scale };
}

/** Quotient of whole numbers, rounded half away from zero. */
function roundedQuotient(dividend: bigint, divisor: bigint): bigint {
  const sign = dividend < 0n !== divisor < 0n ? -1n : 1n;
  const [over, under] = [absolute(dividend), absolute(divisor)];
  return sign * ((2n * over + under) / (2n * under));
}

/** Place of the first group of four digits, from 0 for the group before the point, and its value. */
function firstGroup({ units, scale }: Finite): readonly [weight: number, value: number] {
  if (units === 0n) return [0, 0];
  const [whole = "", fraction = ""] = writeNumeric({ units: absolute(units), scale }).split(".");
  const digits =
    whole.padStart(4 * Math.ceil(whole.length / 4), "0") +
    fraction.padEnd(4 * Math.ceil(fraction.length / 4), "0");
  const groups = digits.match(/.{4}/g) ?? [];
  const first = groups.findIndex((group) => group !== "0000");
  return [Math.ceil(whole.length / 4) - 1 - first, Number(groups[first])];
}

/** At least 16 significant digits, and no fewer decimals than the operands have. */
function quotientScale(left: Finite, right: Finite): number {
  const [leftWeight, leftValue] = firstGroup(left);
  const [rightWeight, rightValue] = firstGroup(right);
  const weight = leftWeight - rightWeight - (leftValue <= rightValue ? 1 : 0);
  return Math.min(1000, Math.max(16 - 4 * weight, left.scale, right.scale));
}

/** @throws ConditionError when dividing by zero */
export function divide(left: Numeric, right: Numeric): Numeric {
  if (typeof right !== "string" && right.units === 0n && left !== "NaN") throw divisionByZero();
  if (typeof left === "string" || typeof right === "string")
    return typeof left !== "string" && right !== "NaN"
      ? ofInteger(0n)
      : withoutDigits(left, right, (one, other) => one / other);
  const scale = quotientScale(left, right);
  const shift = scale + right.scale - left.scale;
  const dividend = shift >= 0 ? left.units * power10(shift) : left.units;
  const divisor = shift >= 0 ? right.units : right.units * power10(-shift);
  return { units: roundedQuotient(dividend, divisor), scale };
}

/** Remainder with the sign of the dividend. */
export function remainder(left: Numeric, right: Numeric): Numeric {
  if (typeof right !== "string" && right.units === 0n) throw divisionByZero();
  if (typeof left === "string" || typeof right === "string")
    return left === "NaN" || right === "NaN" ? "NaN" : left;
  const [one, other, scale] = aligned(left, right);
  return { units: one % other, scale };
}

/** Rounded half away from zero to some decimals; a negative number of them rounds before the point. */
export function round(value: Numeric, decimals = 0): Numeric {
  if (typeof value === "string") return value;
  if (decimals >= value.scale)
    return { units: value.units * power10(decimals - value.scale), scale: decimals };
  const units = roundedQuotient(value.units, power10(value.scale - decimals));
  return decimals >= 0 ? { units, scale: decimals } : { units: units * power10(-decimals), scale: 0 };
}

export function truncate(value: Numeric): Numeric {
  return typeof value === "string" ? value : ofInteger(value.units / power10(value.scale));
}

export function floor(value: Numeric): Numeric {
  if (typeof value === "string") return value;
  const whole = value.units / power10(value.scale);
  return ofInteger(value.units < 0n && whole * power10(value.scale) !== value.units ? whole - 1n : whole);
}

export const ceil = (value: Numeric): Numeric => negate(floor(negate(value)));

export const signOf = (value: Numeric): Numeric =>
  value === "NaN" ? value : ofInteger(BigInt(compareNumeric(value, ofInteger(0n))));

/** A function of doubles for exact numbers: right to about fifteen digits, which is what tests compare. */
export function byDoubles(value: number): Numeric {
  if (!Number.isFinite(value)) return String(value) as "NaN";
  return parseNumeric(value.toPrecision(17));
}

/** Exponential function to 16 decimals: the series of a small part of the value, squared as often as it was halved. */
export function exponential(value: Numeric): Numeric {
  if (typeof value === "string") return value === "-Infinity" ? ofInteger(0n) : value;
  const halvings = 20;
  const digits = 60 + Math.ceil(Math.abs(toDouble(value)));
  const one = power10(digits);
  const part = (value.units * one) / power10(value.scale) / 2n ** BigInt(halvings);
  let [sum, term] = [one, one];
  for (let place = 1n; term !== 0n; place += 1n) {
    term = (term * part) / one / place;
    sum += term;
  }
  for (let index = 0; index < halvings; index += 1) sum = (sum * sum) / one;
  return round({ units: sum, scale: digits }, 16);
}

/** A whole number. @throws ConditionError for what is no finite number */
export function toInteger(value: Numeric): bigint {
  const rounded = round(value);
  if (typeof rounded === "string") throw new ConditionError("feature not supported");
  return rounded.units;
}
