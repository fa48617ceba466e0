import { ConditionError } from "./failure";

/** Moments are microseconds since 1970 in UTC, local times the same as if they were in UTC, dates days since 1970. */
export const DAY = 86_400_000_000n;
const MILLISECOND = 1000n;

export interface Interval {
  readonly months: number;
  readonly days: number;
  readonly micros: bigint;
}

const floorDivide = (left: bigint, right: bigint): bigint => {
  const quotient = left / right;
  return left % right !== 0n && left < 0n !== right < 0n ? quotient - 1n : quotient;
};

/** Fields of a local time. */
export interface Fields {
  readonly year: number;
  readonly month: number;
  readonly day: number;
  /** Microseconds since midnight. */
  readonly micros: bigint;
}

export const dayOf = (micros: bigint): number => Number(floorDivide(micros, DAY));

function dateOf(days: number): Date {
  return new Date(days * 86_400_000);
}

export function fieldsOf(micros: bigint): Fields {
  const days = dayOf(micros);
  const date = dateOf(days);
  return {
    year: date.getUTCFullYear(),
    month: date.getUTCMonth() + 1,
    day: date.getUTCDate(),
    micros: micros - BigInt(days) * DAY,
  };
}

/** Days since 1970 of a date in the Gregorian calendar. */
export function daysOf(year: number, month: number, day: number): number {
  const date = new Date(0);
  date.setUTCFullYear(year, month - 1, day);
  return date.getTime() / 86_400_000;
}

const isDate = (year: number, month: number, day: number): boolean => {
  const date = dateOf(daysOf(year, month, day));
  return date.getUTCMonth() + 1 === month && date.getUTCDate() === day;
};

const FORM =
  /^\s*(\d{4,})-(\d{1,2})-(\d{1,2})(?:[ T](\d{1,2}):(\d{2})(?::(\d{2})(?:\.(\d{1,6}))?)?)?\s*(Z|[+-]\d{2}(?::?\d{2})?)?\s*$/;

/** A local time and, where the text has one, its offset from UTC in microseconds. */
export function parseMoment(text: string): { readonly local: bigint; readonly offset: bigint | undefined } {
  const parts = FORM.exec(text);
  if (!parts) throw new ConditionError("invalid datetime format");
  const [, year, month, day, hour = "0", minute = "0", second = "0", fraction = "", zone] = parts;
  if (!isDate(Number(year), Number(month), Number(day))) throw new ConditionError("datetime field overflow");
  const days = daysOf(Number(year), Number(month), Number(day));
  const seconds = BigInt(Number(hour) * 3600 + Number(minute) * 60 + Number(second));
  const local = BigInt(days) * DAY + seconds * 1_000_000n + BigInt(fraction.padEnd(6, "0") || "0");
  return { local, offset: zone === undefined ? undefined : offsetOf(zone) };
}

function offsetOf(zone: string): bigint {
  if (zone === "Z") return 0n;
  const [, sign, hours, minutes = "0"] = /^([+-])(\d{2}):?(\d{2})?$/.exec(zone) ?? [];
  return BigInt((Number(hours) * 60 + Number(minutes)) * (sign === "-" ? -60 : 60)) * 1_000_000n;
}

const formats = new Map<string, Intl.DateTimeFormat>();

/** How far a zone is ahead of UTC at a moment, in microseconds. */
function offsetAt(zone: string, moment: bigint): bigint {
  const format =
    formats.get(zone) ??
    new Intl.DateTimeFormat("en-US", { timeZone: zone, timeZoneName: "longOffset", year: "numeric" });
  formats.set(zone, format);
  const date = new Date(Number(floorDivide(moment, MILLISECOND)));
  const name = format.formatToParts(date).find(({ type }) => type === "timeZoneName")?.value ?? "GMT";
  const [, sign, hours = "0", minutes = "0", seconds = "0"] =
    /GMT([+-])(\d{2}):?(\d{2})?(?::(\d{2}))?/.exec(name) ?? [];
  const total = Number(hours) * 3600 + Number(minutes) * 60 + Number(seconds);
  return BigInt(sign === "-" ? -total : total) * 1_000_000n;
}

export const localAt = (zone: string, moment: bigint): bigint => moment + offsetAt(zone, moment);

/** The moment of a local time. One that is skipped, or occurs twice, is taken in standard time. */
export function momentAt(zone: string, local: bigint): bigint {
  const offsets = [offsetAt(zone, local - DAY), offsetAt(zone, local + DAY)];
  const candidates = offsets.map((offset) => local - offset);
  const valid = candidates.filter((moment) => localAt(zone, moment) === local);
  if (valid.length === 1) return valid[0]!;
  const standard = offsets.reduce((left, right) => (left < right ? left : right));
  return local - standard;
}

const two = (value: number | bigint): string => String(value).padStart(2, "0");

const plainDate = (days: number): string => {
  const { year, month, day } = fieldsOf(BigInt(days) * DAY);
  return `${String(year > 0 ? year : 1 - year).padStart(4, "0")}-${two(month)}-${two(day)}`;
};

/** Years before the first are counted backwards from it. */
const era = (days: number): string => (fieldsOf(BigInt(days) * DAY).year > 0 ? "" : " BC");

