import { expect, test, type Page } from "@playwright/test";
import { readFileSync } from "node:fs";
import path from "node:path";
import pg from "pg";
import { somebody as ask } from "./warehouse";

const BRAID = "/pipelines/uncollected-72h/braid?file=true";
const editor = (page: Page) => page.getByLabel("Pipeline file");

/** Replaces the whole text, as pasting a file would. */
async function write(page: Page, text: string): Promise<void> {
  await editor(page).click();
  await page.keyboard.press("Control+a");
  await page.evaluate((value) => {
    const data = new DataTransfer();
    data.setData("text/plain", value);
    document.activeElement!.dispatchEvent(
      new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }),
    );
  }, text);
}

/** How many versions of the file there are, in the words of its page. */
const saved = async (page: Page): Promise<string | undefined> =>
  /\d+ versions? of the file/.exec(
    await (await page.request.get("/pipelines/uncollected-72h/history")).text(),
  )?.[0];

test("a mistake is shown at its line and can not be saved; mended, it becomes a version with its difference", async ({
  page,
}) => {
  const text = readFileSync("demo/uncollected-72h.yaml", "utf8");
  await page.goto(BRAID);
  await write(page, text.replace("where: delivered_at is not null", "where: deliverd_at is not null"));
  await expect(page.getByText('There is no column "deliverd_at" here.')).toBeVisible();
  await expect(page.getByText('Did you mean "delivered_at"?').first()).toBeVisible();
  await expect(page.getByRole("button", { name: "Save version" })).toBeDisabled();
  await page
    .getByRole("button", { name: /^Line \d+\.$/ })
    .first()
    .click();
  await expect(page.locator(".cm-activeLine")).toContainText("deliverd_at");

  await write(page, text.replace("seed: 7", "seed: 8"));
  await expect(page.getByText("valid; shown in the Braid")).toBeVisible();
  await expect(page.getByTestId("keeping")).toHaveText("draft saved");
  await page.getByRole("button", { name: "Save version" }).click();
  const dialog = page.getByRole("dialog");
  await expect(dialog).toContainText("removed:   seed: 7");
  await expect(dialog).toContainText("added:   seed: 8");
  await dialog.getByLabel(/^Reason \(stored/).fill("another split");
  await dialog.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText("Saved as version 3.")).toBeVisible();
  await page.getByRole("link", { name: /History/ }).click();
  await expect(page.getByText("another split")).toBeVisible();
});

test("completion offers steps, tables and settings with their meaning", async ({ page }) => {
  await page.goto("/pipelines/new");
  await page.getByRole("button", { name: "Paste a file instead" }).click();
  await editor(page).click();
  await page.keyboard.press("Control+a");
  await page.keyboard.type("ravlen: 1\nstrands:\n- name: a\nfrom: larkmere.si");
  await page.keyboard.press("Control+Space");
  await expect(page.getByRole("option", { name: /larkmere\.sites/ })).toBeVisible();
  await page.keyboard.press("Escape");
  await page.keyboard.type("tes\nsteps:\n- do: ");
  await page.keyboard.press("Control+Space");
  await expect(page.getByRole("option", { name: /fill.*Fill missing values/ })).toBeVisible();
});

test("SQL typed in order to break out is refused, and nothing is saved", async ({ page }) => {
  await page.goto(BRAID);
  await expect(editor(page)).toBeVisible();
  const before = await saved(page);
  expect(before).toMatch(/version/);
  for (const attack of [
    "1; DROP TABLE larkmere.parcels",
    "(SELECT passwd FROM pg_shadow)",
    "pg_sleep(100) is null",
    "true) OR pg_read_file('/etc/passwd') IS NOT NULL --",
  ]) {
    const response = await page.request.post("/api/check", {
      headers: { origin: new URL(page.url()).origin },
      data: {
        text: `ravlen: 1\nname: x\nstrands: [{name: r, from: larkmere.parcels, steps: [{do: filter, where: ${JSON.stringify(attack)}}]}]\nroles: {key: [parcel_id], target: {column: size_class, kind: binary, positive: S}}\nrows: {from: r, train: true, score: true}\ncandidates: [{name: c, algorithm: logistic_regression}]`,
      },
    });
    const { ok, problems } = (await response.json()) as {
      ok: boolean;
      problems: { location?: { line?: number } }[];
    };
    expect(ok).toBe(false);
    expect(problems[0]!.location?.line).toBe(3);
  }
  expect(await saved(page)).toBe(before);
  // A page of another origin can not make a change at all.
  expect(
    (
      await page.request.post("/api/check", {
        headers: { origin: "http://evil.example" },
        data: { text: "" },
      })
    ).status(),
  ).toBe(403);
});

const ONE_CLASS = `ravlen: 1
name: one-class
strands: [{name: rows, from: larkmere.parcels, steps: [{do: derive, columns: {never: weight_g < 0, weight: "coalesce(weight_g, 0)"}}, {do: keep, columns: [parcel_id, never, weight]}]}]
roles: {key: [parcel_id], target: {column: never, kind: binary}}
rows: {from: rows, train: never is not null, score: never is null}
candidates: [{name: plain, algorithm: logistic_regression}]
`;

