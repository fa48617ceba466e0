import { expect, test } from "@playwright/test";
import { open, watch } from "./watch";

test("the tour leads along six stops, is left and gone on with, and ends", async ({ page }) => {
  const broken = watch(page);
  await open(page, "/");
  const tour = page.getByRole("complementary", { name: "Tour" });
  await page.getByRole("button", { name: "Start the tour" }).click();
  const stops = [
    ["The table", /\/tables\/larkmere\/parcels/],
    ["The Braid", /\/pipelines\/uncollected-72h\/braid/],
    ["Training", /\/pipelines\/uncollected-72h\/train/],
    ["Evaluation", /\/models\/\d+/],
    ["Delivery", /\/pipelines\/uncollected-72h\/deliver/],
    ["The schedule", /:\d+\/$/],
  ] as const;
  for (const [index, [title, address]] of stops.entries()) {
    await expect(tour).toContainText(`Tour, ${index + 1} of 6: ${title}`);
    await expect(page).toHaveURL(address);
    if (index === 2) {
      await tour.getByRole("button", { name: "Leave" }).click();
      await expect(tour).toHaveCount(0);
      await open(page, "/");
      await page.getByRole("button", { name: "Resume the tour at 3: Training" }).click();
      await expect(page).toHaveURL(address);
    }
    if (index < stops.length - 1) await tour.getByRole("button", { name: /^Next: / }).click();
  }
  await tour.getByRole("button", { name: "Back" }).click();
  await expect(tour).toContainText("Tour, 5 of 6: Delivery");
  await tour.getByRole("button", { name: "Next: The schedule" }).click();
  await tour.getByRole("button", { name: "Done" }).click();
  await expect(page.getByRole("button", { name: "Start the tour" })).toBeVisible();
  expect(broken).toEqual([]);
});

test("every pipeline of the demo is trained behind, so that each kind of answer has a version", async ({
  page,
}) => {
  await open(page, "/models");
  for (const pipeline of ["hours-until-collection", "arrivals-by-site-day", "latch-wear", "message-topic"])
    await expect(async () => {
      await page.goto(`/models?q=${pipeline}`);
      await expect(page.getByRole("link", { name: /version \d+/ }).first()).toBeVisible({ timeout: 2000 });
    }).toPass({ timeout: 300_000 });
});
