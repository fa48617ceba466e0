import { expect, test, type Page } from "@playwright/test";
import { open, watch } from "./watch";

/** Presses Tab until what has the focus has this name; a control that can not be reached fails the test. */
async function tabTo(page: Page, name: RegExp, most = 120): Promise<void> {
  const seen: string[] = [];
  for (let press = 0; press < most; press += 1) {
    await page.keyboard.press("Tab");
    const focused = await page.evaluate(() => {
      const element = document.activeElement;
      const label = element?.getAttribute("aria-labelledby");
      return (
        element?.getAttribute("aria-label") ??
        (label ? document.getElementById(label)?.textContent : element?.textContent) ??
        ""
      );
    });
    if (name.test(focused.trim())) return;
    seen.push(focused.trim().slice(0, 30));
  }
  throw new Error(`Tab never reached ${String(name)}; it passed ${seen.join(" | ")}`);
}

/** Presses a key again until it did what it should: on a slow machine a page may be seen before it listens. */
async function pressUntil(page: Page, key: string, done: () => Promise<void>): Promise<void> {
  await expect(async () => {
    await page.keyboard.press(key);
    await done();
  }).toPass();
}

/** Goes somewhere by the command box. */
async function goTo(page: Page, words: string, url: RegExp): Promise<void> {
  await page.keyboard.press("Control+k");
  await expect(page.getByPlaceholder("Search tables, pipelines, pages")).toBeFocused();
  await page.keyboard.type(words);
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(url);
}

const stage = async (page: Page, name: string): Promise<void> =>
  goTo(page, `uncollected-72h: ${name}`, new RegExp(`/pipelines/uncollected-72h/${name}`));

test("the whole job by keyboard alone", async ({ page }) => {
  const broken = watch(page);
  await open(page, "/");
  await expect(page.getByRole("heading", { level: 1 })).toBeVisible();

  await test.step("commands and columns", async () => {
    await goTo(page, "new pip", /\/pipelines\/new/);
    await goTo(page, "rain_mm", /\/tables\/larkmere\/weather/);
  });

  await test.step("tables", async () => {
    await goTo(page, "larkmere.sites", /\/tables\/larkmere\/sites/);
    await tabTo(page, /Rows of sites/);
    const first = page.getByRole("gridcell", { name: "101", exact: true });
    await pressUntil(page, "End", () => expect(first).not.toBeAttached({ timeout: 3000 }));
    await pressUntil(page, "Home", () => expect(first).toBeAttached({ timeout: 3000 }));
  });

  await test.step("the Braid and its tray", async () => {
    await stage(page, "braid");
    await tabTo(page, /^The Braid/);
    await page.keyboard.press("Home");
    await expect(page).toHaveURL(/step=town(\+|%20)weather:1/);
    for (let press = 0; press < 4; press += 1) await page.keyboard.press("ArrowRight");
    await expect(page).toHaveURL(/step=parcels:3/);
    await page.keyboard.press("ArrowDown");
    await page.keyboard.press("ArrowDown");
    await expect(page).toHaveURL(/thread=/);
    await page.keyboard.press("Enter");
    const tray = page.getByTestId("tray");
    await expect(tray).toBeFocused();
    await tabTo(page, /^Rows after/, 20);
    await pressUntil(page, "Home", () =>
      expect(tray.getByLabel("strand to join")).toHaveAttribute("data-value", "sites", { timeout: 3000 }),
    );
    await pressUntil(page, "End", () => expect(tray).toContainText(/SELECT/i, { timeout: 3000 }));
  });

  await test.step("training, live", async () => {
    await stage(page, "train");
    await tabTo(page, /^Train “plain logistic”/);
    await page.keyboard.press("Enter");
    await expect(page.getByRole("heading", { name: /^Training “plain logistic”/ })).toBeVisible();
    await expect(page.getByRole("heading", { name: /^The latest training run/ })).toBeVisible();
    await tabTo(page, /^version \d+, holdout AUC/);
    await page.keyboard.press("Enter");
    await expect(page).toHaveURL(/\/models\/\d+/);
  });

  await test.step("judging", async () => {
    await tabTo(page, /^Threshold/);
    const before = await page.getByTestId("threshold").textContent();
    await page.keyboard.press("ArrowRight");
    await expect(page.getByTestId("threshold")).not.toHaveText(before!);
    await page.keyboard.press("End");
    await expect(page.getByTestId("tp")).toHaveText("0");
    await tabTo(page, /^Explanation/);
    await page.keyboard.press("Enter");
    await expect(page.getByTestId("coefficients")).toBeVisible();
    await tabTo(page, /^Standard error/, 60);
    await page.keyboard.press("Enter");
    await expect(page.getByRole("columnheader", { name: "Standard error" })).not.toHaveAttribute(
      "aria-sort",
      "none",
    );
  });

  await test.step("in service, scored, delivered", async () => {
    await page.reload();
    await tabTo(page, /^Put in service/);
    await page.keyboard.press("Enter");
    await expect(page.getByTestId("consequences")).toContainText("is taken out of service");
    await page.keyboard.type("by keyboard");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("button", { name: "Take out of service" })).toBeVisible();
    await stage(page, "deliver");
    await tabTo(page, /^Score now/);
    await page.keyboard.press("Enter");
    await expect(page).toHaveURL(/\/runs\//);
    await expect(page.getByTestId("run-state")).toHaveText("done");
    await goTo(page, "predictions.uncollected_72h", /\/tables\/predictions\/uncollected_72h/);
    await expect(page.getByRole("columnheader", { name: "probability" })).toBeVisible();
  });

  expect(broken).toEqual([]);
});
