import type { Page } from '@playwright/test';

/** Names somebody new on the page that enrols, in its one field for customers. */
export async function newCustomer(page: Page, name: string, email: string): Promise<void> {
  await page.getByRole('combobox', { name: 'Customer' }).fill(email);
  await page
    .getByRole('listbox')
    .getByRole('option', { name: /^Somebody new/ })
    .click();
  await page.getByLabel('Name', { exact: true }).fill(name);
}

/** Takes a rate on the page that enrols: the first there is, or the one whose plan, name and price say so. */
export async function chooseRate(page: Page, says = /./): Promise<void> {
  await page.getByRole('combobox', { name: 'Plan and rate' }).click();
  await page.getByRole('listbox').getByRole('option', { name: says }).first().click();
}
