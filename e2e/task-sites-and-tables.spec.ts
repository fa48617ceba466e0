import { expect, test, type Page } from "@playwright/test";
import { Hand } from "./hand";
import { open, watch } from "./watch";

const csv = (name: string, lines: readonly string[]) => ({
  name,
  mimeType: "text/csv",
  buffer: Buffer.from(`${lines.join("\n")}\n`),
});

/** A number in [0, 1) that depends on a row alone. */
const noise = (row: number): number => Math.abs(Math.sin(row * 12.9898) * 43758.5453) % 1;

const PONDS = ["Alder", "Birch", "Cedar", "Dogwood", "Elder", "Fir"] as const;

/** Soundings of made-up ponds: at each depth a temperature, which falls with depth in its own way. */
function soundings(): readonly string[] {
  const rows = PONDS.flatMap((pond, place) =>
    Array.from({ length: 60 }, (_, step) => {
      const [depth, row] = [step * 0.5, place * 60 + step];
      const light = Math.exp(-depth / (4 + place));
      const salt = 3 + 0.1 * depth + noise(row);
      const temperature = 5 + 14 * light - 0.4 * salt + noise(row + 1000);
      return [row + 1, pond, depth, light.toFixed(4), salt.toFixed(3), temperature.toFixed(3)].join(",");
    }),
  );
  return ["sounding,pond,depth_m,light,salt,temperature_c", ...rows];
}

/** Waits until a training that was begun just now has ended, and opens its version. */
async function openVersion(page: Page, hand: Hand, name: RegExp): Promise<void> {
  const link = page.getByRole("region", { name: "Latest training run" }).getByRole("link", { name });
  await expect(link).toBeVisible();
  await hand.press(link);
  await expect(page).toHaveURL(/\/models\/\d+/);
}

for (const by of ["mouse", "keyboard"] as const) {
  test(`ponds judge by name, one blind holdout, and curves follow the depth, by ${by}`, async ({ page }) => {
    const broken = watch(page);
    const hand = new Hand(page, by);
    const table = `soundings_by_${by}`;
    await open(page, "/tables");
    await hand.press(page.getByRole("link", { name: "Import a file" }));
    await hand.give(page.getByLabel("File to import"), csv(`${table}.csv`, soundings()));
    await hand.press(page.getByRole("button", { name: /^Load/ }));
    await hand.press(page.getByRole("link", { name: "New pipeline from this table" }));
    await hand.select(page.getByLabel("Target", { exact: true }), "temperature_c");
    // Names of ponds say nothing of a new pond: they are no feature, but tell which soundings belong together.
    await hand.tick(page.getByRole("group", { name: "Preparation" }).getByLabel("pond"), false);
    await hand.press(page.getByRole("button", { name: "Create pipeline" }));
    await expect(page).toHaveURL(/\/braid/);
    await hand.press(
      page.getByRole("navigation", { name: "Stages of the pipeline" }).getByRole("link", { name: /Train/ }),
    );

    const roles = page.getByRole("form", { name: "Column roles" });
    await hand.select(roles.getByLabel("Group"), "pond");
    await hand.press(roles.getByRole("button", { name: "Save roles" }));
    await expect(page.getByText("Saved as version 2 of the file.")).toBeVisible();

    const rows = page.getByRole("form", { name: "Validation" });
    await hand.select(rows.getByLabel("Hold out"), "groups by pond that I choose");
    await hand.select(rows.getByLabel("Blind holdout", { exact: true }), "groups by pond that I choose");
    await hand.tick(rows.getByLabel("Birch holdout"));
    await hand.tick(rows.getByLabel("Elder holdout"));
    await hand.tick(rows.getByLabel("Cedar blind holdout"));
    const parts = rows.getByTestId("division");
    await expect(parts.getByRole("row", { name: /^Training/ })).toContainText("180");
    await expect(parts.getByRole("row", { name: /^Holdout/ })).toContainText("120");
    await expect(parts.getByRole("row", { name: /^Blind/ })).toContainText("60");
    await hand.press(rows.getByRole("button", { name: "Save", exact: true }));
    await expect(page.getByText("Saved as version 3 of the file.")).toBeVisible();

    await hand.press(page.getByRole("button", { name: /^Train “/ }).first());
    await openVersion(page, hand, /^version 1, holdout RMSE/);
    await expect(page.getByTestId("RMSE")).toBeVisible();
    await expect(page.getByText("on 180 rows")).toBeVisible();
    await hand.press(page.getByRole("button", { name: "Open", exact: true }));
    await hand.press(page.getByRole("alertdialog").getByRole("button", { name: "Open" }));
    await expect(page.getByTestId("blind")).toContainText("RMSE");
    await hand.press(page.getByRole("link", { name: "Errors" }));
    await hand.select(page.getByRole("combobox", { name: "residuals by" }), "depth_m");
    await expect(page.getByRole("img", { name: "Actual and predicted by depth_m" })).toBeVisible();
    await hand.press(page.getByRole("button", { name: "blind rows" }));
    await expect(page).toHaveURL(/part=blind/);
    await expect(page.getByRole("img", { name: "Actual and predicted by depth_m" })).toBeVisible();
    expect(hand.actions).toBeLessThanOrEqual(30);
    expect(broken).toEqual([]);
  });
}

