import { expect, type Locator } from "@playwright/test";

/** An open list's option by its value, or the first by words it is shown with. */
const optionsOf = (target: Locator, wanted: string): readonly [named: Locator, worded: Locator] => [
  target.page().locator(`[role="option"][data-value="${wanted}"]`),
  target.page().getByRole("option").filter({ hasText: wanted }).first(),
];

/**
 * Chooses an option of a select with the mouse. What was saved a moment ago is drawn anew, with other options,
 * and closes a list that is open: it is then opened again.
 *
 * @param wanted its value, or words it is shown with
 */
export async function choose(target: Locator, wanted: string): Promise<void> {
  const page = target.page();
  const search = page.locator("[data-radix-popper-content-wrapper] input");
  const list = page.getByRole("option").or(search).first();
  const [named, worded] = optionsOf(target, wanted);
  await expect(async () => {
    if (!(await list.isVisible())) await target.click();
    await expect(list).toBeVisible({ timeout: 2000 });
    if (await search.isVisible()) await search.fill(wanted);
    await expect(named.or(worded).first()).toBeVisible({ timeout: 2000 });
    await ((await named.count()) > 0 ? named : worded).click({ timeout: 2000 });
  }).toPass({ timeout: 60_000 });
  await expect(page.getByRole("listbox")).toBeHidden();
}

/** Opens the select that has the focus, types what an option is called, and takes it with Enter. */
export async function chooseByKeys(target: Locator, wanted: string): Promise<void> {
  const page = target.page();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("option").first()).toBeVisible();
  await page.keyboard.type(wanted);
  await expect(page.locator('[role="option"][data-highlighted]')).toContainText(wanted);
  await page.keyboard.press("Enter");
  await expect(page.getByRole("listbox")).toBeHidden();
}

/** Asserts which value a select has. */
export const expectChosen = (target: Locator, value: string): Promise<void> =>
  expect(target).toHaveAttribute("data-value", value);
