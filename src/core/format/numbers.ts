import { formatLocale } from "d3-format";

/** The one way numbers are written for people: in pages, on the command line, in logs, documents and charts. */

// A plain hyphen instead of the typographic minus, so that what is copied out of the application is a number elsewhere.
const locale = formatLocale({ decimal: ".", thousands: ",", grouping: [3], currency: ["", ""], minus: "-" });

const SMALLEST_PLAIN = 1e-6;
const LARGEST_PLAIN = 1e15;
/** Significant digits of what is at least 1; below it one fewer, so that 0.9999 and 1.0001 have as many decimals. */
const DIGITS = 5;

const whole = locale.format(",d");
const scientific = locale.format(`.${DIGITS - 1}~e`);
const decimals = Array.from({ length: 16 }, (_, count) => locale.format(`,.${count}~f`));

const MISSING = "–";

/**
 * A number as people read it: whole numbers in full, others with five significant digits (four below 1), never fewer
 * than all digits before the decimal point, thousands grouped, and an exponent only below 1e-6 or from 1e15 on.
 * The same value always has the same form.
 * @returns an en dash for what is missing or no number
 */
export function formatNumber(value: number | null | undefined): string {
  if (value === null || value === undefined || Number.isNaN(value)) return MISSING;
  if (!Number.isFinite(value)) return value > 0 ? "infinite" : "-infinite";
  if (value === 0) return "0";
  const size = Math.abs(value);
  if (size < SMALLEST_PLAIN || size >= LARGEST_PLAIN) return scientific(value);
  if (Number.isInteger(value)) return whole(value);
  const exponent = Math.floor(Math.log10(size));
  const places = exponent >= 0 ? Math.max(0, DIGITS - 1 - exponent) : DIGITS - 2 - exponent;
  return decimals[places]!(value);
}

/**
 * A share as a percentage with one decimal at the most, and with more where one would say that nothing or everything
 * is meant: 0.0004 is "0.04 %", 0.9996 is "99.96 %".
 * @param value a fraction, usually from 0 to 1
 */
export function formatShare(value: number | null | undefined): string {
  if (value === null || value === undefined || Number.isNaN(value)) return MISSING;
  if (!Number.isFinite(value)) return formatNumber(value);
  const percent = 100 * value;
  const rest = Math.min(Math.abs(percent), Math.abs(100 - Math.abs(percent)));
  // What is nearer to nothing or everything than 1e-6 percent is a rounding error of sums.
  const places = rest >= 0.05 || rest < SMALLEST_PLAIN ? 1 : Math.ceil(-Math.log10(rest));
  return `${decimals[places]!(percent)} %`;
}

/** Bytes in the unit that leaves one to three digits before the decimal point. */
export function formatBytes(value: number): string {
  const units = ["B", "kB", "MB", "GB", "TB"];
  const step = Math.min(units.length - 1, Math.max(0, Math.floor(Math.log10(Math.max(1, value)) / 3)));
  const size = value / 1000 ** step;
  return `${decimals[size >= 100 || step === 0 ? 0 : 1]!(size)} ${units[step]!}`;
}

/** A time span: milliseconds, seconds, minutes and seconds, or hours and minutes. */
export function formatDuration(milliseconds: number): string {
  if (milliseconds < 1000) return `${Math.round(milliseconds)} ms`;
  if (milliseconds < 60_000) return `${decimals[1]!(milliseconds / 1000)} s`;
  const seconds = Math.round(milliseconds / 1000);
  const minutes = Math.floor(seconds / 60);
  return minutes < 60
    ? `${minutes} min ${seconds % 60} s`
    : `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

/** A decimal number as a data type's text has it, in the form of all numbers; other text as it is. */
export function shortenDecimals<T extends string | null | undefined>(text: T): T | string {
  return typeof text === "string" && /^-?\d+\.\d{5,}(e[+-]?\d+)?$/.test(text)
    ? formatNumber(Number(text))
    : text;
}

/** A value rounded to some significant digits, still a number. */
export const roundSignificant = (value: number, digits: number): number =>
  Number.isFinite(value) ? Number(locale.format(`.${digits - 1}e`)(value)) : value;

/** The share that a part has of a whole, as a percentage. @returns an en dash where there is no whole */
export const formatPart = (part: number, whole: number): string =>
  formatShare(whole === 0 ? null : part / whole);

/** The largest number of so many significant digits that is not above a value. */
export function roundDown(value: number, digits: number): number {
  const rounded = roundSignificant(value, digits);
  if (!(rounded > value)) return rounded;
  const place = Math.floor(Math.log10(Math.abs(value))) - digits + 1;
  return roundSignificant(rounded - 10 ** place, digits);
}

/** A count with its unit, which gets an s unless it is one: `1 step`, `3 steps`. */
export const formatCount = (count: number, unit: string): string =>
  `${formatNumber(count)} ${unit}${count === 1 ? "" : "s"}`;
