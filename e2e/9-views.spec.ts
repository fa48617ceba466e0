import { expect, test, type Page } from "@playwright/test";
import { expectAccessible, layoutShift, overflow } from "./accessible";
import { open } from "./watch";

const PIPELINE = "/pipelines/uncollected-72h";

/** Every main view, and how to get it into the state in which it shows most. */
const VIEWS = [
  "/",
  "/tables",
  "/tables/larkmere/parcels",
  "/tables/larkmere/parcels?show=pair",
  "/tables/larkmere/parcels?show=target",
  "/tables/import",
  "/pipelines",
  "/pipelines/new",
  `${PIPELINE}/brief`,
  `${PIPELINE}/braid`,
  `${PIPELINE}/train`,
  `${PIPELINE}/compare`,
  `${PIPELINE}/deliver`,
  `${PIPELINE}/history`,
  "/models",
  "/models/2",
  "/models/2?view=segments",
  "/models/2?view=rows",
  "/models/2?view=understand",
  "/models/2?view=try",
  "/models/2?view=record",
  "/runs",
  "/health",
  "/warehouse",
  "/nowhere",
] as const;

/** Waits until nothing on the page says that it is still reading. */
async function settled(page: Page): Promise<void> {
  await page.waitForLoadState("networkidle");
  await expect(
    page.getByText(/^(reading|loading|counting|analysing|computing|scoring|checking) .*…$/),
  ).toHaveCount(0);
}

const setTheme = (page: Page, theme: "light" | "dark"): Promise<void> =>
  page.evaluate((name) => void (document.documentElement.dataset["theme"] = name), theme);

test("every view is accessible, light and dark, does not jump, and is no wider than its window", async ({
  page,
}) => {
  test.setTimeout(900_000);
  for (const view of VIEWS) {
    await page.setViewportSize({ width: 1280, height: 800 });
    await page.goto(view);
    await settled(page);
    expect.soft(await layoutShift(page), `shift of ${view}`).toBeLessThan(0.02);
    await expectAccessible(page, `${view} light`);
    await setTheme(page, "dark");
    await expectAccessible(page, `${view} dark`);
    await setTheme(page, "light");
    // 1280 pixels at a zoom of 150 % are 853.
    for (const width of [1920, 1024, 853]) {
      await page.setViewportSize({ width, height: 800 });
      await expect
        .soft(async () => expect(await overflow(page)).toBe(0), `${view} at ${width}`)
        .toPass({ timeout: 3000 });
    }
  }
});

