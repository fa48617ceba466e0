import { expect, test } from "@playwright/test";
import { choose } from "./choose";
import { somebody } from "./warehouse";
import { open } from "./watch";

const DELIVER = "/pipelines/uncollected-72h/deliver";

test("a version is put in service after a look at what that does, and gone back from", async ({ page }) => {
  await page.goto(DELIVER);
  const versions = page.getByTestId("versions");
  await versions
    .getByRole("row", { name: /^version 1 / })
    .getByRole("button", { name: "Put in service" })
    .click();
  // The demo's first try has an answer in its data; whoever puts it in service is told.
  await expect(page.getByTestId("consequences")).toContainText("What changes: “reminders_sent”");
  await expect(page.getByTestId("consequences")).toContainText(
    "The schedule “every night” scores with version 1 from",
  );
  await page.keyboard.press("Escape");
  await versions
    .getByRole("row", { name: /^version 4 / })
    .getByRole("button", { name: "Put in service" })
    .click();
  await page.getByLabel("Who").fill("Ada");
  await page.getByLabel(/^Reason \(stored/).fill("for talking it over");
  await page.getByRole("button", { name: "Put in service" }).click();
  await expect(versions.getByRole("row", { name: /^version 4 / })).toContainText("by Adafor talking it over");
  await page.getByRole("button", { name: /^Revert to version \d+/ }).click();
  await page.getByRole("button", { name: "Put in service" }).click();
  await expect(versions.getByRole("row", { name: /^version 4 / })).toContainText("candidate");
  await versions
    .getByRole("row", { name: /^version 4 / })
    .getByRole("button", { name: "Retire" })
    .click();
  await page.getByRole("alertdialog").getByRole("button", { name: "Retire" }).click();
  await expect(versions.getByRole("row", { name: /^version 4 / })).toContainText("retired");
  await expect(
    versions.getByRole("row", { name: /^version 4 / }).getByRole("button", { name: "Put in service" }),
  ).toHaveCount(0);
});

test("a source breaks: one alert says what to do, somebody takes it over, and it clears when the source is mended", async ({
  page,
}) => {
  await page.goto(DELIVER);
  await page.getByRole("button", { name: "Score now" }).first().click();
  await expect(page.getByText(/Done: [\d,]+ rows into/)).toBeVisible();
  await page.goto(DELIVER);
  const drift = page.getByTestId("drift");
  await expect(drift.getByRole("row", { name: /^prediction / })).toContainText(
    /\d\.\d+(no drift|some drift|large drift)/,
  );
  await drift.getByRole("button", { name: "weight_g" }).click();
  await expect(page.getByTestId("drift-parts")).toContainText("newest run");
  await somebody("ALTER TABLE larkmere.weather RENAME COLUMN temperature_c TO temperature");
  for (let times = 0; times < 2; times += 1) {
    await page.goto(DELIVER);
    await page.getByRole("button", { name: "Score now" }).first().click();
    await expect(page.getByTestId("run-state")).toHaveText("failed");
  }
  await page.goto("/");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/^\d+ alerts? needs? attention\.$/);
  const alerts = page
    .getByTestId("alert")
    .filter({ hasText: "The data that scoring uncollected-72h reads have changed" });
  await expect(alerts).toContainText("2 times");
  await expect(alerts).toContainText("Existing predictions were kept");
  await alerts.getByRole("button", { name: "Take over" }).click();
  await page.getByLabel("Your name").fill("Bo");
  await page.keyboard.press("Enter");
  await expect(alerts).toContainText("Bo is handling it");
  await somebody("ALTER TABLE larkmere.weather RENAME COLUMN temperature TO temperature_c");
  await alerts.getByRole("button", { name: "Run again" }).click();
  await expect(page.getByText(/Done: [\d,]+ rows into/)).toBeVisible();
  await page.goto("/");
  await expect(alerts).toHaveCount(0);
  await page.getByText(/\d+ cleared in the last day/).click();
  await expect(page.getByTestId("alerts")).toContainText(
    "cleared The data that scoring uncollected-72h reads have changed",
  );
});

