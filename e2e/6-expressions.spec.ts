import { expect, test } from "@playwright/test";

test("an expression that is left moves nothing away from under the click that leaves it", async ({
  page,
}) => {
  await page.goto("/pipelines/latch-wear/braid?step=readings:6&tray=settings");
  await page.getByRole("button", { name: "Larger tray" }).click();
  const form = page.getByTestId("step-form");
  await form.getByRole("textbox", { name: "play_grew", exact: true }).click();
  await page.keyboard.press("End");
  await page.keyboard.type(" + 0");
  await page.keyboard.press("Escape");
  await expect(form.getByLabel("Values of play_grew")).toBeVisible();
  const more = form.getByRole("button", { name: "column", exact: true });
  await more.hover();
  const before = (await more.boundingBox())!;
  // A slow hand: the expression is taken over, and its values are read again, before the button is let go.
  await page.mouse.down();
  await page.waitForTimeout(600);
  const after = (await more.boundingBox())!;
  expect(Math.abs(after.y - before.y)).toBeLessThan(before.height / 3);
  await page.mouse.up();
  await expect(form.getByLabel("Name of new columns 3")).toHaveValue("new_column");
  await page.getByRole("button", { name: /^Revert to version/ }).click();
  // The draft is gone on the server too, before others go on with the pipeline.
  await expect(page.getByRole("button", { name: /^Revert to version/ })).toHaveCount(0);
});
