import { expect, type Locator, type Page } from "@playwright/test";
import { choose, chooseByKeys } from "./choose";

/** Most presses of Tab until something is reached. */
const MOST_TABS = 400;

/**
 * A person at work, by mouse or by keyboard, whose actions are counted: a click, a chosen option, a field typed into, a key of a command.
 * Tab and arrows are free.
 */
export class Hand {
  actions = 0;

  constructor(
    private readonly page: Page,
    private readonly by: "mouse" | "keyboard",
  ) {}

  /** Clicks something, or goes to it by Tab and presses Enter. */
  async press(target: Locator): Promise<void> {
    this.actions += 1;
    await expect(target).toBeEnabled();
    if (this.by === "mouse") return target.click();
    await this.reach(target);
    await this.page.keyboard.press("Enter");
  }

  /** Ticks a box or a radio button, or takes the tick out of a box. */
  async tick(target: Locator, wanted = true): Promise<void> {
    this.actions += 1;
    await expect(target).toBeEnabled();
    if (this.by === "mouse") return target.setChecked(wanted);
    if ((await target.getAttribute("type")) === "radio") await this.chooseRadio(target);
    else {
      await this.reach(target);
      await this.page.keyboard.press("Space");
    }
    await expect(target).toBeChecked({ checked: wanted });
  }

  /** Types into a field, in the place of what is there. @param dismiss whether Escape then closes what is proposed */
  async type(target: Locator, text: string, dismiss = true): Promise<void> {
    this.actions += 1;
    await expect(target).toBeEditable();
    if (this.by === "mouse") return target.fill(text);
    await this.reach(target);
    await this.page.keyboard.press("Control+a");
    await this.page.keyboard.type(text);
    if (dismiss) await this.page.keyboard.press("Escape");
    await expect(target).toHaveValue(text);
  }

  /** Chooses an option by the words it is shown with. */
  async select(target: Locator, words: string): Promise<void> {
    this.actions += 1;
    await expect(target).toBeEnabled();
    if (this.by === "mouse") return choose(target, words);
    await this.reach(target);
    await chooseByKeys(target, words);
  }

  /** Gives a file, or several at once. The system's own dialog does not count. */
  async give(
    target: Locator,
    ...files: readonly { readonly name: string; readonly mimeType: string; readonly buffer: Buffer }[]
  ): Promise<void> {
    this.actions += 1;
    await target.setInputFiles([...files]);
  }

  /** Presses one key of a command where the focus is. */
  async key(name: string): Promise<void> {
    this.actions += 1;
    await this.page.keyboard.press(name);
  }

  /** Writes into an editor of expressions, in the place of what is there. */
  async write(target: Locator, text: string): Promise<void> {
    this.actions += 1;
    if (this.by === "mouse") await target.click();
    else await this.reach(target);
    await this.page.keyboard.press("Control+a");
    await this.page.keyboard.type(text);
    // What is proposed for the last word is put away before the expression is taken over.
    await this.page.keyboard.press("Escape");
  }

  /** Goes to a radio button by Tab to its group and by arrows within. */
  private async chooseRadio(target: Locator): Promise<void> {
    const group = this.page.locator(`input[type=radio][name="${await target.getAttribute("name")}"]`);
    await this.reach(group.and(this.page.locator(":checked")));
    for (let press = 0; press < (await group.count()); press += 1) {
      if (await target.isChecked()) return;
      await this.page.keyboard.press("ArrowRight");
    }
  }

  /** Presses Tab, or Shift and Tab where that way lies nearer, until something has the focus. */
  private async reach(target: Locator): Promise<void> {
    await expect(target).toBeVisible();
    const ahead = await target.evaluate((wanted) => {
      const now = document.activeElement ?? document.body;
      return now === document.body || (now.compareDocumentPosition(wanted) & 4) > 0;
    });
    for (let press = 0; press < MOST_TABS; press += 1) {
      if (await target.evaluate((wanted) => wanted === document.activeElement)) return;
      await this.page.keyboard.press(ahead ? "Tab" : "Shift+Tab");
    }
    throw new Error(`${String(target)} cannot be reached by Tab`);
  }
}
