import { expect, test, type Page } from "@playwright/test";
import { choose } from "./choose";
import { somebody } from "./warehouse";
import { open, watch } from "./watch";

const DELIVER = "/pipelines/uncollected-72h/deliver";

/** Lets days pass by the demo's clock, and waits until it stands again. */
async function pass(page: Page, span: string): Promise<void> {
  const clock = page.getByTestId("demo-clock");
  await clock.click();
  await page.getByRole("menuitem", { name: span }).click();
  await expect(clock).toContainText("→");
  // Not merely without the arrow: while the server is asked, the clock may not be there at all.
  await expect(clock).toHaveText(/^demo clock \S+ \S+ UTC$/, { timeout: 180_000 });
}

test("a range is caught up, and what became of the predictions is held against the promise", async ({
  page,
}) => {
  const broken = watch(page);
  await open(page, DELIVER);
  const panel = page.getByRole("region", { name: "Backfill" });
  await panel.getByLabel("From").fill("2026-06-08");
  await panel.getByLabel("Through").fill("2026-06-17");
  await panel.getByRole("button", { name: "Start backfill" }).click();
  const row = page.getByTestId("backfills").getByRole("row", { name: /2026-06-08/ });
  await expect(row).toContainText("10 of 10");
  await expect(row).toContainText("done");
  await page.reload();
  const truth = page.getByTestId("truth");
  await expect(truth.getByRole("row", { name: /in service/ })).toContainText(/0\.\d{3,4}/);
  await choose(page.getByRole("region", { name: "Live against holdout" }).getByLabel("Metric"), "log_loss");
  await expect(truth.getByRole("columnheader", { name: "Log loss" })).toBeVisible();
  await expect(page.getByRole("img", { name: /^Log loss of past predictions over \d+ days/ })).toBeVisible();
  expect(broken).toEqual([]);
});

test("time passes: the night's predictions land; a source breaks, is mended, the failed run goes on, and the alert clears", async ({
  page,
}) => {
  const landed = async () =>
    Number(
      (
        await somebody(
          "SELECT count(DISTINCT run_time)::int AS n FROM predictions.uncollected_72h WHERE run_time > timestamptz '2026-07-01'",
        )
      )[0]!["n"],
    );
  await open(page, "/");
  const before = await landed();
  await pass(page, "A day");
  expect(await landed()).toBe(before + 1);
  await expect(page.getByRole("row", { name: /every night uncollected-72h/ }).first()).toContainText("done");
  await somebody("ALTER TABLE larkmere.recipients RENAME COLUMN age_band TO age");
  await pass(page, "A day");
  expect(await landed()).toBe(before + 1);
  const alert = page
    .getByTestId("alert")
    .filter({ hasText: "The data that scoring uncollected-72h reads have changed" });
  await expect(alert).toContainText('The column "age_band" of larkmere.recipients no longer exists');
  await expect(async () => {
    await open(page, "/health");
    await expect(
      page
        .getByTestId("outbox")
        .getByRole("row", { name: /mail.*The data that scoring/ })
        .first(),
    ).toContainText("sent", { timeout: 1000 });
  }).toPass();
  await somebody("ALTER TABLE larkmere.recipients RENAME COLUMN age TO age_band");
  await open(page, DELIVER);
  await page
    .getByRole("region", { name: "Scoring runs" })
    .getByRole("row", { name: /failed/ })
    .first()
    .getByRole("link")
    .click();
  await page.getByRole("button", { name: "Resume from the failure" }).click();
  await expect(page.getByTestId("run-state")).toHaveText("done");
  await expect(page.getByText("attempt 2").first()).toBeVisible();
  expect(await landed()).toBe(before + 2);
  await open(page, "/");
  await expect(alert).toHaveCount(0);
  await expect(page.getByRole("row", { name: /every night uncollected-72h/ }).first()).toContainText("done");
});

test("rows of a table are scored on demand, and one row is tried in a form with its reasons", async ({
  page,
}) => {
  await open(page, DELIVER);
  const panel = page.getByRole("region", { name: "On demand" });
  await choose(panel.getByLabel("Rows of"), "larkmere.sites");
  await panel.getByRole("button", { name: "Score these rows" }).click();
  await expect(page.getByText(/larkmere\.sites lacks .*which features are computed from/)).toBeVisible();
  await choose(panel.getByLabel("Rows of"), "larkmere.parcels");
  await panel.getByRole("checkbox", { name: "site_id" }).check();
  await panel.getByRole("button", { name: "Score these rows" }).click();
  await expect(page).toHaveURL(/\/runs\//);
  await expect(page.getByRole("region", { name: "Predictions" }).getByText(/rows of larkmere/)).toBeVisible();
  await expect(
    page
      .getByRole("region", { name: "Predictions" })
      .getByText(/rows with a target, [\d,]+ right and [\d,]+ wrong: AUC 0\.\d+/),
  ).toBeVisible();
  await page.getByRole("region", { name: "Predictions" }).getByRole("link").click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("scored_uncollected_72h_");
  await expect(page.getByRole("columnheader", { name: "site_id" })).toBeVisible();
  await open(page, DELIVER);
  await page
    .getByTestId("versions")
    .getByRole("row", { name: /in service/ })
    .getByRole("link")
    .first()
    .click();
  await page.getByRole("link", { name: "Try a row" }).click();
  const tried = page.getByTestId("tried");
  await expect(tried).toContainText(/with a probability of 0\.\d{3}/);
  await page.getByLabel(/^notice_preference/).fill("app");
  await expect(tried).toContainText("notice_preference = app");
  const low = Number(/probability of (0\.\d{3})/.exec((await tried.textContent())!)![1]);
  await page.getByLabel(/^notice_preference/).fill("email");
  await expect(tried).toContainText("notice_preference = email");
  expect(Number(/probability of (0\.\d{3})/.exec((await tried.textContent())!)![1])).toBeGreaterThan(low);
  await page.getByLabel(/^weight_g/).fill("heavy");
  await expect(tried.getByRole("alert")).toContainText("heavy");
});
