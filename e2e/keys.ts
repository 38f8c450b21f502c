import type { Page } from '@playwright/test';

/** A keyboard that counts what is pressed: every letter, every Tab, every arrow. */
export class Keys {
  pressed = 0;

  constructor(private readonly page: Page) {}

  /** Presses a key so many times. */
  async press(key: string, times = 1): Promise<void> {
    for (let i = 0; i < times; i += 1) await this.page.keyboard.press(key);
    this.pressed += times;
  }

  /** Types a text, letter by letter. */
  async type(text: string): Promise<void> {
    await this.page.keyboard.type(text);
    this.pressed += [...text].length;
  }

  /** Presses Tab until the field in focus has a label, at most so many times. */
  async tabTo(label: string, most = 12): Promise<void> {
    for (let i = 0; i <= most; i += 1) {
      const named = await this.page.evaluate(() => {
        const at = document.activeElement;
        const labels = at instanceof HTMLInputElement || at instanceof HTMLSelectElement ? at.labels : null;
        return labels?.[0]?.textContent ?? at?.getAttribute('aria-label') ?? at?.textContent ?? '';
      });
      if (named.startsWith(label)) return;
      await this.press('Tab');
    }
    throw new Error(`${most} tabs do not lead to ${label}.`);
  }
}
