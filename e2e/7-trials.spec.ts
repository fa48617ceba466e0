import { expect, test } from "@playwright/test";
import { choose } from "./choose";
import { open } from "./watch";

const PIPELINE = "uncollected-72h";

test("a leak is caught, the trial without it is made, and two trials are compared", async ({ page }) => {
  await page.goto(`/pipelines/${PIPELINE}/compare`);
  const trials = page.getByTestId("trials");
  await expect(trials.getByRole("row", { name: /version 1 boosted trees/ })).toContainText(
    "possible leakage: reminders_sent",
  );
  await trials.getByRole("link", { name: "version 1", exact: true }).click();
  await expect(page.getByTestId("findings")).toContainText("“reminders_sent” alone has an AUC of 0.9");
  await page.goto(`/pipelines/${PIPELINE}/compare`);
  await page.getByRole("checkbox", { name: "Select version 2" }).check();
  await page.getByRole("checkbox", { name: "Select version 3" }).check();
  const differences = page.getByTestId("differences");
  await expect(differences.getByRole("row", { name: /Log loss/ })).toContainText("version 2 is better");
  await expect(page.getByRole("img", { name: "ROC curves" })).toBeVisible();
  await expect(page).toHaveURL(/pick=\d+,\d+/);
  // Notes, stars and search are there again after a reload.
  const row = trials.getByRole("row", { name: /version 4 small tree/ });
  await row.getByRole("button", { name: "Add star" }).click();
  await row.getByRole("textbox", { name: "Note" }).fill("for the night desk");
  await page.waitForTimeout(1500);
  await page.reload();
  await page.getByRole("checkbox", { name: "starred only" }).check();
  await expect(trials.getByRole("row")).toHaveCount(2);
  await expect(row.getByRole("textbox", { name: "Note" })).toHaveValue("for the night desk");
});

test("a candidate is added with a search, its fits are stated, and its trials are ranked while it runs", async ({
  page,
}) => {
  await page.goto("/pipelines/latch-wear/train");
  await page.getByRole("button", { name: "Add candidate" }).click();
  const form = page.getByRole("dialog");
  await form.getByLabel("name", { exact: true }).fill("tree by search");
  await form.getByRole("radio", { name: /Decision tree/ }).check();
  await form.getByRole("button", { name: "Search for settings" }).click();
  await choose(form.getByRole("combobox", { name: "Search method" }), "grid");
  await choose(form.getByRole("combobox", { name: "Setting", exact: true }), "depth");
  await form.getByRole("textbox", { name: "Values" }).fill("2, 4");
  await expect(form.getByTestId("fits")).toContainText("11 fits in total");
  await form.getByRole("button", { name: "Save" }).click();
  await expect(form).toBeHidden();
  const added = page.getByTestId("candidates").getByRole("row", { name: /tree by search/ });
  await expect(added).toContainText("searches depth");
  await added.getByRole("button", { name: "Train “tree by search”" }).click();
  await expect(page.getByTestId("ranking").getByRole("row")).toHaveCount(3);
  await expect(
    page
      .getByRole("region", { name: "Latest training run" })
      .getByRole("link", { name: /version \d+, holdout accuracy/ }),
  ).toBeVisible();
  await page
    .getByRole("region", { name: "Latest training run" })
    .getByRole("link", { name: /holdout accuracy/ })
    .click();
  await expect(page.getByTestId("matrix")).toBeVisible();
  await page.getByRole("link", { name: "Record" }).click();
  await expect(page.getByText(/best of 2 combinations/)).toBeVisible();
  await page.getByRole("link", { name: "Explanation" }).click();
  const tree = page.getByTestId("tree");
  await tree.focus();
  await page.keyboard.press("ArrowLeft");
  await expect(page.getByTestId("tree-node")).toContainText("Path");
  await expect(page.getByTestId("tree-node")).not.toContainText("the root");
});

test("a number is judged by its errors, and where they lie", async ({ page }) => {
  await page.goto("/pipelines/hours-until-collection/train");
  await page.getByRole("button", { name: "Train “plain”" }).click();
  const newest = page
    .getByRole("region", { name: "Latest training run" })
    .getByRole("link", { name: /holdout RMSE/ });
  await expect(newest).toBeVisible();
  await newest.click();
  await expect(page.getByTestId("figures").getByRole("row", { name: /RMSE/ })).toBeVisible();
  await page.getByRole("link", { name: "Errors" }).click();
  await expect(page.getByTestId("advice")).toContainText("long tail");
  await choose(page.getByRole("combobox", { name: "residuals by" }), "delivered_at");
  await expect(page.getByRole("img", { name: "Actual and predicted by delivered_at" })).toBeVisible();
  await page.getByRole("link", { name: "Segments" }).click();
  await choose(page.getByRole("combobox", { name: "by", exact: true }), "setting");
  await expect(page.getByTestId("segments").getByRole("row", { name: /campus/ })).toBeVisible();
});

test("a candidate that is renamed keeps its note, which the form does not show", async ({ page }) => {
  await open(page, "/pipelines/uncollected-72h/train");
  for (const [before, after] of [
    ["base rate", "usual answer"],
    ["usual answer", "base rate"],
  ] as const) {
    await page.getByTestId("candidates").getByRole("button", { name: before, exact: true }).click();
    await page.getByRole("dialog").getByLabel("name", { exact: true }).fill(after);
    await page.keyboard.press("Enter");
    await expect(
      page.getByTestId("candidates").getByRole("row", { name: new RegExp(`^${after}`) }),
    ).toContainText("What every other candidate has to beat.");
    await expect(page.getByRole("dialog")).toHaveCount(0);
  }
});
