import { readFileSync } from "node:fs";
import { expect, test } from "@playwright/test";
import { Hand } from "./hand";
import { somebody } from "./warehouse";
import { open, watch } from "./watch";

const WELLS = 260;
const KNOWN = 220;
const SUBSTANCES = ["iron", "lime", "salt"] as const;

/** A number in [0, 1) that depends on a row alone. */
const noise = (row: number): number => Math.abs(Math.sin(row * 91.3458) * 47453.5453) % 1;

const depthOf = (well: number): number => 5 + 60 * noise(well);
const levelOf = (well: number, substance: number): number => 10 * noise(1000 * (substance + 1) + well);
const pressureOf = (well: number): number => 2 + 6 * noise(well + 7000);

/** Made-up wells: how much the last ones yield is not known yet. */
function wells(by: string): readonly string[] {
  const rows = Array.from({ length: WELLS }, (_, index) => {
    const well = index + 1;
    const yields =
      4 * pressureOf(well) +
      0.5 * levelOf(well, 0) -
      levelOf(well, 2) +
      0.2 * depthOf(well) +
      noise(well + 9000);
    const known = well <= KNOWN ? yields.toFixed(3) : "";
    return [well, depthOf(well).toFixed(2), `drilled by ${by} ${well}`, known].join(",");
  });
  return ["well,depth_m,remark,yield_l", ...rows];
}

/** One row for each substance that was looked for in a well. */
const assays = (): readonly string[] => [
  "assay,well,substance,level",
  ...Array.from({ length: WELLS }, (_, index) =>
    SUBSTANCES.map((substance, place) =>
      [3 * index + place + 1, index + 1, substance, levelOf(index + 1, place).toFixed(4)].join(","),
    ),
  ).flat(),
];

/** Several readings of each well, around its pressure. */
const gauges = (): readonly string[] => [
  "reading,well,pressure_bar,clock",
  ...Array.from({ length: 4 * WELLS }, (_, index) => {
    const well = 1 + (index % WELLS);
    const pressure = pressureOf(well) + 0.2 * (noise(index + 20_000) - 0.5);
    return [index + 1, well, pressure.toFixed(4), index % 24].join(",");
  }),
];

const csv = (name: string, lines: readonly string[]) => ({
  name: `${name}.csv`,
  mimeType: "text/csv",
  buffer: Buffer.from(`${lines.join("\n")}\n`),
});

