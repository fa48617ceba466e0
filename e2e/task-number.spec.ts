import { expect, test } from "@playwright/test";
import { Hand } from "./hand";
import { somebody } from "./warehouse";
import { open, watch } from "./watch";

/** A number in [0, 1) that depends on a row alone. */
const noise = (row: number): number => Math.abs(Math.sin(row * 39.346) * 43758.5453) % 1;

/** Loaves of a made-up bakery: how much they lose in the oven; of the last ones it is not known yet. */
function loaves(): readonly string[] {
  const rows = Array.from({ length: 460 }, (_, index) => {
    const [dough, minutes] = [400 + 800 * noise(index), 20 + 40 * noise(index + 4000)];
    const flour = ["rye", "wheat", "spelt"][index % 3]!;
    const loss = 0.08 * dough + 1.4 * minutes + (flour === "rye" ? -12 : 0) + 6 * noise(index + 8000);
    return [index + 1, flour, dough.toFixed(0), minutes.toFixed(1), index < 400 ? loss.toFixed(1) : ""].join(
      ",",
    );
  });
  return ["loaf,flour,dough_g,minutes,loss_g", ...rows];
}

for (const by of ["mouse", "keyboard"] as const) {
  test(`a number is predicted, judged, delivered and scheduled, from a file, by ${by}`, async ({ page }) => {
    const broken = watch(page);
    const hand = new Hand(page, by);
    const name = `loaves_by_${by}`;
    await open(page, "/tables");
    await hand.press(page.getByRole("link", { name: "Import a file" }));
    await hand.give(page.getByLabel("File to import"), {
      name: `${name}.csv`,
      mimeType: "text/csv",
      buffer: Buffer.from(`${loaves().join("\n")}\n`),
    });
    await hand.press(page.getByRole("button", { name: /^Load/ }));
    await hand.press(page.getByRole("link", { name: "New pipeline from this table" }));
    await hand.select(page.getByLabel("Target", { exact: true }), "loss_g");
    await hand.press(page.getByRole("button", { name: "Create pipeline" }));
    await expect(page).toHaveURL(/\/braid/);
    const stages = page.getByRole("navigation", { name: "Stages of the pipeline" });
    await hand.press(stages.getByRole("link", { name: /Train/ }));
    await hand.press(page.getByRole("button", { name: /^Train “/ }).first());
    const version = page
      .getByRole("region", { name: "Latest training run" })
      .getByRole("link", { name: /^version 1, holdout RMSE/ });
    await expect(version).toBeVisible();
    if (by === "keyboard") await expect(version).toBeFocused();
    await hand.press(version);
    await expect(page.getByTestId("RMSE")).toBeVisible();
    await hand.press(page.getByRole("button", { name: "Put in service" }));
    await hand.press(page.getByRole("button", { name: "Put in service" }));
    await expect(page.getByRole("button", { name: "Take out of service" })).toBeVisible();
    const pipeline = (await page.getByRole("heading", { level: 1 }).textContent())!.split(",")[0]!;
    const deliver = page.getByRole("link", { name: "Deliver", exact: true });
    if (by === "keyboard") await expect(deliver).toBeFocused();
    await hand.press(deliver);
    await hand.press(page.getByRole("button", { name: "Add delivery" }));
    await hand.press(page.getByRole("dialog").getByRole("button", { name: "Save" }));
    const delivery = page.getByRole("row", { name: /^predictions / });
    await expect(delivery).toBeVisible();
    await hand.press(page.getByRole("button", { name: "Add schedule" }));
    await hand.press(page.getByRole("dialog").getByRole("button", { name: "Save" }));
    await expect(page.getByRole("row", { name: /^nightly / })).toContainText("22:30");
    await hand.press(delivery.getByRole("button", { name: "Score now" }));
    await expect(page.getByText(/Done: 60 rows/)).toBeVisible();
    const table = `predictions."${pipeline.replaceAll("-", "_")}"`;
    const [wrong] = await somebody(
      `SELECT count(*)::int AS rows, avg(abs(p.prediction - (0.08 * l.dough_g + 1.4 * l.minutes + CASE flour WHEN 'rye' THEN -9 ELSE 3 END)))::float8 AS off FROM ${table} p JOIN imported.${name} l USING (loaf)`,
    );
    expect(wrong!["rows"]).toBe(60);
    // The answer ranges over about 120 g, 6 g of which are chance.
    expect(Number(wrong!["off"])).toBeLessThan(8);
    expect(hand.actions).toBeLessThanOrEqual(25);
    expect(broken).toEqual([]);
  });
}
