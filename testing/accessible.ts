import AxeBuilder from '@axe-core/playwright';
import { expect, type Page } from '@playwright/test';

/** No serious finding of axe on the screen as it stands; a letter's frame runs no script, so axe cannot enter it. */
export async function isAccessible(page: Page): Promise<void> {
  // What is just coming or going is looked at once it is there: half-way through a fade every colour is too faint.
  // What waits behind a dialog waits for the dialog. A page behind another draws nothing, so that it is brought to the front and
  // asked by the clock.
  await page.bringToFront();
  await page.waitForFunction(
    () =>
      document.querySelector('button[data-loading]:not([aria-hidden] *, [inert] *)') === null &&
      document
        .getAnimations()
        .every(
          (one) =>
            one.playState !== 'running' ||
            one.effect?.getComputedTiming().endTime === Number.POSITIVE_INFINITY,
        ),
    undefined,
    { polling: 100, timeout: 60_000 },
  );
  const { violations } = await new AxeBuilder({ page }).setLegacyMode().exclude('iframe').analyze();
  const serious = violations.filter(({ impact }) => impact === 'serious' || impact === 'critical');
  expect(serious.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([]);
}