test("a run that fails says what happened and what to do, on its page and on Today", async ({ page }) => {
  await page.goto("/pipelines/new");
  await page.getByRole("button", { name: "Paste a file instead" }).click();
  await write(page, ONE_CLASS);
  await expect(page.getByText("valid; shown in the Braid")).toBeVisible();
  await page.getByRole("button", { name: "Create pipeline" }).click();
  await expect(page).toHaveURL(/\/pipelines\/one-class\/braid/);
  await page
    .getByRole("navigation", { name: "Stages of the pipeline" })
    .getByRole("link", { name: /Train/ })
    .click();
  await page
    .getByRole("button", { name: /^Train/ })
    .first()
    .click();
  await expect(page.getByRole("region", { name: "Latest training run" })).toContainText(
    /training rows have the same target value/,
  );
  await page.getByRole("link", { name: "its run" }).click();
  await expect(page.getByTestId("run-state")).toHaveText("failed");
  await expect(page.getByText(/training rows have the same target value/).first()).toBeVisible();
  await page.getByRole("link", { name: "Today", exact: true }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("1 alert needs attention.");
  await expect(
    page.getByText("Check the target column and its positive value; training needs two classes."),
  ).toBeVisible();
  await page.getByRole("button", { name: "Run again" }).click();
  await expect(page).toHaveURL(/\/runs\//);
  await expect(page.getByText("rerun", { exact: true })).toBeVisible();
});

test("a run that waits for a locked table shows where it is, and can be cancelled", async ({ page }) => {
  const home = process.env["RAVLEN_HOME"] ?? ".ravlen";
  const { databasePort } = JSON.parse(readFileSync(path.join(home, "instance.json"), "utf8")) as {
    databasePort: number;
  };
  const somebody = new pg.Client({
    host: "127.0.0.1",
    port: databasePort,
    user: "ravlen_admin",
    password: readFileSync(path.join(home, "superuser-password"), "utf8").trim(),
    database: "ravlen_warehouse",
  });
  await somebody.connect();
  try {
    await page.goto("/pipelines/uncollected-72h/train");
    await somebody.query("BEGIN; LOCK TABLE larkmere.recipients IN ACCESS EXCLUSIVE MODE");
    await page.getByRole("button", { name: "Train “plain logistic”" }).click();
    await page.getByRole("link", { name: "its run" }).click();
    await expect(page.getByTestId("run-state")).toHaveText("running");
    await expect(page.getByRole("list", { name: "Steps of the run" })).toContainText("running");
    await page.getByRole("button", { name: "Cancel" }).click();
    await expect(page.getByTestId("run-state")).toHaveText("cancelled");
    await expect(
      page.getByText("Cancelled; scratch tables were dropped and nothing was delivered."),
    ).toBeVisible();
    await expect(page.getByRole("button", { name: "Run again" })).toBeVisible();
  } finally {
    await somebody.end();
  }
});

test("a question of a draft ends in the warehouse when whoever asked it goes away", async ({ page }) => {
  const asked = () =>
    ask(
      "SELECT 1 FROM pg_stat_activity WHERE state = 'active' AND query LIKE '%never_ending%' AND pid <> pg_backend_pid()",
    );
  const stop = new AbortController();
  const text = `ravlen: 1
name: slow
strands:
  - name: never_ending
    from: larkmere.parcels
    steps:
      - {do: sql, select: "select a.*, row_number() over (order by b.weight_g, c.weight_g) as place from strand a join strand b on a.carrier = b.carrier join strand c on b.carrier = c.carrier"}
roles:
  key: [parcel_id]
  target: {column: weight_g, kind: number}
rows: {from: never_ending, train: weight_g is not null, score: weight_g is null}
candidates: [{name: base, algorithm: base_rate}]
`;
  await page.goto("/tables");
  const origin = new URL(page.url()).origin;
  const answer = fetch(`${origin}/api/draft/counts`, {
    method: "POST",
    headers: { origin, "content-type": "application/json" },
    body: JSON.stringify({ text, share: 1, strand: "never_ending", after: 1 }),
    signal: stop.signal,
  }).then(
    (response) => response.text(),
    () => "gone",
  );
  await expect.poll(async () => (await asked()).length, { timeout: 60_000 }).toBeGreaterThan(0);
  stop.abort();
  expect(await answer).toBe("gone");
  await expect.poll(async () => (await asked()).length, { timeout: 20_000 }).toBe(0);
});

test("what does not exist is said, with a way back", async ({ page }) => {
  for (const url of [
    "/pipelines/nothing/braid",
    "/tables/larkmere/nothing",
    "/models/999999",
    "/runs/00000000-0000-4000-8000-000000000000",
    "/nowhere",
  ]) {
    expect((await page.goto(url))!.status()).toBe(404);
    await expect(page.getByRole("heading", { name: "Not found" })).toBeVisible();
    await expect(page.getByRole("main").getByRole("link").first()).toBeVisible();
  }
  // A browser asks for this one by itself.
  expect((await page.request.get("/favicon.ico")).ok()).toBe(true);
});

test("the dark look stays, and reduced motion is respected", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("button", { name: "Use dark mode" }).click();
  await page.goto("/tables");
  await expect(page.locator("html")).toHaveAttribute("data-theme", "dark");
});
