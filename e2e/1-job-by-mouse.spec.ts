import { expect, test } from "@playwright/test";
import { watch } from "./watch";

const PIPELINE = "uncollected-72h";

const number = (text: string | null): number => Number((text ?? "").replaceAll(",", ""));

test("a new user does the whole job by mouse", async ({ page }) => {
  const broken = watch(page);

  await test.step("looks at the source tables", async () => {
    await page.goto("/");
    // The demo may still be training its other pipelines.
    await expect(page.getByRole("heading", { level: 1 })).toHaveText("All scheduled deliveries are done.", {
      timeout: 300_000,
    });
    await page.getByRole("link", { name: "Tables" }).click();
    await page.getByRole("link", { name: "parcels", exact: true }).click();
    await expect(page.getByRole("heading", { level: 1 })).toContainText("parcels");
    const grid = page.getByRole("grid");
    await expect(grid.getByRole("gridcell", { name: "7000001" })).toBeVisible();
    await grid.evaluate((element) => element.scrollTo({ top: 27 * 9000 }));
    await expect(grid.getByRole("gridcell", { name: "7009005" })).toBeVisible();
    await grid.getByRole("columnheader", { name: "weight_g" }).click();
    await expect(grid.getByRole("columnheader", { name: "weight_g" })).toHaveAttribute(
      "aria-sort",
      "ascending",
    );
    const weight = page.locator('tr[data-column="weight_g"]');
    await weight.scrollIntoViewIfNeeded();
    await expect(weight).toContainText("quartiles");
    await expect(weight.getByRole("cell").nth(1)).toHaveText(/[3-6]\.\d %/);
  });

  await test.step("reads how the pipeline joins and shapes them", async () => {
    await page.getByRole("link", { name: "Pipelines" }).click();
    await page.getByRole("link", { name: PIPELINE }).click();
    await expect(page.getByTestId("braid")).toBeVisible();
    await expect(page.getByText("exact row counts")).toBeVisible();
    const rows = page.getByRole("img", { name: /^Rows of parcels/ });
    const counts = ((await rows.getAttribute("aria-label")) ?? "").match(/[\d,]+(?=,? then|$)/g)!.map(number);
    expect(counts[0]).toBe(18_000);
    expect(counts[1]).toBeLessThan(18_000);
    expect(new Set(counts.slice(1)).size).toBe(1);
    await page.getByRole("button", { name: /^join sites/ }).click();
    const tray = page.getByTestId("tray");
    await expect(tray.getByRole("columnheader", { name: "setting changed" })).toBeVisible();
    await tray.getByRole("tab", { name: "SQL" }).click();
    await expect(tray).toContainText("WITH");
    await tray.hover();
    await page.mouse.wheel(0, 3000);
    await expect(tray).toContainText(/LEFT JOIN/);
    await page.getByRole("button", { name: /^fill numbers/ }).click();
    await tray.getByRole("tab", { name: "Learned values" }).click();
    await expect(tray.getByRole("row", { name: /weight_g/ })).toBeVisible();
    await page.getByRole("button", { name: "+ 2 untouched" }).first().click();
    await expect(page.getByRole("button", { name: "deadline_at" })).toBeVisible();
    await page.getByRole("button", { name: "collected_at", exact: true }).click();
    await expect(page.getByText("excluded: It is the target itself, in another form.").first()).toBeVisible();
  });

  await test.step("trains inside PostgreSQL and watches", async () => {
    await page
      .getByRole("navigation", { name: "Stages of the pipeline" })
      .getByRole("link", { name: /Train/ })
      .click();
    await page.getByRole("button", { name: "Train “plain logistic”" }).click();
    await expect(page.getByRole("heading", { name: /^Training “plain logistic”/ })).toBeVisible();
    await expect(
      page
        .getByRole("region", { name: "Latest training run" })
        .getByRole("link", { name: /version 6, holdout AUC/ }),
    ).toBeVisible();
    await expect(page.getByRole("img", { name: "Largest gradient" })).toBeVisible();
    await page
      .getByRole("region", { name: "Training runs" })
      .getByRole("link", { name: /training|train/i })
      .first()
      .click();
    await expect(page.getByTestId("run-state")).toHaveText("done");
    await expect(
      page.getByText(/no row left the warehouse; [\d,]+ aggregated numbers were read/),
    ).toBeVisible();
    await page.getByRole("button", { name: /train in the warehouse/ }).click();
    await expect(page.getByText("curvature over the sample").first()).toBeVisible();
    await page.getByRole("link", { name: "Evaluate the model" }).click();
  });

  await test.step("judges it on held-out rows", async () => {
    const auc = await page.getByTestId("AUC").textContent();
    expect(Number(auc)).toBeGreaterThan(0.78);
    expect(Number(auc)).toBeLessThan(0.9);
    const raised = number(await page.getByTestId("tp").textContent());
    const cost = await page.getByTestId("cost").textContent();
    const thumb = (await page.getByRole("slider", { name: "Threshold" }).boundingBox())!;
    await page.mouse.move(thumb.x + thumb.width / 2, thumb.y + thumb.height / 2);
    await page.mouse.down();
    await page.mouse.move(thumb.x + 90, thumb.y + thumb.height / 2, { steps: 6 });
    await page.mouse.up();
    await expect.poll(async () => number(await page.getByTestId("tp").textContent())).toBeLessThan(raised);
    expect(await page.getByTestId("cost").textContent()).not.toBe(cost);
    expect(await page.getByTestId("AUC").textContent()).toBe(auc);
    await expect(page).toHaveURL(/threshold=0\.\d+/);
    await page.getByRole("link", { name: "Explanation" }).click();
    const coefficients = page.getByTestId("coefficients");
    await coefficients.getByRole("button", { name: "Term" }).click();
    await expect(coefficients.locator("tbody tr").first()).toContainText("age_band = ");
    await page.getByRole("link", { name: "Rows", exact: true }).click();
    await page.getByTestId("judged-rows").getByRole("button", { name: "reasons" }).first().click();
    await expect(page.getByTestId("reasons")).toContainText(/Contributions to log odds/);
    await expect(
      page.getByTestId("reasons").getByRole("link", { name: "follow it in the Braid" }),
    ).toBeVisible();
  });

  await test.step("puts the version in service", async () => {
    await page.getByRole("button", { name: "Put in service" }).click();
    await expect(page.getByTestId("consequences")).toContainText(
      "“night desk” writes to predictions.uncollected_72h",
    );
    await page.getByLabel("Who").fill("Ada");
    await page.getByLabel(/^Reason \(stored/).fill("the whole job, once through");
    await page.getByRole("button", { name: "Put in service" }).click();
    await expect(page.getByText("Version 6 is in service.")).toBeVisible();
    await expect(page.getByRole("button", { name: "Take out of service" })).toBeVisible();
  });

  await test.step("scores, and finds the predictions in their table", async () => {
    await page.getByRole("link", { name: PIPELINE }).click();
    await page
      .getByRole("navigation", { name: "Stages of the pipeline" })
      .getByRole("link", { name: /Deliver/ })
      .click();
    await expect(page.getByRole("button", { name: "night desk" })).toBeVisible();
    await expect(page.getByRole("row", { name: /every night/ })).toContainText("2026-07-01 21:30 UTC");
    await page.getByRole("button", { name: "Score now" }).click();
    await expect(page.getByTestId("run-state")).toHaveText("done");
    await expect(page.getByText(/rows into predictions\.uncollected_72h, version 6/).first()).toBeVisible();
    await page.getByRole("link", { name: PIPELINE }).click();
    await page.getByRole("link", { name: "predictions.uncollected_72h" }).click();
    const grid = page.getByRole("grid");
    await expect(grid.getByRole("columnheader", { name: "probability" })).toBeVisible();
    await expect(grid.getByRole("row").nth(1).getByRole("gridcell").nth(0)).toHaveText(/^70\d{5}$/);
  });

  await test.step("pauses a schedule and lets it go on", async () => {
    await page.goto(`/pipelines/${PIPELINE}/deliver`);
    const nightly = page.getByRole("row", { name: /every night/ });
    await nightly.getByRole("button", { name: "Pause" }).click();
    await expect(nightly).toContainText("paused");
    await nightly.getByRole("button", { name: "Resume" }).click();
    await expect(nightly).toContainText("21:30 UTC");
  });

  await test.step("sees on Today how fresh everything is", async () => {
    await page.getByRole("link", { name: "Today", exact: true }).click();
    await expect(
      page
        .getByRole("region", { name: "Prediction freshness" })
        .getByRole("row", { name: /predictions\.uncollected_72h/ }),
    ).toContainText("version 6");
    await expect(page.getByRole("region", { name: "Upcoming" })).toContainText("every Sunday");
  });

  await test.step("follows the thread of a schedule to its last run", async () => {
    const thread = page.getByRole("slider", { name: /^Last 30 days of every night of uncollected-72h/ });
    await thread.focus();
    await page.keyboard.press("End");
    await expect(thread).toHaveAttribute("aria-valuetext", /UTC · done · [\d,]+ rows$/);
    await page.keyboard.press("Enter");
    await expect(page.getByTestId("run-state")).toHaveText("done");
  });

  expect(broken).toEqual([]);
});