/** Hours, minutes and seconds, with a fraction only where there is one. */
export function writeClock(micros: bigint): string {
  const seconds = micros / 1_000_000n;
  const fraction = micros % 1_000_000n;
  const end = fraction === 0n ? "" : `.${String(fraction).padStart(6, "0").replace(/0+$/, "")}`;
  return `${two(seconds / 3600n)}:${two((seconds / 60n) % 60n)}:${two(seconds % 60n)}${end}`;
}

export const writeDate = (days: number): string => `${plainDate(days)}${era(days)}`;

/** @param zone what stands behind the time */
export const writeLocal = (micros: bigint, zone = ""): string =>
  `${plainDate(dayOf(micros))} ${writeClock(fieldsOf(micros).micros)}${zone}${era(dayOf(micros))}`;

export function writeInterval({ months, days, micros }: Interval): string {
  const plural = (count: number, name: string): string => `${count} ${name}${count === 1 ? "" : "s"}`;
  const years = Math.trunc(months / 12);
  const rest = months % 12;
  const parts = [
    ...(years === 0 ? [] : [plural(years, "year")]),
    ...(rest === 0 ? [] : [plural(rest, "mon")]),
    ...(days === 0 ? [] : [plural(days, "day")]),
  ];
  const size = micros < 0n ? -micros : micros;
  const clock = micros === 0n && parts.length > 0 ? [] : [`${micros < 0n ? "-" : ""}${writeClock(size)}`];
  return [...parts, ...clock].join(" ");
}

/** Adds an interval: months keep the day or take the last of a shorter month; then days, then the rest. */
export function addInterval(local: bigint, { months, days, micros }: Interval): bigint {
  const fields = fieldsOf(local);
  const month = fields.year * 12 + fields.month - 1 + months;
  const [year, monthOfYear] = [Math.floor(month / 12), (((month % 12) + 12) % 12) + 1];
  const last = dateOf(daysOf(year, monthOfYear + 1, 0)).getUTCDate();
  const day = daysOf(year, monthOfYear, Math.min(fields.day, last));
  return BigInt(day + days) * DAY + fields.micros + micros;
}

/** The time between two moments, in days of 24 hours and the rest. */
export function between(left: bigint, right: bigint): Interval {
  const micros = left - right;
  const days = micros / DAY;
  return { months: 0, days: Number(days), micros: micros - days * DAY };
}

const UNITS: Readonly<Record<string, Partial<{ months: number; days: number; micros: bigint }>>> = {
  year: { months: 12 },
  mon: { months: 1 },
  month: { months: 1 },
  week: { days: 7 },
  day: { days: 1 },
  hour: { micros: 3_600_000_000n },
  minute: { micros: 60_000_000n },
  min: { micros: 60_000_000n },
  second: { micros: 1_000_000n },
  sec: { micros: 1_000_000n },
};

/** Reads an interval such as "1 month", "36 hours" or "1 day 02:00:00". */
export function parseInterval(text: string): Interval {
  let found: Interval = { months: 0, days: 0, micros: 0n };
  const clock = /(-?)(\d+):(\d{2})(?::(\d{2}))?/.exec(text);
  if (clock) {
    const seconds = BigInt(Number(clock[2]) * 3600 + Number(clock[3]) * 60 + Number(clock[4] ?? 0));
    found = { ...found, micros: seconds * 1_000_000n * (clock[1] === "-" ? -1n : 1n) };
  }
  for (const [, count, unit] of text.replace(clock?.[0] ?? "", "").matchAll(/(-?\d+)\s*([a-z]+)/gi)) {
    const known = UNITS[unit!.toLowerCase().replace(/s$/, "")];
    if (!known) throw new ConditionError("invalid datetime format");
    found = {
      months: found.months + Number(count) * (known.months ?? 0),
      days: found.days + Number(count) * (known.days ?? 0),
      micros: found.micros + BigInt(count!) * (known.micros ?? 0n),
    };
  }
  return found;
}

/** The year and number of the ISO week of a day. */
export function isoWeek(days: number): readonly [year: number, week: number] {
  const thursday = days + 4 - isoDay(days);
  const year = fieldsOf(BigInt(thursday) * DAY).year;
  return [year, Math.floor((thursday - daysOf(year, 1, 1)) / 7) + 1];
}

/** Monday is 1, Sunday 7. */
export const isoDay = (days: number): number => ((((days + 3) % 7) + 7) % 7) + 1;

/** The beginning of the unit that a local time lies in. */
export function truncateTo(unit: string, local: bigint): bigint {
  const { year, month, micros } = fieldsOf(local);
  const days = dayOf(local);
  const at = (day: number): bigint => BigInt(day) * DAY;
  switch (unit.toLowerCase()) {
    case "year":
      return at(daysOf(year, 1, 1));
    case "quarter":
      return at(daysOf(year, 3 * Math.floor((month - 1) / 3) + 1, 1));
    case "month":
      return at(daysOf(year, month, 1));
    case "week":
      return at(days - isoDay(days) + 1);
    case "day":
      return at(days);
    case "hour":
      return at(days) + (micros / 3_600_000_000n) * 3_600_000_000n;
    case "minute":
      return at(days) + (micros / 60_000_000n) * 60_000_000n;
    case "second":
      return at(days) + (micros / 1_000_000n) * 1_000_000n;
    default:
      throw new ConditionError("invalid parameter value");
  }
}
