import { CronExpressionParser } from "cron-parser";
import { isZone } from "../zone";

interface Field {
  readonly name: string;
  readonly low: number;
  readonly high: number;
  /** Words for values, the first of them for the lowest. */
  readonly words: readonly string[];
}

const MONTHS = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];
const DAYS = ["sun", "mon", "tue", "wed", "thu", "fri", "sat"];
const FIELDS: readonly Field[] = [
  { name: "minute", low: 0, high: 59, words: [] },
  { name: "hour", low: 0, high: 23, words: [] },
  { name: "day of the month", low: 1, high: 31, words: [] },
  { name: "month", low: 1, high: 12, words: MONTHS },
  // Sunday is 0 and 7.
  { name: "day of the week", low: 0, high: 7, words: DAYS },
];

/** A part of a field: *, a value, or a range, and after a stroke the step. */
const PART = /^(?:\*|(\w+)(?:-(\w+))?)(?:\/(\d+))?$/;

function valueOf(text: string, { low, high, words }: Field): number | undefined {
  const word = words.indexOf(text.toLowerCase());
  if (word >= 0) return low + word;
  const value = /^\d{1,2}$/.test(text) ? Number(text) : Number.NaN;
  return value >= low && value <= high ? value : undefined;
}

function isPart(text: string, field: Field): boolean {
  const found = PART.exec(text);
  if (!found) return false;
  const [, first, last, step] = found;
  const from = first === undefined ? field.low : valueOf(first, field);
  const to = last === undefined ? from : valueOf(last, field);
  if (from === undefined || to === undefined || to < from) return false;
  // A step needs something to step over.
  if (step === undefined) return true;
  const isRange = first === undefined || last !== undefined;
  return isRange && Number(step) >= 1 && Number(step) <= field.high - field.low;
}

/** What is wrong with a cron expression, in a sentence; undefined when nothing is. */
export function cronMistake(cron: string): string | undefined {
  const texts = cron.trim().split(/\s+/);
  if (texts.length !== FIELDS.length) return `"${cron}" is not a cron expression of five fields.`;
  const wrong = FIELDS.findIndex((field, index) =>
    texts[index]!.split(",").some((part) => !isPart(part, field)),
  );
  if (wrong >= 0)
    return `In "${cron}", "${texts[wrong]!}" cannot be the ${FIELDS[wrong]!.name} (${FIELDS[wrong]!.low} to ${FIELDS[wrong]!.high}).`;
  try {
    CronExpressionParser.parse(cron, { tz: "UTC" }).next();
    return undefined;
  } catch {
    return `No day matches "${cron}".`;
  }
}

/** Whether the times of an expression in a zone can be told: versions before took some that nobody can read. */
export const isReadable = (cron: string, zone: string): boolean =>
  cronMistake(cron) === undefined && isZone(zone);

/** The times of a cron expression before or after a time of the clocks, as {@link wallTime} tells it, one after the other. */
export function* wallTimes(cron: string, from: number, backwards = false): Generator<number> {
  const times = CronExpressionParser.parse(cron, { currentDate: from, tz: "UTC" });
  for (;;) yield (backwards ? times.prev() : times.next()).getTime();
}
