import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { isAccessible } from '../testing/accessible.ts';
import { openSample } from '../testing/openSample.ts';
import type { World } from '../testing/world.ts';
import { bringInCustomers, endSound, sell, serve } from './selling.ts';

// Money as staff work with it: invoices, corrections, payments by hand and by card, and what goes back; each test goes on with
// what the one before it made.
test.describe.configure({ mode: 'serial' });

let world: World;
let home: string;

test.beforeAll(async () => {
  const line = (name: string, amount: string) => ({ name, price: { scheme: 'flat', amount } });
  const rate = {
    ...{ key: 'monthly', name: 'Monthly' },
    terms: {
      ...{ currency: 'GBP', interval: 'P1M', terms: 'P14D', tax: { rate: '20', mode: 'inclusive' } },
      lines: [line('Hive', '48.00'), line('Honey', '12.00')],
    },
    options: { methods: ['card', 'invoice'] },
  };
  world = await sell([{ key: 'hives', name: 'Hive Watch', rates: [rate] }]);
  await world.moveCards([
    { token: 'card-of-ada-fenn', behaviour: {} },
    { token: 'card-of-bram-fenn', behaviour: { code: '51' } },
  ]);
  await bringInCustomers(world, [
    'reference,name,email,plan,rate,starts,card_token',
    'A-1,Ada Fenn,ada@post.example,hives,monthly,2027-01-04,card-of-ada-fenn',
    'B-1,Bram Fenn,bram@post.example,hives,monthly,2027-01-04,card-of-bram-fenn',
  ]);
  await world.turnTo('2027-01-20');
  home = await serve(world);
});
test.afterAll(() => endSound(world));

const openInvoice = async (page: Page, customer: string) => {
  await page.goto(`${home}/invoices`);
  const row = page.getByRole('row', { name: new RegExp(customer) }).first();
  await row.click();
  await page.getByRole('link', { name: 'Open it' }).click();
  await expect(page.getByRole('heading', { level: 1, name: /^Invoice/ })).toBeVisible();
};

test('the day sheet begins with the money, and leads to what makes it up', async ({ page }) => {
  await openSample(page, home);
  await page.goto(`${home}/days/2027-01-18`);
  const money = page.getByRole('table', { name: 'The money of the day' });
  await expect(money.getByRole('row', { name: /^GBP/ })).toContainText('120.00 in 2');
  await expect(money.getByRole('row', { name: /^GBP/ })).toContainText('60.00 in 1');
  await isAccessible(page);
  await money.getByRole('link', { name: '60.00' }).first().click();
  await expect(page).toHaveURL(/\/payments\?state=collected&dated=made/);
  await expect(page.getByRole('row', { name: /Ada Fenn/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /Bram Fenn/ })).toBeHidden();
});

test('an invoice is found, read, taken as a file, and the list says what is overdue', async ({ page }) => {
  await openSample(page, home);
  await page.goto(`${home}/invoices`);
  await expect(page.getByRole('row', { name: /Bram Fenn/ })).toContainText('overdue');
  await isAccessible(page);
  await openInvoice(page, 'Ada Fenn');
  await expect(page.getByRole('table', { name: 'Lines' })).toContainText('Honey');
  await expect(page.getByText('In it 20 % tax on 50.00')).toBeVisible();
  await isAccessible(page);
  const [pdf] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'PDF', exact: true }).click(),
  ]);
  expect(pdf.suggestedFilename()).toMatch(/^Invoice .*\.pdf$/);
  expect(
    readFileSync(await pdf.path())
      .subarray(0, 5)
      .toString(),
  ).toBe('%PDF-');
  // What it cannot be is said where it was asked for.
  await page.getByRole('link', { name: /^UBL/ }).click();
  await expect(page.getByText(/has no UBL: it was issued without the country/)).toBeVisible();
  await page.goto(`${home}/invoices`);
  await page.getByRole('button', { name: /Many as one file/ }).click();
  await page.getByLabel('Issued from').fill('1 jan 2027');
  await page.getByLabel('Issued from').press('Tab');
  await expect(page.getByText('2 invoices and credit notes')).toBeVisible();
  await isAccessible(page);
  const [zip] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Make the file' }).click(),
  ]);
  expect(
    readFileSync(await zip.path())
      .subarray(0, 4)
      .toString('latin1'),
  ).toBe('PK\x03\x04');
  await expect(page.getByText('2 documents are saved.')).toBeVisible();
});

