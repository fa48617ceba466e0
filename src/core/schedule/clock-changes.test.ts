import { mix } from "../numeric/random";
import { cronMistake } from "./cron";
import { lastSlot, nextSlots, slotsBetween, slotsFrom } from "./slots";
import { wallTime } from "./wall-time";

const [MINUTE, HOUR] = [60_000, 3_600_000];
const [FROM, UNTIL] = [Date.UTC(2024, 0, 1), Date.UTC(2029, 0, 1)];

/** Moments at which the clocks of a zone are changed within five years, by looking every four days. */
function changesOf(zone: string): readonly number[] {
  const offset = (instant: number): number => wallTime(instant, zone) - instant;
  const found: number[] = [];
  let known = offset(FROM);
  for (let at = FROM; at < UNTIL; at += 4 * 24 * HOUR) {
    const here = offset(at);
    if (here === known) continue;
    let [before, from] = [at - 4 * 24 * HOUR, at];
    while (from - before > MINUTE) {
      const middle = before + Math.floor((from - before) / 2 / MINUTE) * MINUTE;
      if (offset(middle) === known) before = middle;
      else from = middle;
    }
    found.push(from);
    known = here;
  }
  return found;
}

/** Values of a field, by a reading of their own. */
function valuesOf(text: string, low: number, high: number): ReadonlySet<number> {
  const found = new Set<number>();
  for (const part of text.split(",")) {
    const [range, step = "1"] = part.split("/") as [string, string?];
    const [first, last] = range === "*" ? [low, high] : (range.split("-").map(Number) as [number, number?]);
    for (let value = first; value <= (last ?? first); value += Number(step)) found.add(value);
  }
  return found;
}

/** Whether clocks that show a time meet an expression. Of two restricted days either is enough. */
function meets(cron: string): (wall: number) => boolean {
  const [minutes, hours, days, months, weekdays] = cron.split(" ") as [
    string,
    string,
    string,
    string,
    string,
  ];
  const [minute, hour, day, month, weekday] = [
    valuesOf(minutes, 0, 59),
    valuesOf(hours, 0, 23),
    valuesOf(days, 1, 31),
    valuesOf(months, 1, 12),
    new Set([...valuesOf(weekdays, 0, 7)].map((value) => value % 7)),
  ];
  return (wall) => {
    const shown = new Date(wall);
    const [onDay, onWeekday] = [day.has(shown.getUTCDate()), weekday.has(shown.getUTCDay())];
    const either = days !== "*" && weekdays !== "*" ? onDay || onWeekday : onDay && onWeekday;
    return (
      minute.has(shown.getUTCMinutes()) &&
      hour.has(shown.getUTCHours()) &&
      month.has(shown.getUTCMonth() + 1) &&
      either
    );
  };
}

/** The times between two moments, minute by minute: of clocks that are set forward those that were passed over, once; of clocks set back none again. */
function slowSlots(cron: string, zone: string, after: number, until: number): readonly string[] {
  const isSlot = meets(cron);
  const start = after - 4 * HOUR;
  let shown = wallTime(start, zone);
  const found: string[] = [];
  for (let at = start + MINUTE; at <= until; at += MINUTE) {
    const wall = wallTime(at, zone);
    let due = false;
    for (let passed = shown + MINUTE; passed <= wall; passed += MINUTE) due ||= isSlot(passed);
    shown = Math.max(shown, wall);
    if (due && at > after) found.push(new Date(at).toISOString());
  }
  return found;
}

const EXPRESSIONS = [
  "0 0 * * *",
  "30 1 * * *",
  "*/10 * * * *",
  "15 */2 * * *",
  "5 0-3 * * 0,6",
  "0 2 1,15 * 1",
  "59 23 * * *",
  "0,30 0-4 * * *",
];

