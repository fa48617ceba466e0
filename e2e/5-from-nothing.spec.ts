import { expect, test, type Locator, type Page } from "@playwright/test";
import { choose } from "./choose";
import { open, watch } from "./watch";

/** What a person would have written by hand. */
const BY_HAND = `ravlen: 1
name: heavy-parcels

brief:
  question: Which parcels are left too long?

strands:
  - name: parcels
    from: larkmere.parcels
    steps:
      - do: derive
        name: target
        columns:
          target: collected_at > delivered_at + interval '72 hours'
      - do: filter
        where: delivered_at is not null
      - do: join
        with: sites
        on: [site_id]
        take: [setting, sheltered]
      - do: fill
        columns: [weight_g]
        with: median
        name: fill weight
      - do: encode
        columns: [setting]
      - do: scale
        columns: [weight_g]
        method: robust
      - do: keep
        columns: [parcel_id, target, weight_g, setting, sheltered]

  - name: sites
    from: larkmere.sites

roles:
  key: [parcel_id]
  target:
    column: target
    kind: binary

rows:
  from: parcels

candidates:
  - name: logistic regression
    algorithm: logistic_regression
    settings:
      ridge: 0.001
  - name: base rate
    algorithm: base_rate
`;

const form = (page: Page): Locator => page.getByTestId("step-form");

/** Types into the open palette and takes what it finds first. */
async function takeFirst(page: Page, words: string): Promise<void> {
  await expect(page.getByPlaceholder(/^Add a step/)).toBeFocused();
  await page.keyboard.type(words);
  await expect(page.getByTestId("add-step").getByRole("option").first()).toContainText(
    new RegExp(words.split(" ")[0]!, "i"),
  );
  await page.keyboard.press("Enter");
}

/** Adds a step by the palette, at the end of what is there. */
async function add(page: Page, words: string): Promise<void> {
  const shown = (): Promise<string> =>
    page.getByRole("heading", { level: 2, name: / · \d/ }).allTextContents().then(String);
  const before = await shown();
  await page.getByRole("button", { name: "Add a step", exact: true }).click();
  await takeFirst(page, words);
  // The form of the step before stays until the new one is there.
  await expect.poll(shown).not.toBe(before);
  await expect(form(page)).toBeVisible();
}

