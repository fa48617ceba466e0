import { CronExpressionParser } from "cron-parser";
import type { Schedule } from "../pipeline/operating-schema";

/** A slot this much older than now counts as missed: the server was not there for it. */
const LATE_MILLISECONDS = 5 * 60_000;

/** Most times looked at between two moments; of more, the latest are taken. */
const MOST_SLOTS = 500;

/** Times of a cron expression after one moment, up to and including another; at most {@link MOST_SLOTS}, the latest ones. */
export function slotsBetween(cron: string, zone: string, after: Date, until: Date): readonly Date[] {
  // Backwards only to find where to begin: going back passes over a time that the change of the clocks moved.
  const back = CronExpressionParser.parse(cron, { currentDate: until.getTime() + 1, tz: zone });
  let begin = until;
  for (let seen = 0; seen < MOST_SLOTS && begin > after; seen += 1) begin = back.prev().toDate();
  const slots: Date[] = [];
  const times = CronExpressionParser.parse(cron, {
    currentDate: Math.max(begin.getTime() - 1, after.getTime()),
    tz: zone,
  });
  for (let slot = times.next().toDate(); slot <= until; slot = times.next().toDate()) slots.push(slot);
  return slots;
}

/** The next times of a cron expression. */
export function nextSlots(cron: string, zone: string, after: Date, count: number): readonly Date[] {
  const times = CronExpressionParser.parse(cron, { currentDate: after, tz: zone });
  return Array.from({ length: count }, () => times.next().toDate());
}

/**
 * Which slots are to be run now, given the setting for missed times: those in time always;
 * of the missed ones none (skip) or the newest (catch up once), unless one in time makes it needless.
 */
export function dueSlots(slots: readonly Date[], now: Date, missed: Schedule["missed"]): readonly Date[] {
  const inTime = slots.filter((slot) => now.getTime() - slot.getTime() <= LATE_MILLISECONDS);
  const late = slots.at(-1);
  if (inTime.length > 0 || late === undefined) return inTime;
  return missed === "catch_up_once" ? [late] : [];
}
