import type { Browser, Page } from "@playwright/test";
import type { TestInstallation } from "../../testing/installation";
import { openTab } from "./tab";
import { slownessNow } from "./machine";
import { median, MOST, type Measure } from "./limits";

/** A link of a page, and the page that it opens. */
export interface Click {
  readonly from: string;
  /** The beginning of the link's address: of several such links the first one is clicked. */
  readonly to: string;
}

const TIMES = 5;
/** How long the pointer rests on a link before the click. Milliseconds. */
const REST = 200;
const QUIET = 700;

/** Milliseconds from the click on a link until its page is painted. */
async function timeOfClick(page: Page, to: string): Promise<number> {
  const link = page.locator(`main a[href^="${to}"]:visible, header a[href="${to}"]:visible`).first();
  const href = await link.getAttribute("href");
  const painted = page.evaluate(
    (address) =>
      new Promise<number>((resolve) => {
        const listen = (event: Event): void => {
          const look = (): void => {
            if (location.pathname !== address) return void requestAnimationFrame(look);
            const { port1, port2 } = new MessageChannel();
            port1.onmessage = () => resolve(performance.now() - event.timeStamp);
            requestAnimationFrame(() => port2.postMessage(0));
          };
          look();
        };
        addEventListener("click", listen, { capture: true, once: true });
      }),
    href,
  );
  await link.hover();
  await page.waitForTimeout(REST);
  await page.mouse.down();
  await page.mouse.up();
  return painted;
}

/** Goes to a page within the application, so that what the browser has loaded of it stays loaded. */
async function goTo(page: Page, address: string): Promise<void> {
  await page.evaluate((target) => {
    const { next } = window as unknown as { next: { router: { push: (address: string) => void } } };
    next.router.push(target);
  }, address);
  await page.waitForURL((url) => url.pathname === address, { waitUntil: "commit" });
  await page.mouse.move(640, 790);
}

/** How long pages take to open by their links, in a browser that has opened them before: the median of some times. */
export async function timesOfClicks(
  place: TestInstallation,
  browser: Browser,
  clicks: readonly Click[],
): Promise<readonly Measure[]> {
  const web = await place.startWeb();
  const page = await openTab(browser);
  try {
    await page.goto(place.address("/health"), { waitUntil: "networkidle" });
    const results: Measure[] = [];
    for (const { from, to } of clicks) {
      const times: number[] = [];
      const slow: number[] = [];
      for (let time = 0; time <= TIMES; time += 1) {
        await goTo(page, from);
        await page.waitForTimeout(QUIET);
        slow.push(await slownessNow(page));
        times.push(await timeOfClick(page, to));
      }
      const [, ...warm] = times;
      results.push({
        what: `click: ${to}`,
        value: median(warm),
        unit: "ms",
        limit: MOST.click,
        slowness: median(slow),
      });
    }
    return results;
  } finally {
    await page.close();
    await place.kill(web);
  }
}