test("parts below the window come after the click, move nothing, and going back finds its place again", async ({
  page,
}) => {
  await open(page, `${PIPELINE}/history`);
  const shiftBefore = await layoutShift(page);
  await page.getByRole("link", { name: "Deliver" }).click();
  const runs = page.getByRole("region", { name: "Scoring runs" });
  await runs.getByRole("link").first().scrollIntoViewIfNeeded();
  expect((await layoutShift(page)) - shiftBefore).toBeLessThan(0.001);
  const place = await page.evaluate(() => scrollY);
  expect(place).toBeGreaterThan(800);
  await runs.getByRole("link").first().click();
  await page.waitForURL(/\/runs\//);
  await page.goBack();
  await expect(runs).toBeVisible();
  await expect(async () => expect(await page.evaluate(() => scrollY)).toBe(place)).toPass({ timeout: 5000 });
});

test("a page that is read again while steps are selected is not loaded anew, and keeps the last selection", async ({
  page,
}) => {
  let reads = 0;
  page.on("request", (request) => (reads += request.url().includes("_rsc") ? 1 : 0));
  // A run that changes all the time, and answers that are still under way when the next step is selected.
  const changes = "retry: 50\nevent: run\ndata: a-run\n\n";
  await page.route("**/api/runs/events", (route) =>
    route.fulfill({ contentType: "text/event-stream", body: changes }),
  );
  await page.route(/_rsc/, async (route) => {
    await new Promise((answer) => setTimeout(answer, 300));
    await route.continue();
  });
  await open(page, `${PIPELINE}/braid?step=parcels:1`);
  await expect(page.getByText("exact row counts")).toBeVisible();
  await page.evaluate(() => Object.assign(window, { isTheFirst: true }));
  await page.getByTestId("braid").focus();
  for (const key of ["ArrowRight", "ArrowLeft", "ArrowRight"])
    for (let press = 0; press < 4; press += 1) {
      await page.keyboard.press(key);
      await page.waitForTimeout(200 + 60 * press);
    }
  await expect.poll(() => reads).toBeGreaterThan(10);
  await expect(page).toHaveURL(/step=parcels:5/);
  expect(await page.evaluate(() => "isTheFirst" in window)).toBe(true);
  // Going back to the page finds the selection again.
  await page.getByRole("link", { name: "Deliver" }).click();
  await page.waitForURL(/deliver/);
  await page.goBack();
  await expect(page).toHaveURL(/step=parcels:5/);
  await page.unrouteAll({ behavior: "ignoreErrors" });
});

for (const theme of ["light", "dark"])
  test(`open dialogs, menus and errors are accessible, ${theme}`, async ({ page, baseURL }) => {
    await page.context().addCookies([{ name: "ravlen-theme", value: theme, url: baseURL! }]);
    await test.step("the command box", async () => {
      await open(page, "/");
      await page.keyboard.press("Control+k");
      await page.keyboard.type("parcels");
      await expect(page.getByRole("option").first()).toBeVisible();
      await expectAccessible(page, `command box ${theme}`);
    });
    await test.step("the palette of steps, and a step with an error", async () => {
      await open(page, `${PIPELINE}/braid`);
      await page.getByRole("button", { name: "Add a step", exact: true }).click();
      await expectAccessible(page, `palette ${theme}`);
      await page.keyboard.type("filter rows");
      await page.keyboard.press("Enter");
      await expect(page.getByTestId("step-form")).toBeVisible();
      await expectAccessible(page, `step with an error ${theme}`);
      await page.getByRole("button", { name: /^Revert to version/ }).click();
      await expect(page.getByRole("button", { name: /^Revert to version/ })).toHaveCount(0);
    });
    await test.step("a candidate", async () => {
      await open(page, `${PIPELINE}/train`);
      await page.getByRole("button", { name: "Add candidate" }).click();
      await expect(page.getByRole("dialog")).toBeVisible();
      await expectAccessible(page, `candidate ${theme}`);
      await page.getByRole("combobox", { name: "where" }).click();
      await expect(page.getByRole("option").first()).toBeVisible();
      await expectAccessible(page, `list in a dialog ${theme}`);
      await page.keyboard.press("Escape");
      await expect(page.getByRole("listbox")).toHaveCount(0);
      await page.keyboard.press("Escape");
      await page
        .getByRole("row", { name: /^base rate/ })
        .getByRole("button", { name: "Remove" })
        .click();
      await expect(page.getByRole("alertdialog")).toBeVisible();
      await expectAccessible(page, `question ${theme}`);
      await page.keyboard.press("Escape");
    });
    await test.step("a long list with its search, and a name of an icon", async () => {
      await open(page, "/pipelines/new");
      const table = page.getByRole("combobox", { name: "Table", exact: true });
      await table.focus();
      await page.keyboard.press("ArrowDown");
      await expect(page.getByRole("option").first()).toBeVisible();
      await expectAccessible(page, `list ${theme}`);
      await page.keyboard.press("Escape");
      await expect(table).toBeFocused();
      await open(page, "/models");
      await page.getByRole("button", { name: "Put in service" }).first().hover();
      await expect(page.getByRole("tooltip")).toBeVisible();
      await expectAccessible(page, `name of an icon ${theme}`);
    });
    await test.step("a delivery and a schedule", async () => {
      await open(page, `${PIPELINE}/deliver`);
      for (const name of ["Add delivery", "Add schedule"]) {
        await page.getByRole("button", { name }).click();
        await expect(page.getByRole("dialog")).toBeVisible();
        await expectAccessible(page, `${name} ${theme}`);
        await page.keyboard.press("Escape");
        await expect(page.getByRole("dialog")).toHaveCount(0);
      }
    });
    await test.step("a version put in service, and the menu of a chart", async () => {
      await open(page, "/models/1");
      await page.getByRole("button", { name: "Put in service" }).first().click();
      await expect(page.getByRole("dialog").or(page.getByRole("alertdialog"))).toBeVisible();
      await expectAccessible(page, `put in service ${theme}`);
      await page.keyboard.press("Escape");
      await page.getByRole("button", { name: "ROC curve: table and download" }).click();
      await expect(page.getByRole("menu")).toBeVisible();
      await expectAccessible(page, `menu of a chart ${theme}`);
      await page.getByRole("menuitem", { name: "Show as table" }).click();
      await expect(page.getByRole("region", { name: "Values of the chart" })).toBeVisible();
      await expectAccessible(page, `table of a chart ${theme}`);
    });
    await test.step("a pipeline deleted", async () => {
      await open(page, `${PIPELINE}/history`);
      await page.getByRole("button", { name: "Delete" }).click();
      await expect(page.getByRole("dialog").or(page.getByRole("alertdialog"))).toBeVisible();
      await expectAccessible(page, `delete ${theme}`);
      await page.keyboard.press("Escape");
    });
  });

test("a chart is read by keys and saved as a file", async ({ page }) => {
  await open(page, "/models/2");
  const reader = page.getByRole("slider", { name: "Read ROC curve" });
  await reader.focus();
  await page.keyboard.press("ArrowRight");
  await expect(reader).toHaveAttribute("aria-valuetext", /^false positive rate 0, .*evaluated rows 0/);
  await page.keyboard.press("End");
  await expect(reader).toHaveAttribute("aria-valuetext", /^false positive rate 1, .*evaluated rows 1/);
  for (const [item, name] of [
    ["Download SVG", "roc-curve.svg"],
    ["Download PNG", "roc-curve.png"],
  ] as const) {
    await page.getByRole("button", { name: "ROC curve: table and download" }).click();
    const download = page.waitForEvent("download");
    await page.getByRole("menuitem", { name: item }).click();
    expect((await download).suggestedFilename()).toBe(name);
  }
});

test("what is dark on the screen is printed on white, whole charts and tables without what is pressed", async ({
  page,
}) => {
  await page.setViewportSize({ width: 800, height: 1100 });
  for (const view of ["/models/2", "/models/2?view=understand", `${PIPELINE}/deliver`]) {
    await page.goto(view);
    await settled(page);
    await setTheme(page, "dark");
    await page.emulateMedia({ media: "print" });
    expect(await page.evaluate(() => getComputedStyle(document.documentElement).backgroundColor)).toBe(
      "rgb(255, 255, 255)",
    );
    await expect(page.getByRole("banner")).toBeHidden();
    await expect(page.locator("main button.press:visible")).toHaveCount(0);
    await expect(page.locator("main figure, main table").first()).toBeVisible();
    const cut = await page
      .locator("main .overflow-x-auto")
      .evaluateAll((boxes) => boxes.filter((box) => getComputedStyle(box).overflowX !== "visible").length);
    expect(cut, `tables of ${view} that are cut`).toBe(0);
    await page.emulateMedia({ media: "screen" });
  }
});