const KILN =
  "(batch integer PRIMARY KEY, clay text, heat_c double precision, hours double precision, cracked boolean)";

/** Batches of a made-up pottery: hot and short firings crack. */
function batches(from: number, count: number): readonly string[] {
  const rows = Array.from({ length: count }, (_, index) => {
    const batch = from + index;
    const [heat, hours] = [900 + 400 * noise(batch), 4 + 10 * noise(batch + 5000)];
    const clay = ["red", "white", "grey"][batch % 3]!;
    const risk = (heat - 1100) / 80 - (hours - 9) / 3 + (clay === "red" ? 1 : 0);
    const cracked = noise(batch + 9000) < 1 / (1 + Math.exp(-risk));
    return [batch, clay, heat.toFixed(1), hours.toFixed(2), cracked].join(",");
  });
  return ["batch,clay,heat_c,hours,cracked", ...rows];
}

for (const by of ["mouse", "keyboard"] as const) {
  test(`one table trains and another one judges, from an .sql file and two CSV files, by ${by}`, async ({
    page,
  }) => {
    const broken = watch(page);
    const hand = new Hand(page, by);
    const [fit, check] = [`kiln_fit_${by}`, `kiln_check_${by}`];
    await open(page, "/tables");
    await hand.press(page.getByRole("link", { name: "Import a file" }));
    await hand.give(page.getByLabel("File to import"), {
      name: "kiln.sql",
      mimeType: "text/plain",
      buffer: Buffer.from(`CREATE TABLE ${fit} ${KILN};\nCREATE TABLE ${check} ${KILN};\n`),
    });
    await expect(page.getByRole("table", { name: check }).getByRole("row", { name: /^batch/ })).toContainText(
      "key",
    );
    await hand.press(page.getByRole("button", { name: "Create 2 tables" }));
    await expect(page.getByText(`Created imported.${fit}`)).toBeVisible();
    // The keys of the two tables are the same numbers: they name different batches.
    for (const [table, lines] of [
      [check, batches(1, 200)],
      [fit, batches(1, 600)],
    ] as const) {
      if (table === fit) await hand.press(page.getByRole("link", { name: "Import another" }));
      await hand.give(page.getByLabel("File to import"), csv(`${table}.csv`, lines));
      await hand.tick(page.getByLabel("append to the table"));
      await hand.press(page.getByRole("button", { name: /^Load/ }));
      await expect(page.getByText(`rows loaded into imported.${table}.`)).toBeVisible();
    }
    await hand.press(page.getByRole("link", { name: "New pipeline from this table" }));
    await hand.select(page.getByLabel("Target", { exact: true }), "cracked");
    await hand.press(page.getByRole("button", { name: "Create pipeline" }));
    await expect(page).toHaveURL(/\/braid/);
    await hand.press(
      page.getByRole("navigation", { name: "Stages of the pipeline" }).getByRole("link", { name: /Train/ }),
    );
    const rows = page.getByRole("form", { name: "Validation" });
    await hand.select(rows.getByLabel("Hold out"), "the rows of another table");
    await hand.select(rows.getByLabel("Table"), `imported.${check}`);
    const parts = rows.getByTestId("division");
    await expect(parts.getByRole("row", { name: /^Training/ })).toContainText("600");
    await expect(parts.getByRole("row", { name: /^Holdout/ })).toContainText("200");
    await hand.press(rows.getByRole("button", { name: "Save", exact: true }));
    await expect(page.getByText("Saved as version 2 of the file.")).toBeVisible();
    await hand.press(page.getByRole("button", { name: /^Train “/ }).first());
    await openVersion(page, hand, /^version 1, holdout AUC/);
    await expect(page.getByText("on 600 rows")).toBeVisible();
    await expect(page.getByText("evaluated on 200 held out")).toBeVisible();
    await hand.press(page.getByRole("link", { name: "Rows", exact: true }));
    await expect(page.getByTestId("judged-rows")).toBeVisible();
    expect(hand.actions).toBeLessThanOrEqual(25);
    expect(broken).toEqual([]);
  });
}
