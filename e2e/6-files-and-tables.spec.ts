import { expect, test } from "@playwright/test";
import { choose, expectChosen } from "./choose";
import { readFileSync } from "node:fs";
import { watch } from "./watch";

const ROUGH = `Bestell-Nr;Datum;Betrag;bezahlt\n${Array.from({ length: 300 }, (_, index) => `${String(index + 1).padStart(6, "0")};${String((index % 28) + 1).padStart(2, "0")}.03.2026;${(index * 1.37).toFixed(2).replace(".", ",")};${index % 3 ? "ja" : "nein"}`).join("\n")}\n000301;31.02.2026;1,00;ja\n000302;"offen;1,00\n`;

test("a file is looked at, corrected, stopped at what does not fit, and loaded without it", async ({
  page,
}) => {
  const broken = watch(page);
  await page.goto("/tables");
  await page.getByRole("link", { name: "Import a file" }).click();
  await page
    .getByLabel("File to import")
    .setInputFiles({ name: "orders.csv", mimeType: "text/csv", buffer: Buffer.from(ROUGH) });
  const look = page.getByTestId("look");
  await expect(look).toBeVisible();
  await expectChosen(page.getByLabel("Type of bestell_nr"), "text");
  await expectChosen(page.getByLabel("Order of dates in datum"), "dmy");
  await expectChosen(page.getByLabel("decimal mark"), ",");
  await expect(page.getByLabel("bestell_nr is part of the key")).toBeChecked();
  await page.getByLabel("Name of Betrag").fill("amount");
  await page.getByRole("button", { name: /^Load/ }).click();
  await expect(
    page.getByText(/2 rows do not fit; the first is line 302: datum: “31.02.2026” is not a date/),
  ).toBeVisible();
  await page.getByLabel("load the rest, save rejects to a file").check();
  await page.getByRole("button", { name: /^Load/ }).click();
  await expect(page.getByText("300 rows loaded into imported.orders.")).toBeVisible();
  const waiting = page.waitForEvent("download");
  await page.getByRole("link", { name: "Download rejects" }).click();
  expect(readFileSync(await (await waiting).path(), "utf8").split("\n")[1]).toBe(
    '302,"datum: “31.02.2026” is not a date (day, month, year)","000301;31.02.2026;1,00;ja"',
  );
  await page.getByRole("link", { name: "Open the table" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("orders");
  await expect(page.getByRole("grid").getByRole("gridcell", { name: "000001" })).toBeVisible();

  await page.getByRole("button", { name: "Describe orders" }).click();
  await page.getByLabel("Description of orders").fill("Orders from the old shop");
  await page.keyboard.press("Enter");
  await page.getByRole("link", { name: "Tables" }).first().click();
  await page.getByRole("searchbox").fill("old shop");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("link", { name: "orders", exact: true })).toBeVisible();
  await expect(page.getByRole("link", { name: "parcels", exact: true })).toHaveCount(0);

  await page.goto("/tables/import");
  await page
    .getByLabel("File to import")
    .setInputFiles({ name: "orders.csv", mimeType: "text/csv", buffer: Buffer.from(ROUGH) });
  await expect(page.getByText('A table "orders" already exists.')).toBeVisible();
  await expect(page.getByRole("button", { name: /^Load/ })).toBeDisabled();
  await page.getByLabel("replace the table").check();
  await expect(page.getByRole("button", { name: /^Load/ })).toBeEnabled();
  await page.getByLabel("Load bestell_nr").uncheck();
  await expect(page.getByLabel("bestell_nr is part of the key")).not.toBeChecked();
  expect(broken).toEqual([]);
});

test("what is no table is refused with what it is", async ({ page }) => {
  await page.goto("/tables/import");
  await page.getByLabel("File to import").setInputFiles({
    name: "really.csv",
    mimeType: "text/csv",
    buffer: Buffer.concat([Buffer.from("PK\u0003\u0004"), Buffer.alloc(50)]),
  });
  await expect(page.getByText("“really.csv” is damaged and cannot be unpacked.")).toBeVisible();
  await page.goto("/tables/import");
  await page.getByLabel("File to import").setInputFiles({
    name: "tables.sql",
    mimeType: "text/plain",
    buffer: Buffer.from("CREATE TABLE made_here (id integer PRIMARY KEY, at date);\nDROP TABLE sites;"),
  });
  await expect(
    page.getByRole("table", { name: "made_here" }).getByRole("row", { name: /^id/ }),
  ).toContainText("key");
  await expect(page.getByText(/Line 2\. Only CREATE TABLE and COMMENT ON TABLE are read/)).toBeVisible();
  await page.getByRole("button", { name: "Create 1 table" }).click();
  await expect(page.getByText("Created imported.made_here.")).toBeVisible();
});

test("several files become tables of their own, or one table where their columns agree", async ({ page }) => {
  const broken = watch(page);
  const month = (name: string, first: number) => ({
    name,
    mimeType: "text/csv",
    buffer: Buffer.from(
      `visit,guests\n${Array.from({ length: 40 }, (_, place) => `${first + place},${place % 7}`).join("\n")}\n`,
    ),
  });
  const give = async (): Promise<void> => {
    await page.goto("/tables/import");
    await page
      .getByLabel("File to import")
      .setInputFiles([month("march visits.csv", 1), month("april visits.csv", 41)]);
    await expect(page.getByRole("heading", { level: 1 })).toHaveText("2 files");
  };
  await give();
  await page.getByRole("button", { name: "Load 2 files, 80 rows" }).click();
  await expect(page.getByText("80 rows of 2 files are loaded.")).toBeVisible();
  await give();
  await expect(page.getByText('A table "march_visits" already exists.', { exact: false })).toBeVisible();
  await expect(page.getByRole("button", { name: /^Load 2 files/ })).toBeDisabled();
  await page.getByLabel("all into one table").check();
  await page.getByLabel("Table of march visits.csv").fill("all_visits");
  await page.getByRole("button", { name: "Load 2 files, 80 rows" }).click();
  await expect(page.getByText("80 rows of 2 files are loaded.")).toBeVisible();
  await page.getByRole("link", { name: "open" }).first().click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("all_visits");
  await expect(page.getByText("80 rows", { exact: false }).first()).toBeVisible();
  expect(broken).toEqual([]);
});

test("columns against each other, against a target, and joins that suggest themselves", async ({ page }) => {
  const broken = watch(page);
  await page.goto("/tables/larkmere/parcels?show=target");
  await choose(page.getByRole("combobox", { name: "target" }), "size_class");
  await expect(page.getByRole("row", { name: /^weight_g/ })).toContainText("%");
  await page.getByRole("tab", { name: "Joins" }).click();
  await expect(page.getByRole("row", { name: /larkmere\.sites/ })).toContainText("at most one");
  await page.getByRole("tab", { name: "Two columns" }).click();
  await choose(page.getByLabel("horizontal"), "carrier");
  await choose(page.getByLabel("downwards"), "weight_g");
  await expect(page.getByText(/rows with both values/)).toBeVisible();
  const waiting = page.waitForEvent("download");
  await page.getByRole("button", { name: "Export parcels" }).click();
  await page.getByRole("link", { name: "Parquet" }).click();
  expect(
    readFileSync(await (await waiting).path())
      .subarray(0, 4)
      .toString(),
  ).toBe("PAR1");
  expect(broken).toEqual([]);
});

test("the brief is written where it is read, and versions are compared and gone back to", async ({
  page,
}) => {
  await page.goto("/pipelines/message-topic/brief");
  await page.getByLabel("Finding for expectation 2").fill("It is the shortest topic.");
  await choose(page.getByLabel("Was expectation 2 confirmed?"), "yes");
  await expect(page.getByTestId("keeping")).toHaveText("draft saved");
  await page.getByRole("button", { name: "Save version" }).click();
  await page
    .getByRole("dialog")
    .getByLabel(/^Reason \(stored/)
    .fill("looked at praise");
  await page.getByRole("dialog").getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText("Saved as version 2.")).toBeVisible();
  await page.getByRole("link", { name: /History/ }).click();
  await expect(page.getByTestId("difference")).toContainText("found: It is the shortest topic.");
  await page.getByRole("button", { name: "Revert to it" }).click();
  await page.getByRole("alertdialog").getByRole("button", { name: "Create version" }).click();
  await expect(page.getByText("back to version 1")).toBeVisible();
});
