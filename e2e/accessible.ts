import { AxeBuilder } from "@axe-core/playwright";
import { expect, type Page } from "@playwright/test";

/** WCAG 2.1 AA, and what is held to be good practice. */
const RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "best-practice"];

/** Asserts that a page, as it stands, has no violation; each is named by its rule and what breaks it. */
export async function expectAccessible(page: Page, what: string): Promise<void> {
  const { violations } = await new AxeBuilder({ page }).withTags(RULES).analyze();
  const found = violations.flatMap(({ id, nodes }) =>
    nodes.map(({ target, html }) => `${what}: ${id}: ${target.join(" ")} ${html.slice(0, 160)}`),
  );
  expect.soft(found).toEqual([]);
}

/** How far things jumped while a page was shown, without those that followed an input; 0 is best. */
export const layoutShift = (page: Page): Promise<number> =>
  page.evaluate(
    () =>
      new Promise<number>((resolve) => {
        let sum = 0;
        new PerformanceObserver((list) => {
          for (const entry of list.getEntries() as (PerformanceEntry & {
            readonly value: number;
            readonly hadRecentInput: boolean;
          })[])
            if (!entry.hadRecentInput) sum += entry.value;
        }).observe({ type: "layout-shift", buffered: true });
        setTimeout(() => resolve(sum), 200);
      }),
  );

/** Whether a page is wider than its window. */
export const overflow = (page: Page): Promise<number> =>
  page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
