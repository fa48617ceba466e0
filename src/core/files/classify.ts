import { doubleHolds } from "../format/digits";

/** What a text could be; several at once. */
export const Fits = {
  /** A whole number that fits four bytes. */
  INTEGER: 1,
  /** A whole number that needs eight. */
  BIGINT: 2,
  /** Digits with zeros in front: a number only by its looks. */
  LEADING_ZERO: 4,
  /** 1234.5 */
  DECIMAL_POINT: 8,
  /** 1234,5 */
  DECIMAL_COMMA: 16,
  /** 1.234 or 1.234.567,8: points between thousands */
  THOUSAND_POINTS: 32,
  /** 1,234 or 1,234,567.8 */
  THOUSAND_COMMAS: 64,
  /** 1e6 */
  EXPONENT: 128,
  /** yes, no and their like */
  BOOLEAN: 256,
  /** 0 or 1 */
  ZERO_ONE: 512,
  YMD: 1024,
  DMY: 2048,
  MDY: 4096,
  /** With a time of day behind the date. */
  TIMED: 8192,
  /** With a time zone behind the time. */
  ZONED: 16384,
  /** A time of day alone. */
  TIME: 32768,
  /** One of the usual texts for "no value". */
  MARKER: 65536,
  EMPTY: 131072,
  /** Two digits behind the decimal mark, as in money. */
  TWO_DIGITS: 262144,
  /** More digits than eight bytes hold: an identifier, or an exact number. */
  HUGE: 524288,
  /** A date that the database reads as it stands: 2026-03-31. */
  ISO: 1048576,
  /** A number of more digits than double precision holds: it would be rounded. */
  LONG: 2097152,
  /** Infinity, as programs write it. */
  INFINITE: 4194304,
} as const;

/** Usual spellings of yes and no. */
export const YES: ReadonlySet<string> = new Set([
  "true",
  "t",
  "yes",
  "y",
  "on",
  "ja",
  "j",
  "oui",
  "si",
  "sí",
  "sim",
  "tak",
  "x",
]);
export const NO: ReadonlySet<string> = new Set([
  "false",
  "f",
  "no",
  "n",
  "off",
  "nein",
  "non",
  "não",
  "nao",
  "nie",
]);
/** Usual texts for "no value". */
export const MARKERS: readonly string[] = [
  "NULL",
  "null",
  "\\N",
  "NA",
  "N/A",
  "n/a",
  "#N/A",
  "NaN",
  "nan",
  "None",
  "-",
  "--",
  "?",
  ".",
];
const MARKER_SET: ReadonlySet<string> = new Set(MARKERS);

const INFINITY = /^[+-]?inf(inity)?$/i;
/** Texts longer than this are only looked at as numbers. */
const LONGEST = 40;
const DIGITS = /^[+-]?[\d.,]+$/;
const INTEGER = /^[+-]?\d+$/;
const DECIMAL = /^[+-]?(\d+)?([.,])(\d+)$/;
const EXPONENT = /^[+-]?(\d+\.?\d*|\.\d+)[eE][+-]?\d+$/;
const THOUSANDS = /^[+-]?\d{1,3}(?:([.,])\d{3})(?:\1\d{3})*(?:([.,])\d+)?$/;
const DATE =
  /^(\d{1,4})([-/.])(\d{1,2})\2(\d{1,4})(?:[T ](\d{1,2}):(\d{2})(?::(\d{2})(?:[.,]\d{1,9})?)?\s*(Z|UTC|[+-]\d{2}(?::?\d{2})?)?)?$/;
const TIME = /^([01]?\d|2[0-3]):[0-5]\d(:[0-5]\d([.]\d{1,6})?)?$/;

/** Whether such a day exists. Two-digit years are of this and the last century. */
export function dayExists(year: number, month: number, day: number): boolean {
  if (month < 1 || month > 12 || day < 1) return false;
  return day <= new Date(Date.UTC(year, month, 0)).getUTCDate();
}

export const fullYear = (year: string): number => {
  if (year.length > 2) return Number(year);
  if (Number(year) < 70) return 2000 + Number(year);
  return 1900 + Number(year);
};

