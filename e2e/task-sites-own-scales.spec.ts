import { expect, test } from "@playwright/test";
import { Hand } from "./hand";
import { somebody } from "./warehouse";
import { open, watch } from "./watch";

const WEIRS = ["Ashford", "Birk", "Cole", "Dunn", "Esk"] as const;
const HOURS = 120;
/** From this hour on nobody has looked at level and cloud. */
const UNSEEN_FROM = 90;
const NEW_WEIR = "Fenn";
const NEW_HOURS = 12;
/** Rows of its own that a weir needs before a row can be held against them. */
const LEAST = 5;

/** A number around 0 that depends on a row alone. */
const noise = (row: number): number => 2 * (Math.abs(Math.sin(row * 78.233) * 43758.5453) % 1) - 1;

interface State {
  readonly level: number;
  readonly cloud: number;
}

/** What a made-up weir is like in an hour, on a scale that no instrument has. */
const stateOf = (weir: number, hour: number): State => ({
  level: 1.6 * noise(1000 * weir + hour),
  cloud: 1.6 * noise(500_000 + 1000 * weir + hour),
});

/**
 * Readings of the weirs: each instrument has a scale of its own. Level and cloud are looked at by hand,
 * hum and sway are not.
 */
function readings(): readonly string[] {
  const rows = [...WEIRS, NEW_WEIR].flatMap((name, weir) =>
    Array.from({ length: name === NEW_WEIR ? NEW_HOURS : HOURS }, (_, hour) => {
      const { level, cloud } = stateOf(weir, hour);
      const [scale, start] = [10 ** (weir - 2), 50 * weir];
      const seen = name !== NEW_WEIR && hour < UNSEEN_FROM;
      const own = (value: number): string => (start + scale * value).toFixed(6);
      return [
        1000 * weir + hour,
        name,
        new Date(Date.UTC(2031, 3, 1 + Math.floor(hour / 24), hour % 24)).toISOString().slice(0, 19),
        seen ? own(level) : "",
        seen ? own(cloud) : "",
        own(level + 0.1 * noise(9_000_000 + 1000 * weir + hour)),
        own(cloud + 0.1 * noise(8_000_000 + 1000 * weir + hour)),
      ].join(",");
    }),
  );
  return ["reading,weir,taken_at,level,cloud,hum,sway", ...rows];
}