test("a pipeline built from nothing in the browser is the file that a person would have written", async ({
  page,
}) => {
  const broken = watch(page);
  await page.goto("/pipelines/new");
  await page.getByLabel("Question").fill("Which parcels are left too long?");
  await choose(page.getByLabel("Table", { exact: true }), "larkmere.parcels");
  await expect(page.getByRole("group", { name: "Key" }).getByLabel("parcel_id")).toBeChecked();
  await choose(page.getByLabel("Target", { exact: true }), "=");
  await expect(page.getByRole("button", { name: "Create pipeline" })).toHaveAccessibleDescription(
    "Enter the expression for the target.",
  );
  await page
    .getByLabel("Expression", { exact: true })
    .fill("collected_at > delivered_at + interval '72 hours'");
  await expect(page.getByRole("table", { name: "Shares of target values" })).toContainText("true");
  // Everything is done in the Braid here, by hand.
  for (const proposed of await page.getByRole("group", { name: "Preparation" }).getByRole("checkbox").all())
    await proposed.uncheck();
  await page.getByLabel("Name").fill("heavy-parcels");
  await page.getByRole("button", { name: "Create pipeline" }).click();
  await expect(page).toHaveURL(/heavy-parcels\/braid/);

  await test.step("pick a column and say what to do with it", async () => {
    await page.getByRole("button", { name: "delivered_at", exact: true }).click();
    const verbs = page.getByTestId("verbs");
    await expect(verbs).toContainText("delivered_at");
    await verbs.getByRole("button", { name: "more …" }).click();
    await takeFirst(page, "filter rows");
    await expect(form(page).getByRole("textbox", { name: "where" })).toHaveText("delivered_at is not null");
  });

  await test.step("join a table that is no strand yet", async () => {
    await add(page, "join a strand");
    await expect(page.getByText("incomplete")).toBeVisible();
    await choose(form(page).getByLabel("strand to join"), "table:larkmere.sites");
    await form(page).getByRole("button", { name: "pair of columns" }).click();
    await choose(form(page).getByLabel("Add to columns to add"), "setting");
    await expect(form(page).getByText("setting", { exact: true })).toBeVisible();
    await choose(form(page).getByLabel("Add to columns to add"), "sheltered");
    await page.getByRole("tab", { name: "Join matches" }).click();
    await expect(page.getByTestId("join-diagnosis")).toContainText("None: each row matches at most one.");
  });

  await test.step("fill, encode and scale by verbs", async () => {
    await page.getByRole("button", { name: "weight_g", exact: true }).click();
    await page.getByTestId("verbs").getByRole("button", { name: "Fill missing values" }).click();
    await form(page).getByLabel("name", { exact: true }).fill("fill weight");
    await expect(page.getByRole("button", { name: /^fill weight/ })).toBeVisible();
    await page.getByRole("button", { name: "setting", exact: true }).click();
    await page.getByTestId("verbs").getByRole("button", { name: "One-hot encode" }).click();
    await expect(page.getByRole("button", { name: /^one-hot encode setting/ })).toBeVisible();
    await page.getByRole("button", { name: "weight_g", exact: true }).click();
    await page.getByTestId("verbs").getByRole("button", { name: "Scale numbers" }).click();
    await choose(form(page).getByLabel("method"), "robust");
  });

  await test.step("a change upstream marks what no longer fits, and undo mends it", async () => {
    await add(page, "keep columns");
    for (const name of ["parcel_id", "target", "weight_g", "setting", "sheltered"]) {
      await choose(form(page).getByLabel("Add to columns"), name);
      await expect(form(page).getByRole("button", { name: `Remove ${name}` })).toBeVisible();
    }
    await page.getByTestId("braid").focus();
    await page.keyboard.press("Home");
    await page.keyboard.press("Delete");
    await expect(page.getByRole("status").filter({ hasText: /error/ })).toBeVisible();
    await page.getByTestId("braid").focus();
    await page.keyboard.press("Control+z");
    await expect(page.getByText("exact row counts")).toBeVisible();
  });

  await page.getByRole("button", { name: "Save version" }).click();
  await page
    .getByRole("dialog")
    .getByLabel(/^Reason \(stored/)
    .fill("first features");
  await page.getByRole("dialog").getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText("Saved as version 2.")).toBeVisible();
  await expect(page.getByTestId("keeping")).toHaveText("version 2");
  await page.goto("/pipelines/heavy-parcels/history?from=2&to=2");
  expect(await page.getByTestId("difference").locator("pre").textContent()).toBe(BY_HAND);
  expect(broken).toEqual([]);
});

test("steps are moved where the order allows it, switched off, copied to another pipeline; all by keyboard", async ({
  page,
}) => {
  await page.goto("/pipelines/heavy-parcels/braid?step=parcels:4");
  const braid = page.getByTestId("braid");
  await expect(page.getByText("exact row counts")).toBeVisible();
  await braid.focus();
  // Nothing that is learned may stand before the rows are joined; further left than the join it is refused with the reason.
  await page.keyboard.press("Alt+ArrowRight");
  await expect(page).toHaveURL(/step=parcels:5/);
  await expect(page.getByText("reading the draft")).toHaveCount(0);
  await page.keyboard.press("Alt+ArrowLeft");
  await expect(page).toHaveURL(/step=parcels:4/);
  await expect(page.getByText("reading the draft")).toHaveCount(0);
  await page.keyboard.press("End");
  await expect(page).toHaveURL(/step=parcels:7/);
  // Faster than they are checked and drawn: every move starts from where the last one put the step.
  for (let press = 0; press < 3; press += 1) await page.keyboard.press("Alt+ArrowLeft");
  await expect(page).toHaveURL(/step=parcels:4/);
  await page.keyboard.press("Alt+ArrowLeft");
  await expect(page.getByText(/cannot be moved further left/).first()).toBeVisible();
  await page.keyboard.press("o");
  await expect(page.getByText("off").first()).toBeVisible();
  await page.keyboard.press("d");
  await expect(page).toHaveURL(/step=parcels:[4-8]/);
  await page.keyboard.press("Control+c");
  await expect(page.getByText(/copied; paste it here or in another pipeline/).first()).toBeVisible();
  await page.getByRole("button", { name: /^Revert to version/ }).click();
  await expect(page.getByTestId("keeping")).toHaveText(/version 2/);
  await page.goto("/pipelines/message-topic/braid");
  await page.getByRole("button", { name: "Paste copied steps" }).click();
  await expect(page.getByText("draft saved")).toBeVisible();
  await expect(page.getByRole("status").filter({ hasText: /error/ })).toHaveCount(0);
  await page.getByRole("button", { name: /^Revert to version/ }).click();
  // The draft is gone on the server too, before others go on with the pipeline.
  await expect(page.getByRole("button", { name: /^Revert to version/ })).toHaveCount(0);
});

