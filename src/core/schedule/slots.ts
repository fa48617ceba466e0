import type { Schedule } from "../pipeline/operating-schema";
import { wallTimes } from "./cron";
import { instantAt, wallTime } from "./wall-time";

/** A slot this much older than now counts as missed: the server was not there for it. */
const LATE_MILLISECONDS = 5 * 60_000;

/** Most times looked at between two moments; of more, the latest are taken. */
const MOST_SLOTS = 500;

/** Clocks are set back and forth by less than this. */
const LONGEST_CHANGE = 3 * 3_600_000;

/**
 * Moments of a cron expression in the order of time, or from one backwards, without end. Times are those of the zone's clocks: one
 * that they show twice counts once, when they show it first; one that they pass over counts at the moment at which they do.
 */
function* moments(cron: string, zone: string, from: number, backwards = false): Generator<number> {
  const margin = backwards ? LONGEST_CHANGE : -LONGEST_CHANGE;
  let last: number | undefined;
  for (const wall of wallTimes(cron, wallTime(from, zone) + margin, backwards)) {
    const moment = instantAt(wall, zone);
    if (moment === last) continue;
    last = moment;
    yield moment;
  }
}

/** Times of a cron expression after one moment, up to and including another; at most {@link MOST_SLOTS}, the latest ones. */
export function slotsBetween(cron: string, zone: string, after: Date, until: Date): readonly Date[] {
  const slots: Date[] = [];
  for (const moment of moments(cron, zone, until.getTime(), true)) {
    if (moment <= after.getTime() || slots.length >= MOST_SLOTS) break;
    if (moment <= until.getTime()) slots.push(new Date(moment));
  }
  return slots.reverse();
}

/** The next times of a cron expression. */
export function nextSlots(cron: string, zone: string, after: Date, count: number): readonly Date[] {
  const slots: Date[] = [];
  for (const moment of moments(cron, zone, after.getTime())) {
    if (slots.length >= count) break;
    if (moment > after.getTime()) slots.push(new Date(moment));
  }
  return slots;
}

/** Times of a cron expression from one moment to another, both included, in order; at most so many, the first ones. */
export function slotsFrom(
  cron: string,
  zone: string,
  { from, until }: { readonly from: Date; readonly until: Date },
  most: number,
): readonly Date[] {
  const slots: Date[] = [];
  for (const moment of moments(cron, zone, from.getTime())) {
    if (moment > until.getTime() || slots.length >= most) break;
    if (moment >= from.getTime()) slots.push(new Date(moment));
  }
  return slots;
}

/** Computes something of cron expressions in zones, once for those that are equal. */
export function oncePerTime<Value>(
  compute: (cron: string, zone: string) => Value,
): (cron: string, zone: string) => Value {
  const found = new Map<string, Value>();
  return (cron, zone) => {
    const key = JSON.stringify([cron, zone]);
    if (!found.has(key)) found.set(key, compute(cron, zone));
    return found.get(key)!;
  };
}

/** The latest time of a cron expression up to and including a moment. */
export function lastSlot(cron: string, zone: string, until: Date): Date {
  for (const moment of moments(cron, zone, until.getTime(), true))
    if (moment <= until.getTime()) return new Date(moment);
  throw new RangeError(`no time of ${cron} before ${until.toISOString()}`);
}

/**
 * Which slots are to be run now, given the setting for missed times: those in time always;
 * of the missed ones none (skip) or the newest (catch up once), unless one in time makes it needless.
 * @param started when the application was last started: what was due up to then was missed, however short the stop
 */
export function dueSlots(
  slots: readonly Date[],
  now: Date,
  missed: Schedule["missed"],
  started = new Date(0),
): readonly Date[] {
  const inTime = slots.filter(
    (slot) => slot > started && now.getTime() - slot.getTime() <= LATE_MILLISECONDS,
  );
  const late = slots.at(-1);
  if (inTime.length > 0 || late === undefined) return inTime;
  return missed === "catch_up_once" ? [late] : [];
}
