import { expect, type Page } from '@playwright/test';

/** Signs in by the button of the demo, and waits until one is in: a page asked for before would be the door again. */
export async function openSample(page: Page, home: string): Promise<void> {
  await page.goto(home);
  await page.getByRole('button', { name: 'Open the sample business' }).click();
  await expect(page.getByRole('navigation', { name: 'Areas' })).toBeVisible();
}