test("a draft that is thrown away stays away, however busy the page is just then", async ({ page }) => {
  await open(page, "/pipelines/uncollected-72h/braid?step=parcels:4");
  await expect(page.getByText("exact row counts")).toBeVisible();
  const version = (await page.getByTestId("keeping").textContent())!;
  // The moment to keep the last change comes exactly when the page has just gone back, before it has cleared up after itself.
  await page.evaluate((wanted) => {
    const [later, never] = [window.setTimeout.bind(window), window.clearTimeout.bind(window)];
    const due = new Map<number, () => void>();
    let changed = false;
    Object.assign(window, {
      setTimeout: (work: () => void, wait: number) => {
        if (wait !== 600) return later(work, wait);
        const id = 1e9 + due.size;
        due.set(id, work);
        return id;
      },
      clearTimeout: (id: number) => {
        if (!due.delete(id)) never(id);
      },
    });
    new MutationObserver(() => {
      const same = document.querySelector("[data-testid=keeping]")?.textContent === wanted;
      if (same && changed) for (const work of due.values()) work();
      changed ||= !same;
    }).observe(document.body, { subtree: true, childList: true, characterData: true });
  }, version);
  await page.getByTestId("braid").focus();
  await page.keyboard.press("d");
  await page.getByRole("button", { name: /^Revert to version/ }).click();
  await expect(page.getByTestId("keeping")).toHaveText(version);
  await page.waitForLoadState("networkidle");
  await open(page, "/pipelines/uncollected-72h/braid");
  await expect(page.getByTestId("keeping")).toHaveText(version);
});

test("a step is put elsewhere by dragging it", async ({ page }) => {
  await page.goto("/pipelines/heavy-parcels/braid");
  await expect(page.getByText("exact row counts")).toBeVisible();
  const from = (await page
    .getByRole("button", { name: /^one-hot encode setting/ })
    .first()
    .boundingBox())!;
  const to = (await page
    .getByRole("button", { name: /^fill weight/ })
    .first()
    .boundingBox())!;
  await page.mouse.move(from.x + 30, from.y + 20);
  await page.mouse.down();
  await page.mouse.move(to.x + 30, to.y + 22, { steps: 8 });
  // Nobody lets go before the place they hold the step over is marked.
  await expect(page.locator("[data-drop-here]").getByRole("button", { name: /^fill weight/ })).toBeVisible();
  await page.mouse.up();
  await expect(page).toHaveURL(/step=parcels:4/);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByTestId("keeping")).toHaveText(/version 2/);
});

test("two people at one draft: the later save is told, and nothing is lost", async ({ browser, baseURL }) => {
  const openPage = async (): Promise<Page> => {
    const page = await (await browser.newContext({ baseURL: baseURL! })).newPage();
    await page.goto("/pipelines/heavy-parcels/braid?step=parcels:4&tray=settings");
    await expect(form(page)).toBeVisible();
    return page;
  };
  const [anna, bert] = [await openPage(), await openPage()];
  await form(anna).getByLabel("note").fill("Anna was here");
  await expect(anna.getByTestId("keeping")).toHaveText("draft saved");
  await form(bert).getByLabel("note").fill("Bert was here");
  await expect(bert.getByTestId("meanwhile")).toContainText("Another user changed this draft");
  await bert.getByRole("button", { name: "Compare both" }).click();
  const both = bert.getByRole("dialog");
  await expect(both.getByRole("row", { name: /note/ })).toContainText("Bert was here");
  await both.getByLabel(/note: theirs/).check();
  await both.getByRole("button", { name: "Take 1 of theirs into mine" }).click();
  await expect(form(bert).getByLabel("note")).toHaveValue("Anna was here");
  // Undo lasts beyond the page.
  await bert.reload();
  await bert.getByRole("button", { name: "Undo" }).click();
  await expect(form(bert).getByLabel("note")).toHaveValue("Bert was here");
  await expect(bert.getByTestId("keeping")).toHaveText("draft saved");
  await bert.getByRole("link", { name: /History/ }).click();
  const aside = bert.getByRole("region", { name: "Drafts set aside" });
  await aside
    .getByRole("row", { name: /of the other user/ })
    .getByRole("button", { name: "Use as draft" })
    .click();
  await expect(bert).toHaveURL(/braid/);
  await bert.goto("/pipelines/heavy-parcels/braid?step=parcels:4&tray=settings");
  await expect(form(bert).getByLabel("note")).toHaveValue("Anna was here");
  await bert.getByRole("button", { name: /^Revert to version/ }).click();
  await expect(bert.getByTestId("keeping")).toHaveText(/version 2/);
});

