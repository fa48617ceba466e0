import type { Browser, Page } from "@playwright/test";
import { labFile } from "../../testing/lab";
import type { TestInstallation } from "../../testing/installation";
import { openTab } from "./tab";
import { slownessNow } from "./machine";
import { median, MOST, type Measure } from "./limits";

const COLUMNS = 400;
const STEPS = 60;
const COLUMNS_OF_A_STEP = 6;
/** Frames that are scrolled, and pixels that each goes on. */
const FRAMES = 120;
const PIXELS = 40;
const LEAST_FRAMES = 50;
const CLICKS = 7;
const SCROLLS = 3;

/** A table of many numbers beside the columns that the lab's pipeline names. */
const wideTable = (): string =>
  `CREATE TABLE lab.wide AS SELECT r.*, ${Array.from(
    { length: COLUMNS },
    (_, index) => `sin(id * ${index + 1}) AS n${index + 1}`,
  ).join(", ")} FROM lab.rows r`;

/** Steps that each change some columns, so that every column is touched now and then. */
function manySteps(): string {
  const kinds = ["{do: fill, with: median", "{do: clip, low: -0.9", "{do: scale, method: robust"];
  return Array.from({ length: STEPS }, (_, step) => {
    const columns = Array.from(
      { length: COLUMNS_OF_A_STEP },
      (_, place) => `n${1 + ((step * COLUMNS_OF_A_STEP + place * 7) % COLUMNS)}`,
    );
    return `- ${kinds[step % kinds.length]}, name: change ${step + 1}, columns: [${columns.join(", ")}]}`;
  }).join("\n");
}

/** Scrolls the Braid frame by frame; the time of every frame in milliseconds. */
const timesOfFrames = (page: Page, direction: "scrollTop" | "scrollLeft"): Promise<readonly number[]> =>
  page.evaluate(
    async ([along, frames, pixels]) => {
      const scroller = document.querySelector("[data-testid=braid]")!;
      const frame = (): Promise<number> => new Promise((resolve) => requestAnimationFrame(resolve));
      const times: number[] = [];
      let last = await frame();
      for (let count = 0; count < frames; count += 1) {
        scroller[along] += pixels;
        const now = await frame();
        times.push(now - last);
        last = now;
      }
      return times;
    },
    [direction, FRAMES, PIXELS] as const,
  );

/** Milliseconds from a press on a step's name until it is shown as chosen. */
async function timeOfPress(page: Page, place: number): Promise<number> {
  const name = page.getByTestId("braid").locator("button[aria-pressed]").nth(place);
  const painted = name.evaluate(
    (button) =>
      new Promise<number>((resolve) => {
        const listen = (event: Event): void => {
          const look = (): void => {
            if (button.getAttribute("aria-pressed") !== "true") return void requestAnimationFrame(look);
            const { port1, port2 } = new MessageChannel();
            port1.onmessage = () => resolve(performance.now() - event.timeStamp);
            requestAnimationFrame(() => port2.postMessage(0));
          };
          look();
        };
        button.addEventListener("click", listen, { capture: true, once: true });
      }),
  );
  await name.click();
  return painted;
}

/** Frames of a second while the Braid scrolls, the median of some times. */
async function measureScrolling(
  page: Page,
  direction: "scrollTop" | "scrollLeft",
  words: string,
): Promise<Measure> {
  const rates: number[] = [];
  const slow: number[] = [];
  for (let count = 0; count < SCROLLS; count += 1) {
    await page.getByTestId("braid").evaluate((scroller) => scroller.scrollTo(0, 0));
    slow.push(await slownessNow(page));
    const times = await timesOfFrames(page, direction);
    rates.push((1000 * times.length) / times.reduce((sum, time) => sum + time, 0));
  }
  return {
    what: `Braid, ${COLUMNS} columns and ${STEPS} steps, scrolling ${words}`,
    value: median(rates),
    unit: "frames/s",
    limit: LEAST_FRAMES,
    slowness: median(slow),
  };
}

/** How the Braid of a large pipeline moves under the hand: frames while it scrolls either way, and a press on a step. */
export async function measureBraid(place: TestInstallation, browser: Browser): Promise<readonly Measure[]> {
  await place.sql(wideTable());
  await place.save(labFile({ name: "wide", from: "lab.wide", steps: manySteps() }));
  const web = await place.startWeb();
  const page = await openTab(browser);
  try {
    await page.goto(place.address("/pipelines/wide/braid"), { waitUntil: "networkidle" });
    await page.getByTestId("braid").waitFor();
    // The warehouse, which here shares the processors with the browser, counts rows of 60 steps first.
    await page.waitForTimeout(1000);
    await page.getByText(/^counting rows/).waitFor({ state: "hidden", timeout: 60_000 });
    const unfold = page.getByRole("button", { name: /untouched$/ });
    if (await unfold.count()) await unfold.first().click();
    const results: Measure[] = [];
    for (const [direction, words] of [
      ["scrollTop", "down"],
      ["scrollLeft", "sideways"],
    ] as const)
      results.push(await measureScrolling(page, direction, words));
    await page.getByTestId("braid").evaluate((scroller) => scroller.scrollTo(0, 0));
    const presses: number[] = [];
    const slow: number[] = [];
    for (let count = 0; count < CLICKS; count += 1) {
      slow.push(await slownessNow(page));
      presses.push(await timeOfPress(page, count));
    }
    results.push({
      what: "Braid, a press on a step",
      value: median(presses),
      unit: "ms",
      limit: MOST.answer,
      slowness: median(slow),
    });
    return results;
  } finally {
    await page.close();
    await place.kill(web);
  }
}
