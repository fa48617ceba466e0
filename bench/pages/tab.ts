import type { Browser, Page } from "@playwright/test";

/** A tab of the usual size. Functions that are handed to it are compiled with calls of a helper, which it is given. */
export async function openTab(browser: Browser): Promise<Page> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript("globalThis.__name = (value) => value");
  return page;
}