for (const by of ["mouse", "keyboard"] as const) {
  test(`five sites on scales of their own are labelled by regions and judged by site, and a new one is answered from its own rows, by ${by}`, async ({
    page,
  }) => {
    const broken = watch(page);
    const hand = new Hand(page, by);
    const table = `weirs_by_${by}`;
    await open(page, "/tables");
    await hand.press(page.getByRole("link", { name: "Import a file" }));
    await hand.give(page.getByLabel("File to import"), {
      name: `${table}.csv`,
      mimeType: "text/csv",
      buffer: Buffer.from(`${readings().join("\n")}\n`),
    });
    await hand.press(page.getByRole("button", { name: /^Load/ }));
    await hand.press(page.getByRole("link", { name: "New pipeline from this table" }));
    await hand.select(page.getByLabel("Target", { exact: true }), "labels from regions");
    await hand.select(page.getByLabel("Horizontal axis"), "level");
    await hand.select(page.getByLabel("Vertical axis"), "cloud");
    await hand.select(page.getByLabel("Normalise per"), "weir");
    const regions = [
      ["flood", "0.5, -9; 9, -9; 9, 9; 0.5, 9"],
      ["murky", "-9, 0.5; 0.5, 0.5; 0.5, 9; -9, 9"],
    ] as const;
    for (const [index, [label, corners]] of regions.entries()) {
      await hand.press(page.getByRole("button", { name: "region by its corners" }));
      await hand.type(page.getByLabel(`Region ${index + 1}`, { exact: true }), label, false);
      await hand.type(page.getByLabel(`Corners of region ${index + 1}`), corners, false);
    }
    await hand.type(page.getByLabel("Label outside"), "calm", false);
    await hand.press(page.getByRole("button", { name: "Create pipeline" }));
    await expect(page).toHaveURL(/\/braid/);

    const stages = page.getByRole("navigation", { name: "Stages of the pipeline" });
    await hand.press(stages.getByRole("link", { name: /Train/ }));
    const rows = page.getByRole("form", { name: "Validation" });
    await hand.select(rows.getByLabel("Hold out"), "groups by weir that I choose");
    await hand.tick(rows.getByLabel("Birk holdout"));
    await hand.tick(rows.getByLabel("Dunn holdout"));
    await expect(rows.getByTestId("division").getByRole("row", { name: /^Holdout/ })).toContainText("170");
    await hand.press(rows.getByRole("button", { name: "Save", exact: true }));
    await expect(page.getByText("Saved as version 2 of the file.")).toBeVisible();
    await hand.press(page.getByRole("button", { name: /^Train “/ }).first());
    const version = page
      .getByRole("region", { name: "Latest training run" })
      .getByRole("link", { name: /^version 1, holdout/ });
    await expect(version).toBeVisible();
    await hand.press(version);
    await hand.press(page.getByRole("link", { name: "Segments" }));
    await hand.select(page.getByRole("region", { name: "By segment" }).getByLabel("by"), "weir");
    for (const weir of ["Birk", "Dunn"])
      await expect(page.getByRole("row", { name: new RegExp(`^${weir} 85`) })).toBeVisible();

    await hand.press(page.getByRole("button", { name: "Put in service" }));
    await hand.press(page.getByRole("button", { name: "Put in service" }));
    await expect(page.getByRole("button", { name: "Take out of service" })).toBeVisible();
    const pipeline = (await page.getByRole("heading", { level: 1 }).textContent())!.split(",")[0]!;
    await hand.press(page.getByRole("link", { name: "Deliver", exact: true }));
    await hand.press(page.getByRole("button", { name: "Add delivery" }));
    const form = page.getByRole("dialog");
    await hand.select(form.getByLabel("unanswered"), "leave out");
    await hand.press(form.getByRole("button", { name: "Save" }));
    await hand.press(
      page.getByRole("row", { name: /^predictions / }).getByRole("button", { name: "Score now" }),
    );
    // The first rows of each weir have no past to be held against, and are told to be without an answer.
    const early = LEAST * (WEIRS.length + 1);
    await expect(
      page.getByText(`${early} rows could not be predicted`, { exact: false }).first(),
    ).toBeVisible();

    const made = `predictions."${pipeline.replaceAll("-", "_")}"`;
    const scored = await somebody(`SELECT reading, prediction FROM ${made} WHERE prediction IS NOT NULL`);
    const answered = scored.map(({ reading, prediction }) => ({
      weir: Math.floor(Number(reading) / 1000),
      hour: Number(reading) % 1000,
      prediction: String(prediction),
    }));
    const newOnes = answered.filter(({ weir }) => weir === WEIRS.length);
    expect(newOnes.map(({ hour }) => hour).toSorted((left, right) => left - right)).toEqual(
      Array.from({ length: NEW_HOURS - LEAST }, (_, index) => LEAST + index),
    );
    expect(answered).toHaveLength(WEIRS.length * (HOURS - UNSEEN_FROM) + NEW_HOURS - LEAST);
    const right = answered.filter(({ weir, hour, prediction }) => {
      const { level, cloud } = stateOf(weir, hour);
      const murky = cloud > 0.46 ? "murky" : "calm";
      return prediction === (level > 0.46 ? "flood" : murky);
    });
    expect(right.length / answered.length).toBeGreaterThan(0.8);
    expect(hand.actions).toBeLessThanOrEqual(45);
    expect(broken).toEqual([]);
  });
}