test('money goes back to the card: shown first, once, and the customer’s page says so', async ({ page }) => {
  await openSample(page, home);
  await openInvoice(page, 'Ada Fenn');
  await page.getByRole('link', { name: /^Payment of .*, collected/ }).click();
  await page.getByRole('button', { name: /Pay it back/ }).click();
  await page.getByLabel('Amount').fill('70');
  await expect(page.getByText('At most £60.00 of this payment can go back.').first()).toBeVisible();
  await page.getByLabel('Amount').fill('15');
  const books = page.getByRole('table', { name: 'What is posted to the books' });
  await expect(books).toContainText('Gateway clearing');
  await expect(page.getByRole('group', { name: 'Still missing' })).toContainText('why');
  await isAccessible(page);
  await page.getByLabel('Why').fill('A broken frame');
  await page.getByRole('button', { name: 'Pay £15.00 back' }).click();
  await expect(page.getByRole('main').getByText('part refunded')).toBeVisible();
  await expect(page.getByText(/A broken frame, credit note CN-1/)).toBeVisible();
  await isAccessible(page);
});

test('a line is credited, and the credit is paid out by hand', async ({ page }) => {
  await openSample(page, home);
  await openInvoice(page, 'Ada Fenn');
  await page.getByRole('button', { name: /Credit note/ }).click();
  await page.getByLabel('What is taken back').selectOption('lines');
  await page.getByLabel('Honey').fill('99');
  await expect(page.getByText(/of this line is left/).first()).toBeVisible();
  await page.getByLabel('Honey').fill('5.00');
  await page.getByLabel('Why').fill('Too little of it');
  await isAccessible(page);
  await page.getByRole('button', { name: 'Issue the credit note' }).click();
  await expect(page.getByRole('link', { name: 'Credit note CN-2 as PDF' })).toBeVisible();
  await page.getByRole('main').getByRole('link', { name: 'Ada Fenn' }).first().click();
  await expect(page.getByText('Credit at hand: £5.00')).toBeVisible();
  await page.getByRole('link', { name: 'Its statement' }).click();
  await expect(page.getByRole('table', { name: 'Credit in GBP' })).toContainText('CN-2');
  await page.getByLabel('Why').fill('She asked for it');
  await isAccessible(page);
  await page.getByRole('button', { name: 'Pay £5.00 out' }).click();
  await expect(page.getByRole('table', { name: 'Credit in GBP' })).toContainText('Paid out');
  await expect(page.getByText('£0.00 at hand')).toBeVisible();
});

test('a payment by hand: too little and too much are named before it is written down', async ({ page }) => {
  await openSample(page, home);
  await openInvoice(page, 'Bram Fenn');
  await page.getByRole('link', { name: 'Take a payment' }).click();
  await expect(page.getByLabel('Amount')).toHaveValue('60.00');
  await page.getByLabel('Amount').fill('20');
  await expect(page.getByText('£40.00 stays open')).toBeVisible();
  await page.getByLabel('Reference').fill('FT 889');
  await isAccessible(page);
  await page.getByRole('button', { name: 'Write the payment down' }).click();
  await expect(page.getByRole('heading', { level: 1, name: /^Invoice/ })).toBeVisible();
  await expect(page.getByText('£40.00 is open.')).toBeVisible();
  await page.getByRole('link', { name: 'Take a payment' }).click();
  await page.getByLabel('How it is paid').selectOption('cash');
  await page.getByLabel('Amount').fill('25');
  await page.getByRole('button', { name: 'Write the payment down' }).click();
  await expect(page.getByText('£15.00 is open.')).toBeVisible();
});

test('the rest is paid by a card that is told by telephone, and its case is closed', async ({ page }) => {
  await openSample(page, home);
  await openInvoice(page, 'Bram Fenn');
  await expect(page.getByText('A case is open about it.')).toBeVisible();
  await page.getByRole('link', { name: 'Take a payment' }).click();
  await page.getByLabel('How it is paid').selectOption('card');
  await page.getByText('Another, for this payment alone').click();
  await page.getByLabel('Card number').fill('9171000000000012');
  await page.getByLabel('Expires', { exact: true }).fill('11/30');
  await expect(page.getByText(/would keep £/)).toBeVisible();
  await isAccessible(page);
  await page.getByRole('button', { name: 'Charge £15.00' }).click();
  await expect(page.getByText('Nothing of it is open.')).toBeVisible();
  expect(await world.almanac.db.row('select state from recovery_cases')).toEqual({ state: 'recovered' });
});

test('an unpaid invoice is withdrawn as a whole, another is written off and recovered', async ({ page }) => {
  await world.turnTo('2027-02-05');
  await openSample(page, home);
  await openInvoice(page, 'Bram Fenn');
  await page.getByRole('button', { name: /Withdraw or correct/ }).click();
  await page.getByLabel('Why').fill('Agreed by telephone');
  await page.getByRole('button', { name: 'Withdraw the invoice' }).click();
  await expect(page.getByRole('complementary').getByText('withdrawn')).toBeVisible();
  await openInvoice(page, 'Ada Fenn');
  await page.getByRole('button', { name: /Write off/ }).click();
  await expect(page.getByText('£60.00 is given up.')).toBeVisible();
  await page.getByLabel('Why').fill('Moved away');
  await isAccessible(page);
  await page.getByRole('button', { name: 'Write it off', exact: true }).click();
  await expect(page.getByText('£60.00 was given up.')).toBeVisible();
  await page.getByRole('link', { name: 'Take a payment' }).click();
  await page.getByLabel(/^Invoice/).check();
  await expect(page.getByText('recovered from what was written off')).toBeVisible();
  await page.getByRole('button', { name: 'Write the payment down' }).click();
  await expect(page.getByText('Nothing of it is open.')).toBeVisible();
});