function dateFits(text: string): number {
  const match = DATE.exec(text);
  if (!match) return 0;
  const [, first = "", separator, middle = "", last = "", hour, minute, second, zone] = match;
  if (hour !== undefined && (Number(hour) > 23 || Number(minute) > 59 || Number(second ?? 0) > 59)) return 0;
  let fits = 0;
  if (first.length === 4 && last.length <= 2 && dayExists(Number(first), Number(middle), Number(last)))
    fits |= Fits.YMD | (separator === "-" && middle.length === 2 && last.length === 2 ? Fits.ISO : 0);
  if (first.length <= 2 && (last.length === 4 || last.length === 2)) {
    if (dayExists(fullYear(last), Number(middle), Number(first))) fits |= Fits.DMY;
    if (dayExists(fullYear(last), Number(first), Number(middle))) fits |= Fits.MDY;
  }
  if (fits === 0) return 0;
  return fits | (hour === undefined ? 0 : Fits.TIMED) | (zone === undefined ? 0 : Fits.ZONED);
}

function numberFits(text: string): number {
  if (INTEGER.test(text)) {
    const digits = text.replace(/^[+-]/, "");
    const zero = digits.length > 1 && digits.startsWith("0") ? Fits.LEADING_ZERO : 0;
    const one = text === "0" || text === "1" ? Fits.ZERO_ONE : 0;
    if (digits.length > 19 || (digits.length === 19 && digits > "9223372036854775807"))
      return Fits.HUGE | zero;
    return (digits.length > 10 || Number(digits) > 2147483647 ? Fits.BIGINT : Fits.INTEGER) | zero | one;
  }
  let fits = 0;
  const decimal = DECIMAL.exec(text);
  if (decimal) {
    fits |= decimal[2] === "." ? Fits.DECIMAL_POINT : Fits.DECIMAL_COMMA;
    if (decimal[3]?.length === 2) fits |= Fits.TWO_DIGITS;
  }
  const thousands = THOUSANDS.exec(text);
  if (thousands && thousands[1] !== thousands[2])
    fits |= thousands[1] === "." ? Fits.THOUSAND_POINTS : Fits.THOUSAND_COMMAS;
  if (fits === 0 && EXPONENT.test(text)) fits |= Fits.EXPONENT;
  return fits === 0 || doubleHolds(text) ? fits : fits | Fits.LONG;
}

/** A short row of digits, by far the most common value, without the help of patterns. */
function plainDigits(text: string): number {
  const { length } = text;
  if (length > 9) return 0;
  for (let at = 0; at < length; at += 1) {
    const code = text.charCodeAt(at);
    if (code < 48 || code > 57) return 0;
  }
  const zero = text.charCodeAt(0) === 48;
  if (length > 1) return INTEGER_BIT | (zero ? LEADING_BIT : 0);
  return INTEGER_BIT | (zero || text === "1" ? ZERO_ONE_BIT : 0);
}

const [INTEGER_BIT, LEADING_BIT, ZERO_ONE_BIT] = [Fits.INTEGER, Fits.LEADING_ZERO, Fits.ZERO_ONE];

/** What a value could be, as a sum of {@link Fits}. Blanks around it do not matter. */
export function classify(value: string): number {
  const text = value.trim();
  if (text === "") return Fits.EMPTY;
  if (text.length > LONGEST && !DIGITS.test(text)) return 0;
  const code = text.charCodeAt(0);
  let fits = MARKER_SET.has(text) ? Fits.MARKER : 0;
  if ((code >= 48 && code <= 57) || code === 43 || code === 45 || code === 46 || code === 44) {
    const digits = plainDigits(text);
    if (digits !== 0) return digits;
    const number = numberFits(text);
    fits |= number | (number === 0 && INFINITY.test(text) ? Fits.INFINITE : 0);
    if (code >= 48 && code <= 57 && (number & (Fits.INTEGER | Fits.BIGINT)) === 0)
      fits |= text.includes(":") && TIME.test(text) ? Fits.TIME : dateFits(text);
  } else if (INFINITY.test(text)) fits |= Fits.INFINITE;
  else if (text.length <= 5) {
    const lower = text.toLowerCase();
    if (YES.has(lower) || NO.has(lower)) fits |= Fits.BOOLEAN;
  }
  return fits;
}