for (const by of ["mouse", "keyboard"] as const) {
  test(`three tables are trimmed, pivoted and joined, and new entities are scored into a table and a file, by ${by}`, async ({
    page,
  }) => {
    const broken = watch(page);
    const hand = new Hand(page, by);
    const table = (what: string): string => `${what}_by_${by}`;
    await open(page, "/tables");
    await hand.press(page.getByRole("link", { name: "Import a file" }));
    await hand.give(
      page.getByLabel("File to import"),
      csv(table("wells"), wells(by)),
      csv(table("assays"), assays()),
      csv(table("gauges"), gauges()),
    );
    await hand.press(page.getByRole("button", { name: /^Load 3 files/ }));
    await expect(page.getByText("rows of 3 files are loaded.")).toBeVisible();
    await hand.press(
      page.getByRole("row", { name: new RegExp(table("wells")) }).getByRole("link", { name: "new pipeline" }),
    );
    await hand.select(page.getByLabel("Target", { exact: true }), "yield_l");
    await hand.press(page.getByRole("button", { name: "Create pipeline" }));
    await expect(page).toHaveURL(/\/braid/);

    const form = page.getByRole("dialog", { name: "Join a table" });
    await hand.press(page.getByRole("button", { name: "Join a table" }));
    await hand.select(form.getByLabel("Table to join"), `imported.${table("assays")}`);
    await expect(form.getByRole("status")).toHaveText(
      'Adds 3 columns: "level_iron", "level_lime", "level_salt".',
    );
    await hand.tick(form.getByLabel("lime"), false);
    await hand.press(form.getByRole("button", { name: "Join", exact: true }));
    await expect(form).toHaveCount(0);

    await hand.press(page.getByRole("button", { name: "Join a table" }));
    await hand.select(form.getByLabel("Table to join"), `imported.${table("gauges")}`);
    await hand.tick(form.getByRole("group", { name: "Columns", exact: true }).getByLabel("clock"), false);
    await expect(form.getByRole("status")).toHaveText('Adds 1 column: "avg_pressure_bar".');
    await hand.press(form.getByRole("button", { name: "Join", exact: true }));
    await expect(form).toHaveCount(0);

    await hand.press(page.getByRole("button", { name: "Add a step", exact: true }));
    await hand.type(page.getByPlaceholder(/^Add a step/), "filter", false);
    await hand.key("Enter");
    const where = page.getByLabel("where", { exact: true });
    await expect(where).toBeFocused();
    await hand.write(where, "depth_m > 8");
    await hand.press(page.getByRole("button", { name: "Save version" }));
    await hand.press(page.getByRole("dialog").getByRole("button", { name: "Save", exact: true }));
    await expect(page.getByText("Saved as version 2")).toBeVisible();

    const train = page
      .getByRole("navigation", { name: "Stages of the pipeline" })
      .getByRole("link", { name: /Train/ });
    if (by === "keyboard") await expect(train).toBeFocused();
    await hand.press(train);
    await hand.press(page.getByRole("button", { name: /^Train “/ }).first());
    const version = page
      .getByRole("region", { name: "Latest training run" })
      .getByRole("link", { name: /^version 1, holdout RMSE/ });
    await expect(version).toBeVisible();
    await hand.press(version);
    await hand.press(page.getByRole("button", { name: "Put in service" }));
    await hand.press(page.getByRole("button", { name: "Put in service" }));
    await expect(page.getByRole("button", { name: "Take out of service" })).toBeVisible();
    const pipeline = (await page.getByRole("heading", { level: 1 }).textContent())!.split(",")[0]!;
    await hand.press(page.getByRole("link", { name: "Deliver", exact: true }));
    await hand.press(page.getByRole("button", { name: "Add delivery" }));
    await hand.press(page.getByRole("dialog").getByRole("button", { name: "Save" }));
    const delivery = page.getByRole("row", { name: /^predictions / });
    await hand.press(delivery.getByRole("button", { name: "Score now" }));
    await expect(page.getByText(/Done: \d+ rows/)).toBeVisible();

    const made = `predictions."${pipeline.replaceAll("-", "_")}"`;
    const expected = Array.from({ length: WELLS - KNOWN }, (_, index) => KNOWN + 1 + index).filter(
      (well) => Number(depthOf(well).toFixed(2)) > 8,
    );
    const scored = await somebody(`SELECT well, prediction FROM ${made} ORDER BY well`);
    expect(scored.map(({ well }) => Number(well))).toEqual(expected);
    for (const { well, prediction } of scored) {
      const number = Number(well);
      const truth =
        4 * pressureOf(number) +
        0.5 * levelOf(number, 0) -
        levelOf(number, 2) +
        0.2 * depthOf(number) +
        noise(number + 9000);
      expect(Math.abs(Number(prediction) - truth)).toBeLessThan(3);
    }
    await hand.press(page.getByRole("link", { name: `Open ${made.replaceAll('"', "")}` }));
    await hand.press(page.getByRole("button", { name: /^Export/ }));
    const waiting = page.waitForEvent("download");
    await hand.press(page.getByRole("link", { name: "CSV", exact: true }));
    const lines = readFileSync(await (await waiting).path(), "utf8")
      .trim()
      .split("\n");
    expect(lines).toHaveLength(expected.length + 1);
    expect(hand.actions).toBeLessThanOrEqual(45);
    expect(broken).toEqual([]);
  });
}
