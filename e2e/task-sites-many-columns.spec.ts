import { expect, test } from "@playwright/test";
import { choose } from "./choose";
import { Hand } from "./hand";
import { somebody } from "./warehouse";
import { open, watch } from "./watch";

/** A made-up mill: twenty readings of a kind among 58 columns, some with gaps. */
const MILL = `CREATE TABLE IF NOT EXISTS imported.mill_runs AS SELECT id, ${Array.from({ length: 20 }, (_, n) => `CASE WHEN (id + ${n}) % 9 <> 0 THEN sin(id * ${n + 2}) END AS vibration_${n}`).join(", ")}, ${Array.from({ length: 36 }, (_, n) => `cos(id * ${n + 3}) AS flow_${n}`).join(", ")}, sin(id) + 0.01 * (id % 7) AS yield_kg FROM generate_series(1, 300) id; ALTER TABLE imported.mill_runs DROP CONSTRAINT IF EXISTS mill_runs_pkey, ADD CONSTRAINT mill_runs_pkey PRIMARY KEY (id); GRANT SELECT ON imported.mill_runs TO PUBLIC`;

for (const by of ["mouse", "keyboard"] as const) {
  test(`twenty of 58 columns are excluded at once, and gaps are said and filled before training, by ${by}`, async ({
    page,
  }) => {
    const broken = watch(page);
    await somebody(MILL);
    await open(page, "/pipelines/new?table=imported.mill_runs");
    await choose(page.getByLabel("Target", { exact: true }), "yield_kg");
    for (const proposed of await page.getByRole("group", { name: "Preparation" }).getByRole("checkbox").all())
      await proposed.uncheck();
    await page.getByLabel("Name").fill(`mill-by-${by}`);
    await page.getByRole("button", { name: "Create pipeline" }).click();
    await expect(page).toHaveURL(/\/braid/);
    const ahead = page.getByTestId("before-training");
    await expect(ahead).toContainText("20 features have missing values");
    await expect(page.getByRole("button", { name: "Fill all 20 with medians" })).toBeVisible();

    const hand = new Hand(page, by);
    await hand.press(page.getByRole("button", { name: "Select columns" }));
    await hand.type(page.getByLabel("name contains"), "vibration", false);
    await hand.press(page.getByRole("button", { name: "Select 20 columns" }));
    const verbs = page.getByTestId("verbs");
    await expect(verbs).toContainText("20 columns");
    await expect(verbs.getByRole("button").first()).toBeFocused();
    await hand.press(verbs.getByRole("button", { name: "leave out" }));
    expect(hand.actions).toBeLessThanOrEqual(5);
    // What is left out has no gaps that matter.
    await expect(ahead).toHaveCount(0);
    await page.getByRole("button", { name: "Undo" }).click();
    await expect(ahead).toContainText("20 features have missing values");
    await hand.press(page.getByRole("button", { name: "Fill all 20 with medians" }));
    await expect(page.getByRole("button", { name: /^fill missing values/ }).first()).toBeVisible();
    await expect(ahead).toHaveCount(0);
    expect(broken).toEqual([]);
  });
}