test("around every change of the clocks, in every zone, times are those of a slow walk over minutes", () => {
  const seen = new Set<string>();
  for (const zone of Intl.supportedValuesOf("timeZone")) {
    const changes = changesOf(zone);
    // Zones that change at the same moments by the same have the same times.
    const kind = JSON.stringify([
      wallTime(FROM, zone) - FROM,
      changes.map((at) => [at, wallTime(at, zone) - at]),
    ]);
    if (seen.has(kind)) continue;
    seen.add(kind);
    for (const [index, change] of changes.entries()) {
      const cron = EXPRESSIONS[mix(index, seen.size) % EXPRESSIONS.length]!;
      const [after, until] = [change - 3 * HOUR, change + 3 * HOUR];
      const slow = slowSlots(cron, zone, after, until);
      const told = (slots: readonly Date[]): readonly string[] => slots.map((slot) => slot.toISOString());
      expect([zone, cron, told(slotsBetween(cron, zone, new Date(after), new Date(until)))]).toEqual([
        zone,
        cron,
        slow,
      ]);
      expect(
        told(slotsFrom(cron, zone, { from: new Date(after + 1), until: new Date(until) }, 1000)),
      ).toEqual(slow);
      expect(told(nextSlots(cron, zone, new Date(after), slow.length))).toEqual(slow);
      if (slow.length > 0) expect(lastSlot(cron, zone, new Date(until)).toISOString()).toBe(slow.at(-1));
    }
  }
  expect(seen.size).toBeGreaterThan(60);
});

test.each([
  ["America/Santiago", "2026-09-06T04:00:00.000Z"],
  ["Atlantic/Azores", "2026-03-29T01:00:00.000Z"],
  ["Africa/Cairo", "2026-04-23T22:00:00.000Z"],
  ["Asia/Beirut", "2026-03-28T22:00:00.000Z"],
  ["America/Havana", "2026-03-08T05:00:00.000Z"],
])("a midnight that there is not in %s is the moment after it", (zone, moment) => {
  const before = new Date(new Date(moment).getTime() - HOUR);
  expect(nextSlots("0 0 * * *", zone, before, 1)[0]!.toISOString()).toBe(moment);
  expect(slotsBetween("0 0 * * *", zone, before, new Date(moment)).map((slot) => slot.toISOString())).toEqual(
    [moment],
  );
});

test("half an hour that is passed over is one time, and half an hour that comes twice is not repeated", () => {
  const between = (from: string, until: string) =>
    slotsBetween("*/10 * * * *", "Australia/Lord_Howe", new Date(from), new Date(until)).length;
  // 01:40, 01:50, what lies between 02:00 and 02:30, 02:30, 02:40 and so on.
  expect(between("2026-10-03T15:00:00Z", "2026-10-03T16:00:00Z")).toBe(6);
  expect(between("2026-04-04T14:00:00Z", "2026-04-04T16:00:00Z")).toBe(9);
});

test.each([
  ["H H * * *", /"H" cannot be the minute/],
  ["*/61 * * * *", /"\*\/61" cannot be the minute/],
  ["0 0 L * *", /"L" cannot be the day of the month/],
  ["0 0 * * 5#2", /"5#2" cannot be the day of the week/],
  ["0 25 * * *", /"25" cannot be the hour \(0 to 23\)/],
  ["0 0 30 2 *", /No day/],
  ["@daily", /five fields/],
  ["0 0 * * * *", /five fields/],
  ["5-1 * * * *", /"5-1" cannot be the minute/],
  ["? 0 * * *", /"\?" cannot be/],
  ["5/10 * * * *", /"5\/10" cannot be/],
])("%s is refused at its place", (cron, words) => {
  expect(cronMistake(cron)).toMatch(words);
});

test.each(["15 2 * * *", "*/15 * * * *", "0 9-17/2 * jan-mar Mon-Fri", "0,30 0 1,15 * 7", "0 0 29 2 *"])(
  "%s is good",
  (cron) => {
    expect(cronMistake(cron)).toBeUndefined();
  },
);
