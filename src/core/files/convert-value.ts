import { classify, dayExists, Fits, fullYear, NO, YES } from "./classify";
import type { ColumnLook, ValueLook } from "./look";
import { ORDER_BITS } from "./propose";

/** A value as COPY reads it, a missing one, or why it does not fit. */
export type Converted = string | null | { readonly misfit: string };

const misfit = (value: string, wanted: string): Converted => ({
  misfit: `“${value.slice(0, 60)}” is ${wanted}`,
});

/** Ranges of whole numbers, as texts of digits. */
const LIMITS = { smallint: 32767, integer: 2147483647 } as const;

/** What nearly all numbers look like; everything else takes the longer way. */
const ORDINARY = /^[+-]?\d{1,15}(\.\d{1,15})?$/;
const ORDINARY_WHOLE = /^[+-]?\d{1,9}$/;

function asNumber(value: string, decimal: "." | ","): string | undefined {
  if (decimal === "." && ORDINARY.test(value)) return value;
  const fits = classify(value);
  const thousands = decimal === "." ? Fits.THOUSAND_COMMAS : Fits.THOUSAND_POINTS;
  const own = decimal === "." ? Fits.DECIMAL_POINT : Fits.DECIMAL_COMMA;
  if ((fits & (Fits.INTEGER | Fits.BIGINT | Fits.HUGE | Fits.EXPONENT)) !== 0) return value;
  if ((fits & own) !== 0) return decimal === "." ? value : value.replace(",", ".");
  if ((fits & thousands) !== 0)
    return decimal === "." ? value.replaceAll(",", "") : value.replaceAll(".", "").replace(",", ".");
  return undefined;
}

const DATE = /^(\d{1,4})[-/.](\d{1,2})[-/.](\d{1,4})(?:[T ](.*))?$/;
const two = (part: string | number): string => String(part).padStart(2, "0");

/** A day, and perhaps a time of day, as PostgreSQL writes them itself. */
const ORDINARY_MOMENT =
  /^(\d{4})-(\d{2})-(\d{2})(?:[ T](?:[01]\d|2[0-3]):[0-5]\d(?::[0-5]\d(?:\.\d{1,6})?)?)?$/;

function asMoment(value: string, order: "ymd" | "dmy" | "mdy", timed: boolean): string | undefined {
  const ordinary = order === "ymd" ? ORDINARY_MOMENT.exec(value) : null;
  if (ordinary) {
    if (!dayExists(Number(ordinary[1]), Number(ordinary[2]), Number(ordinary[3]))) return undefined;
    if (timed) return value;
    return value.slice(0, 10);
  }
  const fits = classify(value);
  const match = DATE.exec(value);
  if ((fits & ORDER_BITS[order]) === 0 || !match) return undefined;
  const [, first = "", middle = "", last = "", time] = match;
  const places = {
    ymd: [first, middle, last],
    dmy: [last, middle, first],
    mdy: [last, first, middle],
  } as const;
  const [year, month, day] = places[order];
  const date = `${String(fullYear(year)).padStart(4, "0")}-${two(month)}-${two(day)}`;
  if (!timed || time === undefined) return date;
  return `${date} ${time.replace(",", ".")}`;
}

/**
 * How the values of a column are turned into what COPY reads as the chosen type. Values that are no such thing are
 * misfits with a reason; nothing is guessed.
 */
export function converterOf(column: ColumnLook, look: ValueLook): (value: string | null) => Converted {
  const missing = new Set(look.missing);
  const convert = conversion(column, look);
  const asItStands = column.type === "text" || column.type === "jsonb";
  // Most files mark a missing value by writing nothing.
  const longest = Math.max(0, ...look.missing.map((text) => text.length));
  return (value) => {
    if (value === null) return null;
    const padded =
      value.length > 0 && (value.charCodeAt(0) <= 32 || value.charCodeAt(value.length - 1) <= 32);
    const trimmed = padded ? value.trim() : value;
    if (trimmed.length <= longest && (missing.has(trimmed) || missing.has(value))) return null;
    return convert(asItStands ? value : trimmed);
  };
}

function conversion(column: ColumnLook, look: ValueLook): (value: string) => Converted {
  switch (column.type) {
    case "text":
      return (value) =>
        value.includes("\0")
          ? { misfit: "the text contains a NUL character, which PostgreSQL does not allow" }
          : value;
    case "smallint":
    case "integer":
      return (value) => {
        if (column.type === "integer" && ORDINARY_WHOLE.test(value)) return value;
        const number = asNumber(value, look.decimal);
        if (number === undefined || !/^[+-]?\d+$/.test(number)) return misfit(value, "not a whole number");
        return Math.abs(Number(number)) > LIMITS[column.type === "smallint" ? "smallint" : "integer"]
          ? misfit(value, `too large for ${column.type}`)
          : number;
      };
    case "bigint":
      return (value) => {
        if (ORDINARY_WHOLE.test(value)) return value;
        const number = asNumber(value, look.decimal);
        if (number === undefined || !/^[+-]?\d+$/.test(number)) return misfit(value, "not a whole number");
        return (classify(number) & Fits.HUGE) === 0 ? number : misfit(value, "too large for bigint");
      };
    case "numeric":
      return (value) =>
        asNumber(value, look.decimal) ?? (value === "NaN" ? value : misfit(value, "not a number"));
    case "double precision":
      return (value) => {
        const number = asNumber(value, look.decimal);
        if (number === value && ORDINARY.test(value)) return value;
        if (number === undefined)
          return /^(NaN|[+-]?Inf(inity)?)$/i.test(value) ? value : misfit(value, "not a number");
        return Number.isFinite(Number(number)) ? number : misfit(value, "too large for double precision");
      };
    case "boolean":
      return (value) => {
        const lower = value.toLowerCase();
        if (YES.has(lower) || lower === "1") return "true";
        return NO.has(lower) || lower === "0" ? "false" : misfit(value, "neither yes nor no");
      };
    case "date":
    case "timestamp":
    case "timestamptz":
      return (value) =>
        asMoment(value, column.dateOrder ?? "ymd", column.type !== "date") ??
        misfit(
          value,
          `not a date (${(column.dateOrder ?? "ymd").split("").join(", ").replace("y", "year").replace("m", "month").replace("d", "day")})`,
        );
    case "time":
      return (value) => ((classify(value) & Fits.TIME) !== 0 ? value : misfit(value, "not a time of day"));
    case "jsonb":
      return (value) => {
        try {
          JSON.parse(value);
          return value.includes("\\u0000") ? { misfit: "the JSON contains a NUL character" } : value;
        } catch {
          return misfit(value, "not valid JSON");
        }
      };
  }
}

/** A value as a field of COPY's text format. */
export function copyField(value: string | null): string {
  if (value === null) return "\\N";
  return /[\\\n\r\t]/.test(value)
    ? value.replaceAll("\\", "\\\\").replaceAll("\n", "\\n").replaceAll("\r", "\\r").replaceAll("\t", "\\t")
    : value;
}