test("a delivery with a route and a schedule are made and taken out again in forms, by the keyboard", async ({
  page,
}) => {
  const press = async (...keys: readonly string[]): Promise<void> => {
    for (const key of keys) await page.keyboard.press(key);
  };
  await open(page, DELIVER);
  await page.getByRole("button", { name: "Add delivery" }).focus();
  await press("Enter");
  await page.keyboard.type("likely ones");
  await press("Tab", "Tab");
  await page.keyboard.type("predictions.by_form");
  await press("Tab", "Enter");
  await page.getByLabel("Condition of route 1").focus();
  await page.keyboard.type("probabilty >= 0.4");
  await press("Tab", "End");
  await page.keyboard.type("by_form_likely");
  await choose(page.getByLabel("Add column"), "site_id");
  await page.getByRole("button", { name: "Save" }).click();
  // What is wrong is said in the form, and nothing is lost.
  await expect(page.getByRole("alert").filter({ hasText: 'Did you mean "probability"' })).toBeVisible();
  await page.getByLabel("Condition of route 1").fill("probability >= 0.4");
  await page.keyboard.press("Enter");
  const delivery = page.getByRole("row", { name: /^likely ones / });
  await expect(delivery).toContainText("where probability >= 0.4");
  await delivery.getByRole("button", { name: "Score now" }).click();
  await expect(page.getByText(/Done: [\d,]+ rows into 2 tables/)).toBeVisible();
  const [found] = await somebody(
    "SELECT (SELECT count(*) FROM predictions.by_form_likely WHERE probability < 0.4) + (SELECT count(*) FROM predictions.by_form WHERE probability >= 0.4) AS wrong, (SELECT count(site_id) FROM predictions.by_form_likely) AS likely",
  );
  expect(found).toMatchObject({ wrong: "0", likely: expect.stringMatching(/^[1-9]/) as unknown });

  await open(page, DELIVER);
  await page.getByRole("button", { name: "Add schedule" }).focus();
  await press("Enter");
  await page.keyboard.type("weekday noon");
  await page.getByLabel("times", { exact: true }).fill("0 12 * * 1-5 7");
  await expect(page.getByTestId("cron-words")).toContainText("Not a valid cron expression yet");
  await page.getByLabel("times", { exact: true }).fill("0 12 * * 1-5");
  await expect(page.getByTestId("cron-words")).toContainText(
    "At 12:00, Monday through Friday. Next, in UTC: 2026-07-01 12:00 UTC",
  );
  await choose(page.getByRole("dialog").getByLabel("Delivery", { exact: true }), "likely ones");
  await page.getByRole("button", { name: "Save" }).click();
  const schedule = page.getByRole("row", { name: /^weekday noon / });
  await expect(schedule).toContainText("score for likely ones");
  const agree = page.getByRole("alertdialog").getByRole("button", { name: "Remove" });
  // A delivery that a schedule serves stays.
  await delivery.getByRole("button", { name: "Remove" }).click();
  await agree.click();
  await expect(page.getByText('There is no delivery "likely ones"')).toBeVisible();
  await schedule.getByRole("button", { name: "Remove" }).click();
  await agree.click();
  await expect(schedule).toHaveCount(0);
  await delivery.getByRole("button", { name: "Remove" }).click();
  await agree.click();
  await expect(delivery).toHaveCount(0);
});

test("the version in service can be asked in SQL as soon as somebody wishes so, and no longer than that", async ({
  page,
}) => {
  await open(page, DELIVER);
  const form = page.getByRole("form", { name: "Retraining" });
  const functions = async () =>
    (
      await somebody(
        "SELECT proname FROM pg_proc WHERE starts_with(proname, 'predict_uncollected_72h') ORDER BY 1",
      )
    ).map((row) => row["proname"]);
  await form.getByRole("checkbox").check();
  await form.getByLabel("Roles that may call them").fill("nobody_here");
  await form.getByRole("button", { name: "Save" }).click();
  await expect(form).toContainText('role "nobody_here" does not exist');
  await form.getByLabel("Roles that may call them").fill("");
  await form.getByRole("button", { name: "Save" }).click();
  await expect.poll(functions).toContain("predict_uncollected_72h_rows");
  await open(page, DELIVER);
  const example = page.locator("[data-function=predict_uncollected_72h] pre");
  expect(await somebody((await example.textContent())!)).toMatchObject([{ probability: expect.any(Number) }]);
  await form.getByRole("checkbox").uncheck();
  await form.getByRole("button", { name: "Save" }).click();
  await expect.poll(functions).toEqual([]);
});

test("a page asks for itself alone; the next one is asked for when somebody points at its link", async ({
  page,
}) => {
  const asked: string[] = [];
  page.on("request", (request) => {
    if (request.url().includes("_rsc")) asked.push(new URL(request.url()).pathname);
  });
  await open(page, "/runs");
  await page.waitForTimeout(2000);
  expect(asked.filter((path) => path !== "/runs")).toEqual([]);
  await page.getByRole("table").getByRole("link").first().hover();
  await expect.poll(() => asked.some((path) => path.startsWith("/runs/"))).toBe(true);
});

test("a pipeline is copied, renamed and deleted after a look at what ends with it, by the keyboard", async ({
  page,
}) => {
  await open(page, "/pipelines/uncollected-72h/history");
  const actions = page.getByRole("group", { name: /^The pipeline/ });
  await actions.getByRole("button", { name: "Copy" }).focus();
  await page.keyboard.press("Enter");
  await page.keyboard.type("uncollected-72h-2");
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(/\/uncollected-72h-2\/history/);
  await expect(page.getByText(/copied from uncollected-72h, version/)).toBeVisible();
  await actions.getByRole("button", { name: "Rename" }).focus();
  await page.keyboard.press("Enter");
  await page.keyboard.type("second look");
  await expect(page.getByRole("button", { name: "Rename" })).toBeDisabled();
  await page.keyboard.press("Control+a");
  await page.keyboard.type("second-look");
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(/\/second-look\/history/);
  await page.goto("/pipelines/uncollected-72h-2/train");
  await expect(page).toHaveURL(/\/second-look\/braid/);
  await open(page, "/pipelines/second-look/history");
  const download = page.waitForEvent("download");
  await actions.getByRole("link", { name: "Download the file" }).click();
  expect((await download).suggestedFilename()).toBe("second-look.yaml");
  await actions.getByRole("button", { name: "Delete" }).focus();
  await page.keyboard.press("Enter");
  await expect(page.getByTestId("ends")).toContainText("The name can be reused.");
  await page.getByRole("button", { name: "Delete" }).press("Enter");
  await expect(page).toHaveURL(/\/pipelines$/);
  await expect(page.getByRole("cell", { name: "second-look" })).toHaveCount(0);
  await expect(page.getByRole("link", { name: "uncollected-72h", exact: true })).toBeVisible();
});
