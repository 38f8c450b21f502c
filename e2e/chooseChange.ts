import { expect, type Page } from '@playwright/test';
import { SHORT, type Kind } from '../web/parts/alter/alteration.ts';

/** Chooses what is to change of a subscription: by its button, or in the menu behind the others, once it is there. */
export async function chooseChange(page: Page, kind: Kind): Promise<void> {
  const group = page.getByRole('group', { name: 'What can be changed' });
  const button = group.getByRole('button', { name: SHORT[kind], exact: true });
  const item = page.locator(`[role="menuitem"][data-value="${kind}"]`);
  await expect(async () => {
    if ((await button.count()) === 0) {
      await group.locator('[aria-haspopup="menu"]').click({ timeout: 1000 });
      await item.click({ timeout: 1000 });
    } else if ((await button.getAttribute('aria-pressed')) !== 'true') await button.click();
  }).toPass();
}
