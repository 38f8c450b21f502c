import type { Page } from '@playwright/test';
import { SHORT, type Kind } from '../web/parts/alter/alteration.ts';

/** Chooses what is to change of a subscription: by its button, or in the menu behind the others. */
export async function chooseChange(page: Page, kind: Kind): Promise<void> {
  const group = page.getByRole('group', { name: 'What can be changed' });
  await group.getByRole('button').first().waitFor();
  const button = group.getByRole('button', { name: SHORT[kind], exact: true });
  if ((await button.count()) > 0) {
    if ((await button.getAttribute('aria-pressed')) !== 'true') await button.click();
    return;
  }
  await group.getByRole('button').last().click();
  await page.locator(`[role="menuitem"][data-value="${kind}"]`).click();
}
