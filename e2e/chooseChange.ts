import { expect, type Page } from '@playwright/test';
import { WORDS } from '../core/words/ownPage/en.ts';
import { shortNames, type Kind } from '../web/parts/alter/alteration.ts';

/** Chooses what is to change of a subscription: by its button, or in the menu behind the others, once it is there. */
export async function chooseChange(page: Page, kind: Kind): Promise<void> {
  const group = page.getByRole('group', { name: 'What can be changed' });
  const button = group.getByRole('button', { name: shortNames(WORDS.alter)[kind], exact: true });
  const item = page.locator(`[role="menuitem"][data-value="${kind}"]`);
  await expect(async () => {
    // A click may fall on what is about to be drawn anew: it counts once the choice is seen to have been taken.
    if ((await group.getAttribute('data-chosen', { timeout: 1000 })) === kind) return;
    if ((await button.count()) === 0) {
      await group.locator('[aria-haspopup="menu"]').click({ timeout: 1000 });
      await item.click({ timeout: 1000 });
    } else await button.click({ timeout: 1000 });
    await expect(group).toHaveAttribute('data-chosen', kind, { timeout: 2000 });
  }).toPass();
}