test("one row is followed, and a share of the rows says so until it is lifted", async ({ page }) => {
  await page.goto("/pipelines/uncollected-72h/braid?follow=7000003");
  const follow = page.getByTestId("follow");
  await expect(follow).toContainText("joined with this row of sites");
  await follow.getByLabel("parcel_id").fill("1");
  await follow.getByRole("button", { name: "Follow", exact: true }).click();
  await expect(follow).toContainText("No row has this key.");
  await choose(page.getByLabel("Share of rows to preview"), "0.1");
  await expect(page.getByTestId("share-notice")).toContainText("10 % of the rows.");
  await page.getByRole("button", { name: "Use all rows" }).click();
  await expect(page.getByTestId("share-notice")).toHaveCount(0);
});

test("regions are drawn over points, and the step keeps them", async ({ page }) => {
  await page.goto("/pipelines/latch-wear/braid?step=readings:3&tray=settings");
  await page.getByRole("button", { name: "Larger tray" }).click();
  await expect(page.getByText(/points, sampled by hash/)).toBeVisible();
  const plot = page.getByTestId("regions");
  await plot.scrollIntoViewIfNeeded();
  const box = (await plot.boundingBox())!;
  await form(page).getByLabel("Label of the next region").fill("odd");
  await page.mouse.move(box.x + 80, box.y + 200);
  await page.mouse.down();
  await page.mouse.move(box.x + 180, box.y + 260, { steps: 5 });
  await page.mouse.up();
  await expect(form(page).getByLabel("Region 3", { exact: true })).toHaveValue("odd");
  await page.getByRole("tab", { name: "Before and after" }).click();
  await expect(page.getByTestId("tray")).toContainText("odd");
  await page.getByRole("button", { name: /^Revert to version/ }).click();
  // The draft is gone on the server too, before others go on with the pipeline.
  await expect(page.getByRole("button", { name: /^Revert to version/ })).toHaveCount(0);
});

test("Train says that the draft is not saved, and saves and trains it", async ({ page }) => {
  await open(page, "/pipelines/heavy-parcels/braid?step=parcels:4&tray=settings");
  const stages = page.getByRole("navigation", { name: "Stages of the pipeline" });
  await expect(stages.getByRole("link", { name: /Braid/ })).toContainText("7 steps");
  await form(page).getByLabel("note").fill("weights are missing where the scale was broken");
  await expect(stages.getByRole("link", { name: /Braid/ })).toContainText("7 steps, not saved");
  await expect(page.getByTestId("keeping")).toHaveText("draft saved");
  await stages.getByRole("link", { name: /Train/ }).click();
  const unsaved = page.getByRole("region", { name: "Unsaved draft" });
  await expect(unsaved).toContainText("What is trained below is version 2 of the file.");
  await expect(stages.getByRole("link", { name: /Braid/ })).toContainText("7 steps, not saved");
  await unsaved.getByRole("button", { name: "Save and train" }).click();
  await expect(unsaved).toHaveCount(0);
  await expect(page.getByText("version 3", { exact: false }).first()).toBeVisible();
  await expect(page.getByRole("region", { name: "Latest training run" })).toContainText(
    /version 1, holdout AUC/,
    {
      timeout: 60_000,
    },
  );
});
