import { expect, test } from "@playwright/test";
import ExcelJS from "exceljs";
import { Hand } from "./hand";
import { open, watch } from "./watch";

/** A number in [0, 1) that depends on a row alone. */
const noise = (row: number): number => Math.abs(Math.sin(row * 78.233) * 43758.5453) % 1;

/** Seedlings of a made-up nursery: those with much light and water take. */
function seedlings(): readonly (readonly (string | number)[])[] {
  const rows = Array.from({ length: 500 }, (_, index) => {
    const [light, water] = [10 * noise(index), 5 * noise(index + 3000)];
    const soil = ["peat", "loam", "sand"][index % 3]!;
    const chance = 1 / (1 + Math.exp(-(light - 5 + 1.2 * (water - 2.5) + (soil === "loam" ? 1 : 0))));
    return [
      index + 1,
      soil,
      light.toFixed(3),
      water.toFixed(3),
      noise(index + 7000) < chance ? "took" : "died",
    ];
  });
  return [["seedling", "soil", "light", "water", "outcome"], ...rows];
}

for (const by of ["mouse", "keyboard"] as const) {
  test(`support vectors against a tree on 60/40, and the threshold is kept, by ${by}`, async ({ page }) => {
    const broken = watch(page);
    const hand = new Hand(page, by);
    await open(page, "/tables");
    await hand.press(page.getByRole("link", { name: "Import a file" }));
    await hand.give(page.getByLabel("File to import"), {
      name: `seedlings_by_${by}.csv`,
      mimeType: "text/csv",
      buffer: Buffer.from(`${seedlings().join("\n")}\n`),
    });
    await hand.press(page.getByRole("button", { name: /^Load/ }));
    await hand.press(page.getByRole("link", { name: "New pipeline from this table" }));
    await hand.select(page.getByLabel("Target", { exact: true }), "outcome");
    await hand.press(page.getByRole("button", { name: "Create pipeline" }));
    await expect(page).toHaveURL(/\/braid/);
    const stages = page.getByRole("navigation", { name: "Stages of the pipeline" });
    await hand.press(stages.getByRole("link", { name: /Train/ }));

    const rows = page.getByRole("form", { name: "Validation" });
    await hand.type(rows.getByLabel("Share"), "40 %");
    await expect(rows.getByLabel("Seed")).toHaveValue("1");
    await hand.press(rows.getByRole("button", { name: "Save", exact: true }));
    await expect(page.getByText("Saved as version 2 of the file.")).toBeVisible();
    for (const [learner, version] of [
      ["Linear support vectors", 3],
      ["Decision tree", 4],
    ] as const) {
      await hand.press(page.getByRole("button", { name: "Add candidate" }));
      const form = page.getByRole("dialog");
      await hand.tick(form.getByRole("radio", { name: new RegExp(learner) }));
      await hand.press(form.getByRole("button", { name: "Save" }));
      await expect(page.getByText(`Saved as version ${version} of the file.`)).toBeVisible();
    }
    const newest = page.getByRole("region", { name: "Latest training run" });
    await hand.press(page.getByRole("button", { name: /^Train “linear support vectors”/ }));
    await expect(newest.getByRole("link", { name: /^version 1, holdout AUC/ })).toBeVisible();
    await hand.press(page.getByRole("button", { name: "Train “decision tree”" }));
    await expect(newest.getByRole("link", { name: /^version 2, holdout AUC/ })).toBeVisible();

    await hand.press(stages.getByRole("link", { name: /Compare/ }));
    await hand.tick(page.getByRole("checkbox", { name: "Select version 1" }));
    await hand.tick(page.getByRole("checkbox", { name: "Select version 2" }));
    await expect(page.getByRole("img", { name: "ROC curves" })).toBeVisible();
    await hand.press(page.getByTestId("trials").getByRole("link", { name: "version 2", exact: true }));
    await expect(page).toHaveURL(/\/models\/\d+/);
    await expect(page.getByTestId("class-report").getByRole("row", { name: /^positive/ })).toBeVisible();
    await hand.press(page.getByRole("button", { name: /^least .* at / }));
    const threshold = await page.getByTestId("threshold").textContent();
    await hand.press(page.getByRole("link", { name: `Add one with the threshold ${threshold}` }));
    await hand.press(page.getByRole("button", { name: "Add delivery" }));
    await hand.press(page.getByRole("dialog").getByRole("button", { name: "Save" }));
    await expect(page.getByRole("row", { name: /^predictions / })).toContainText(threshold!);
    expect(hand.actions).toBeLessThanOrEqual(30);
    expect(broken).toEqual([]);
  });

  test(`a spreadsheet, a stratified 70/30, a tree drawn and its ROC curve, by ${by}`, async ({ page }) => {
    const broken = watch(page);
    const hand = new Hand(page, by);
    const book = new ExcelJS.Workbook();
    book.addWorksheet("seedlings").addRows(seedlings().map((row) => [...row]));
    await open(page, "/tables");
    await hand.press(page.getByRole("link", { name: "Import a file" }));
    await hand.give(page.getByLabel("File to import"), {
      name: `nursery_by_${by}.xlsx`,
      mimeType: "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
      buffer: Buffer.from(await book.xlsx.writeBuffer()),
    });
    await hand.press(page.getByRole("button", { name: /^Load/ }));
    await hand.press(page.getByRole("link", { name: "New pipeline from this table" }));
    await hand.select(page.getByLabel("Target", { exact: true }), "outcome");
    // The number of a seedling is its key, and so no feature.
    await expect(page.getByRole("group", { name: "Key" }).getByLabel("seedling")).toBeChecked();
    await hand.press(page.getByRole("button", { name: "Create pipeline" }));
    await expect(page).toHaveURL(/\/braid/);
    await hand.press(
      page.getByRole("navigation", { name: "Stages of the pipeline" }).getByRole("link", { name: /Train/ }),
    );
    const rows = page.getByRole("form", { name: "Validation" });
    await hand.select(rows.getByLabel("Hold out"), "a stratified share of the rows");
    await hand.type(rows.getByLabel("Share"), "30 %");
    await expect(rows.getByTestId("division").getByRole("row", { name: /^Training/ })).toContainText("349");
    await hand.press(rows.getByRole("button", { name: "Save", exact: true }));
    await expect(page.getByText("Saved as version 2 of the file.")).toBeVisible();
    await hand.press(page.getByRole("button", { name: "Add candidate" }));
    const form = page.getByRole("dialog");
    await hand.tick(form.getByRole("radio", { name: /Decision tree/ }));
    await hand.press(form.getByRole("button", { name: "Save" }));
    await hand.press(page.getByRole("button", { name: "Train “decision tree”" }));
    const version = page
      .getByRole("region", { name: "Latest training run" })
      .getByRole("link", { name: /^version 1, holdout AUC/ });
    await expect(version).toBeVisible();
    await hand.press(version);
    await expect(page.getByRole("img", { name: "ROC curve" })).toBeVisible();
    await hand.press(page.getByRole("link", { name: "Explanation" }));
    await expect(page.getByTestId("tree")).toBeVisible();
    expect(hand.actions).toBeLessThanOrEqual(22);
    expect(broken).toEqual([]);
  });
}