test('all that moved an account stands on its statement, and every credit note in one list', async ({
  page,
}) => {
  await openSample(page, home);
  await openInvoice(page, 'Ada Fenn');
  await page.getByRole('main').getByRole('link', { name: 'Ada Fenn' }).first().click();
  await page.getByRole('link', { name: 'Statement of account' }).click();
  const account = page.getByRole('table', { name: 'Account in GBP' });
  for (const what of ['Invoice', 'Credit note', 'Payment', 'Paid back', 'Written off', 'Recovered'])
    await expect(account.getByRole('cell', { name: what, exact: true }).first()).toBeVisible();
  await expect(page.getByText('Nothing is owed')).toBeVisible();
  await isAccessible(page);
  await page.getByRole('textbox', { name: 'From' }).fill('1 feb 2027');
  await page.keyboard.press('Tab');
  await expect(page).toHaveURL(/from=2027-02-01/);
  await expect(account.getByRole('cell', { name: /Jan 2027/ })).toHaveCount(0);
  const [pdf] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'PDF', exact: true }).click(),
  ]);
  expect(
    readFileSync(await pdf.path())
      .subarray(0, 5)
      .toString(),
  ).toBe('%PDF-');
  await page.goto(`${home}/invoices`);
  await page.getByRole('link', { name: 'Credit notes' }).click();
  // Its page may still be loading: until it is there, the list before it stands, with a search of its own.
  await page.getByRole('textbox', { name: 'Search credit notes' }).fill('CN-2');
  const notes = page.getByRole('row', { name: /Too little of it/ });
  await expect(notes).toBeVisible();
  await expect(page.getByRole('row', { name: /A broken frame/ })).toBeHidden();
  await notes.click();
  await expect(page.getByRole('complementary').getByText('Corrects an invoice')).toBeVisible();
  await isAccessible(page);
});

test('a half-filled invoice is saved as a draft, and whoever opens it goes on where it was left', async ({
  page,
  browser,
}) => {
  await openSample(page, home);
  await page.goto(`${home}/invoices`);
  await page.getByRole('link', { name: 'Invoice something' }).click();
  const made = page.getByRole('group', { name: 'A rate made here' });
  await made.getByLabel('For what', { exact: true }).fill('A third visit');
  await made.getByLabel('Price', { exact: true }).fill('12.50');
  await page.getByRole('button', { name: 'Save it as a draft' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Drafts' })).toBeVisible();
  await expect(page.getByRole('complementary').getByText('A third visit')).toBeVisible();
  await isAccessible(page);
  // Another browser, which has kept nothing of it.
  const theirs = await (await browser.newContext()).newPage();
  await openSample(theirs, home);
  await theirs.goto(`${home}/drafts`);
  await theirs.getByRole('row', { name: /A third visit/ }).click();
  await theirs.getByRole('link', { name: 'Go on with it' }).click();
  await expect(theirs.getByText(/A draft that .* saved on/)).toBeVisible();
  const there = theirs.getByRole('group', { name: 'A rate made here' });
  await expect(there.getByLabel('For what', { exact: true })).toHaveValue('A third visit');
  await isAccessible(theirs);
  // The first has saved it anew meanwhile: nothing is written over.
  await page.getByRole('link', { name: 'Go on with it' }).click();
  await made.getByLabel('Price', { exact: true }).fill('13.50');
  await page.getByRole('button', { name: 'Save it as a draft' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Drafts' })).toBeVisible();
  await there.getByLabel('Price', { exact: true }).fill('99.00');
  await theirs.getByRole('button', { name: 'Save it as a draft' }).click();
  await expect(theirs.getByText(/has changed this since you opened it/)).toBeVisible();
  await theirs.getByRole('button', { name: 'Open theirs' }).click();
  await expect(there.getByLabel('Price', { exact: true })).toHaveValue('13.50');
  await theirs.getByRole('combobox', { name: 'Customer' }).fill('Ada');
  await theirs.getByRole('option', { name: /Ada Fenn/ }).click();
  await there.getByRole('button', { name: 'Make it and take it' }).click();
  await expect(theirs.getByRole('complementary').getByText('13.50').first()).toBeVisible();
  await theirs.getByRole('button', { name: 'Enrol', exact: true }).click();
  await expect(theirs.getByRole('heading', { level: 1, name: 'Ada Fenn' })).toBeVisible();
  // It is taken up: whoever opens it now is told.
  await page.getByRole('link', { name: 'Go on with it' }).click();
  await expect(page.getByText('There is no such draft any more.')).toBeVisible();
});
