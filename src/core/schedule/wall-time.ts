const HOUR = 3_600_000;
/** Clocks are changed by less than this, and rules hold longer. */
const DAY = 24 * HOUR;

const formats = new Map<string, Intl.DateTimeFormat>();

function formatOf(zone: string): Intl.DateTimeFormat {
  const known = formats.get(zone);
  if (known) return known;
  const made = new Intl.DateTimeFormat("en-US", {
    timeZone: zone,
    calendar: "gregory",
    numberingSystem: "latn",
    hourCycle: "h23",
    year: "numeric",
    month: "numeric",
    day: "numeric",
    hour: "numeric",
    minute: "numeric",
    second: "numeric",
  });
  formats.set(zone, made);
  return made;
}

/**
 * What the clocks of a zone show.
 * @param instant milliseconds since 1970 in UTC
 * @returns the milliseconds at which the clocks of UTC show the same
 */
export function wallTime(instant: number, zone: string): number {
  const shown = Object.fromEntries(
    formatOf(zone)
      .formatToParts(instant)
      .map((part) => [part.type, Number(part.value)]),
  );
  return Date.UTC(
    shown["year"]!,
    shown["month"]! - 1,
    shown["day"]!,
    shown["hour"]!,
    shown["minute"]!,
    shown["second"]!,
  );
}

/**
 * The moment at which the clocks of a zone show a time: the first one, where they show it twice; where they pass over it, the moment
 * at which they do.
 * @param wall as {@link wallTime} gives it
 */
export function instantAt(wall: number, zone: string): number {
  const offsets = [wall - DAY, wall + DAY].map((instant) => wallTime(instant, zone) - instant);
  const candidates = offsets.map((offset) => wall - offset).sort((left, right) => left - right);
  const found = candidates.find((instant) => wallTime(instant, zone) === wall);
  if (found !== undefined) return found;
  // The clocks show less before the change, and more from it on.
  let [before, from] = [candidates[0]!, candidates.at(-1)!];
  while (from - before > 1) {
    const middle = Math.floor((before + from) / 2);
    if (wallTime(middle, zone) < wall) before = middle;
    else from = middle;
  }
  return from;
}
