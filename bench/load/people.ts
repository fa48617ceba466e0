import { chromium, type Browser, type Page } from "@playwright/test";
import { CHROMIUM } from "../../testing/chromium";

const PATIENCE_MILLISECONDS = 120_000;
/** Between two things that a person does. */
const THINKING_MILLISECONDS = 1500;

/** What people met who worked at the same time. */
export interface Met {
  readonly people: number;
  /** Rounds through the main job that were done. */
  readonly rounds: number;
  readonly answers: number;
  /** What was not answered well, in words. */
  readonly failures: readonly string[];
}

interface Tally {
  rounds: number;
  answers: number;
  readonly failures: string[];
}

/** What a person does in the main job, one page after the other. */
const ROUND: readonly (readonly [what: string, work: (page: Page, pipeline: string) => Promise<unknown>])[] =
  [
    ["look at Today", (page) => page.goto("/")],
    [
      "look at a table",
      async (page) => {
        await page.goto("/tables");
        await page.getByRole("link", { name: "parcels", exact: true }).click();
        await page.getByRole("grid").getByRole("gridcell").first().waitFor();
      },
    ],
    [
      "look at the Braid",
      async (page, pipeline) => {
        await page.goto(`/pipelines/${pipeline}/braid`);
        await page.getByTestId("braid").waitFor();
        await page.getByRole("button", { name: /^join sites/ }).click();
        await page.getByTestId("tray").getByRole("columnheader").first().waitFor();
      },
    ],
    [
      "judge a version",
      async (page, pipeline) => {
        await page.goto(`/pipelines/${pipeline}/compare`);
        await page.goto("/models");
        await page.getByRole("heading", { level: 1 }).waitFor();
      },
    ],
    [
      "look at what ran",
      async (page) => {
        await page.goto("/runs");
        await page.getByRole("heading", { level: 1 }).waitFor();
      },
    ],
  ];

async function work(
  browser: Browser,
  base: string,
  pipeline: string,
  end: number,
  tally: Tally,
): Promise<void> {
  const context = await browser.newContext({ baseURL: base, viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  page.setDefaultTimeout(PATIENCE_MILLISECONDS);
  page.on("response", (response) => {
    tally.answers += 1;
    if (response.status() >= 500) tally.failures.push(`${response.status()} ${response.url()}`);
  });
  page.on("pageerror", (error) => tally.failures.push(error.message));
  while (Date.now() < end) {
    for (const [what, step] of ROUND) {
      if (Date.now() >= end) break;
      await step(page, pipeline).catch((error: unknown) =>
        tally.failures.push(`${what}: ${String(error).slice(0, 200)}`),
      );
      await page.waitForTimeout(THINKING_MILLISECONDS * (0.5 + Math.random()));
    }
    tally.rounds += 1;
  }
  await context.close();
}

/** Lets some people do the main job at the same time, each in a browser of their own, for some minutes. */
export async function letPeopleWork(
  base: string,
  pipeline: string,
  people: number,
  minutes: number,
): Promise<Met> {
  const browser = await chromium.launch(CHROMIUM);
  const tally: Tally = { rounds: 0, answers: 0, failures: [] };
  const end = Date.now() + 60_000 * minutes;
  try {
    await Promise.all(Array.from({ length: people }, () => work(browser, base, pipeline, end, tally)));
    return { people, ...tally };
  } finally {
    await browser.close();
  }
}
