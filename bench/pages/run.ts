import { chromium, type Browser, type BrowserContext } from "@playwright/test";
import { CHROMIUM } from "../../testing/chromium";
import { TestInstallation } from "../../testing/installation";
import { fill, type Amounts } from "./fill";

/** How long a page takes to open, in milliseconds: from the click until all of it is loaded. */
export interface PageTime {
  readonly address: string;
  /** The first time after the web server started, in a browser that knows nothing of Ravlen. */
  readonly cold: number;
  /** The median of further times, in the browser that has opened it before. */
  readonly warm: number;
  readonly mostCold: number;
  readonly mostWarm: number;
}

const MOST_COLD = 2000;
const MOST_WARM = 1000;
const MOST_ANSWER = 100;
const WARM_TIMES = 5;
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

const median = (values: readonly number[]): number =>
  values.toSorted((left, right) => left - right)[Math.floor(values.length / 2)]!;

async function timed(work: () => Promise<unknown>): Promise<number> {
  const begun = performance.now();
  await work();
  return performance.now() - begun;
}

/** Opens an address in a tab of its own. Throws when it is not answered well. */
async function open(browser: BrowserContext, address: string): Promise<number> {
  const page = await browser.newPage();
  try {
    return await timed(async () => {
      const response = await page.goto(address, { waitUntil: "load" });
      if (!response?.ok()) throw new Error(`${address} was answered with ${response?.status()}`);
    });
  } finally {
    await page.close();
  }
}

async function timeOfPage(place: TestInstallation, browser: Browser, address: string): Promise<PageTime> {
  const web = await place.startWeb();
  const person = await browser.newContext();
  try {
    const url = place.address(address);
    const cold = await open(person, url);
    // A browser keeps compiled scripts from the second time on.
    await open(person, url);
    const warm: number[] = [];
    for (let time = 0; time < WARM_TIMES; time += 1) warm.push(await open(person, url));
    return { address, cold, warm: median(warm), mostCold: MOST_COLD, mostWarm: MOST_WARM };
  } finally {
    await person.close();
    await place.kill(web);
  }
}

/**
 * The slowest answer of the command box to a text that is typed letter by letter, and what the box shows
 * first when it opens.
 */
async function timesOfFinding(place: TestInstallation): Promise<readonly PageTime[]> {
  const web = await place.startWeb();
  const ask = (text: string): Promise<number> =>
    timed(() => place.page(`/api/find?text=${encodeURIComponent(text)}`));
  try {
    await place.page("/");
    const opened = await ask("");
    const results: PageTime[] = [];
    for (const text of TYPED) {
      const letters = Array.from({ length: text.length }, (_, place) => text.slice(0, place + 1));
      const answers: number[] = [];
      for (const typed of letters) answers.push(await ask(typed));
      results.push({
        address: `command box: ${text}`,
        cold: results.length === 0 ? opened : answers[0]!,
        warm: Math.max(...answers),
        mostCold: MOST_COLD,
        mostWarm: MOST_ANSWER,
      });
    }
    return results;
  } finally {
    await place.kill(web);
  }
}

/**
 * Opens every main page of an installation that holds a lot, cold and warm, and asks the command box. The
 * pages have to be built.
 */
export async function benchPages(
  amounts: Amounts,
  only: string | undefined,
  say: (line: string) => void,
): Promise<readonly PageTime[]> {
  const place = await TestInstallation.open();
  const browser = await chromium.launch(CHROMIUM);
  try {
    say(`${amounts.tables} tables, ${amounts.pipelines} pipelines, ${amounts.runs} runs`);
    const { run, model } = await fill(place, amounts);
    const addresses = [
      "/",
      "/tables",
      "/tables?q=weight_88",
      "/tables/area_7/readings_6",
      "/tables/import",
      "/pipelines",
      "/pipelines?q=gauge&page=3",
      "/pipelines/new",
      ...["brief", "braid", "train", "compare", "deliver", "history"].map(
        (stage) => `/pipelines/lab/${stage}`,
      ),
      "/models",
      "/models?page=5",
      `/models/${model}`,
      "/runs",
      "/runs?page=200",
      `/runs/${run}`,
      "/health",
    ];
    const results: PageTime[] = [];
    const wanted = addresses.filter((address) => only === undefined || address === only);
    for (const address of wanted) {
      say(address);
      results.push(await timeOfPage(place, browser, address));
    }
    return only === undefined ? [...results, ...(await timesOfFinding(place))] : results;
  } finally {
    await browser.close();
    await place.close();
  }
}
