import { expect, test } from "@playwright/test";
import { somebody } from "./warehouse";

const DELIVER = "/pipelines/uncollected-72h/deliver";

test("a version is put in service after a look at what that does, and gone back from", async ({ page }) => {
  await page.goto(DELIVER);
  const versions = page.getByTestId("versions");
  await versions.getByRole("row", { name: /^version 1 / }).getByRole("button", { name: "Put in service" }).click();
  // The demo's first try has an answer in its data; whoever puts it in service is told.
  await expect(page.getByTestId("consequences")).toContainText("Look first: “reminders_sent”");
  await expect(page.getByTestId("consequences")).toContainText("The schedule “every night” scores with version 1 from");
  await page.keyboard.press("Escape");
  await versions.getByRole("row", { name: /^version 4 / }).getByRole("button", { name: "Put in service" }).click();
  await page.getByLabel("Who").fill("Ada");
  await page.getByLabel(/^Why/).fill("for talking it over");
  await page.getByRole("button", { name: "Put it in service" }).click();
  await expect(versions.getByRole("row", { name: /^version 4 / })).toContainText("by Adafor talking it over");
  await page.getByRole("button", { name: /^Go back to version \d+/ }).click();
  await page.getByRole("button", { name: "Put it in service" }).click();
  await expect(versions.getByRole("row", { name: /^version 4 / })).toContainText("candidate");
  page.once("dialog", (dialog) => void dialog.accept());
  await versions.getByRole("row", { name: /^version 4 / }).getByRole("button", { name: "Retire" }).click();
  await expect(versions.getByRole("row", { name: /^version 4 / })).toContainText("retired");
  await expect(versions.getByRole("row", { name: /^version 4 / }).getByRole("button", { name: "Put in service" })).toHaveCount(0);
});

test("a source breaks: one alert says what to do, somebody takes it on, and it clears when the source is mended", async ({ page }) => {
  await page.goto(DELIVER);
  await page.getByRole("button", { name: "Score now" }).first().click();
  await expect(page.getByText(/Done: [\d,]+ rows into/)).toBeVisible({ timeout: 60_000 });
  await page.goto(DELIVER);
  const drift = page.getByTestId("drift");
  await expect(drift.getByRole("row", { name: /^prediction / })).toContainText(/\d\.\d{3}(as in training|some change|much changed)/);
  await drift.getByRole("button", { name: "weight_g" }).click();
  await expect(page.getByTestId("drift-parts")).toContainText("in the newest run");
  await somebody("ALTER TABLE larkmere.weather RENAME COLUMN temperature_c TO temperature");
  for (let times = 0; times < 2; times += 1) {
    await page.goto(DELIVER);
    await page.getByRole("button", { name: "Score now" }).first().click();
    await expect(page.getByTestId("run-state")).toHaveText("failed", { timeout: 60_000 });
  }
  await page.goto("/");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/^\d+ matters? needs? somebody\.$/);
  const alerts = page.getByTestId("alert").filter({ hasText: "The data that scoring uncollected-72h reads have changed" });
  await expect(alerts).toContainText("2 times");
  await expect(alerts).toContainText("Yesterday's predictions were left in place");
  await alerts.getByRole("button", { name: "I take it on" }).click();
  await page.getByLabel("Your name").fill("Bo");
  await page.keyboard.press("Enter");
  await expect(alerts).toContainText("Bo is on it");
  await somebody("ALTER TABLE larkmere.weather RENAME COLUMN temperature TO temperature_c");
  await alerts.getByRole("button", { name: "Run again" }).click();
  await expect(page.getByText(/Done: [\d,]+ rows into/)).toBeVisible({ timeout: 60_000 });
  await page.goto("/");
  await expect(alerts).toHaveCount(0);
  await page.getByText(/\d+ cleared in the last day/).click();
  await expect(page.getByTestId("alerts")).toContainText("cleared The data that scoring uncollected-72h reads have changed");
});
