import { expect, type Page } from "@playwright/test";

/** Collects what breaks silently on a page: exceptions, and errors in the console. A test ends by expecting none. */
export function watch(page: Page): readonly string[] {
  const broken: string[] = [];
  page.on("pageerror", (error) => broken.push(error.message));
  page.on("console", (message) => {
    if (message.type() === "error") broken.push(`${message.text()} ${message.location().url}`.trim());
  });
  return broken;
}

/** Opens a page and waits until it listens: it is seen earlier than that. */
export async function open(page: Page, url: string): Promise<void> {
  await page.goto(url);
  await expect(page.locator("html[data-listens]")).toBeAttached();
}
