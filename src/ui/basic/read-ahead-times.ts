/** A page that was read longer ago than this is read again once it is shown. Milliseconds. */
const FRESH = 2000;
/** The browser keeps a page that was read ahead for 30 seconds (staleTimes in next.config.ts). Milliseconds. */
const KEPT = 30_000;

/** Path and query of a link, written as the browser's address has them. */
export function addressOf(href: string): string {
  const { pathname, searchParams } = new URL(href, "http://page");
  const query = searchParams.toString();
  return query === "" ? pathname : `${pathname}?${query}`;
}

/** When pages were read ahead of a click. Moments are in milliseconds. */
export class ReadAheadTimes {
  private readonly times = new Map<string, number>();

  /** A link is read ahead; while the browser keeps an earlier reading of the page, it shows that one. */
  note(href: string, now: number): void {
    const address = addressOf(href);
    if (now - (this.times.get(address) ?? -Infinity) > KEPT) this.times.set(address, now);
  }

  /** Whether a page that is shown now is a reading of some time ago. */
  isOld(address: string, now: number): boolean {
    const age = now - (this.times.get(address) ?? -Infinity);
    return age > FRESH && age <= KEPT + FRESH;
  }
}
