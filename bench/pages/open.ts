import type { Browser, BrowserContext } from "@playwright/test";
import type { TestInstallation } from "../../testing/installation";
import { slownessNow } from "./machine";
import { median, MOST, type Measure } from "./limits";

const TIMES = 5;
/** What people type into the command box, letter by letter. */
const TYPED = [
  "gauge-117",
  "readings_1204",
  "weight_88",
  "new pipeline",
  "import",
  "gauge-042 deliver",
  "runs",
];

async function timed(work: () => Promise<unknown>): Promise<number> {
  const begun = performance.now();
  await work();
  return performance.now() - begun;
}

interface Opening {
  /** Milliseconds. */
  readonly time: number;
  readonly slowness: number;
}

/** Opens an address in a tab of its own. Throws when it is not answered well. */
async function open(browser: BrowserContext, address: string): Promise<Opening> {
  const page = await browser.newPage();
  try {
    const time = await timed(async () => {
      const response = await page.goto(address, { waitUntil: "load" });
      if (!response?.ok()) throw new Error(`${address} was answered with ${response?.status()}`);
    });
    await page.goto("about:blank");
    return { time, slowness: await slownessNow(page) };
  } finally {
    await page.close();
  }
}

/** How long an address takes that is typed into a tab: first, and the median of further times. */
export async function timeOfAddress(
  place: TestInstallation,
  browser: Browser,
  address: string,
): Promise<readonly Measure[]> {
  const web = await place.startWeb();
  const person = await browser.newContext();
  try {
    const url = place.address(address);
    const cold = await open(person, url);
    // A browser keeps compiled scripts from the second time on.
    await open(person, url);
    const again: Opening[] = [];
    for (let count = 0; count < TIMES; count += 1) again.push(await open(person, url));
    return [
      { what: `${address}, first`, value: cold.time, slowness: cold.slowness, unit: "ms", limit: MOST.cold },
      {
        what: `${address}, typed again`,
        value: median(again.map(({ time }) => time)),
        slowness: median(again.map(({ slowness }) => slowness)),
        unit: "ms",
        limit: MOST.again,
      },
    ];
  } finally {
    await person.close();
    await place.kill(web);
  }
}

/** The slowest answer of the command box to a text that is typed letter by letter, and what it shows when it opens. */
export async function timesOfFinding(place: TestInstallation): Promise<readonly Measure[]> {
  const web = await place.startWeb();
  const ask = (text: string): Promise<number> =>
    timed(() => place.page(`/api/find?text=${encodeURIComponent(text)}`));
  try {
    await place.page("/");
    const results: Measure[] = [
      { what: "command box, first", value: await ask(""), unit: "ms", limit: MOST.cold },
    ];
    for (const text of TYPED) {
      const letters = Array.from({ length: text.length }, (_, place) => text.slice(0, place + 1));
      const answers: number[] = [];
      for (const typed of letters) answers.push(await ask(typed));
      results.push({
        what: `command box: ${text}`,
        value: Math.max(...answers),
        unit: "ms",
        limit: MOST.answer,
      });
    }
    return results;
  } finally {
    await place.kill(web);
  }
}
