import { expect, test } from '@playwright/test';
import { mend } from '../server/readiness/mends.ts';
import { verify } from '../server/verify/verify.ts';
import { isAccessible } from '../testing/accessible.ts';
import { openSample } from '../testing/openSample.ts';
import { World } from '../testing/world.ts';

// All that is known of a customer in one place; each test goes on with what the one before it made.
test.describe.configure({ mode: 'serial' });

let world: World;
let home: string;
let stays: string;
let goes: string;

test.beforeAll(async () => {
  world = await World.begin(process.env.TEST_DATABASE_URL ?? '');
  home = world.environment.ALMANAC_URL ?? '';
  await mend(world.almanac, 'terms');
  await mend(world.almanac, 'no-tax');
  await world.enrol([{ code: '51' }, {}]);
  const rows = await world.almanac.db.rows<{ id: string }>(
    'select id::text from customers order by customers.id',
  );
  [stays = '', goes = ''] = rows.map(({ id }) => id);
  await world.turnTo('2027-01-05');
  await world.parts.start('server', ['command/main.ts', 'serve'], world.environment, 'serving on');
});
test.afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await world.end();
});

test('people, notes, documents and what happened stand on the page of the customer', async ({ page }) => {
  await openSample(page, home);
  await page.goto(`${home}/customers/${stays}`);
  const people = page.getByRole('region', { name: 'People beside the customer' });
  await people.getByRole('button', { name: 'Add somebody' }).click();
  await people.getByLabel('Name').fill('Tess Tally');
  await people.getByLabel('E-mail').fill('no address');
  await people.getByRole('button', { name: 'Store it' }).click();
  await expect(people.getByText(/Give an e-mail address/)).toBeVisible();
  await people.getByLabel('E-mail').fill('tess@treasurer.example');
  await people.getByText('reminders of what is unpaid').click();
  await people.getByRole('button', { name: 'Store it' }).click();
  await expect(people.getByText('invoices and receipts, reminders of what is unpaid')).toBeVisible();

  const happened = page.getByRole('region', { name: 'What happened' });
  await page.getByLabel('Note, for staff alone').fill('Rings on Tuesdays');
  await page.keyboard.press('Enter');
  await expect(happened.getByText('Rings on Tuesdays')).toBeVisible();
  await happened.getByLabel('Search what happened').fill('tuesd');
  await expect(happened.getByText('1 in all')).toBeVisible();
  await happened.getByLabel('Search what happened').fill('');
  await happened.getByLabel('Kind').selectOption('payment');
  await expect(happened.getByText(/declined, invoice/)).toBeVisible();
  await expect(happened.getByText('Rings on Tuesdays')).toBeHidden();

  const documents = page.getByRole('region', { name: 'Documents' });
  const chooser = documents.locator('input[type=file]');
  const text = { name: 'notes.txt', mimeType: 'text/plain', buffer: Buffer.from('hello') };
  await chooser.setInputFiles(text);
  await expect(documents.getByText(/none of the kinds that are kept/)).toBeVisible();
  const pdf = { name: 'contract.pdf', mimeType: 'application/pdf', buffer: Buffer.from('%PDF-1.7\n%%EOF\n') };
  await chooser.setInputFiles(pdf);
  await expect(documents.getByText('Kept: contract.pdf.')).toBeVisible();
  await isAccessible(page);
  const download = page.waitForEvent('download');
  await documents.getByRole('link', { name: 'contract.pdf' }).click();
  expect((await download).suggestedFilename()).toBe('contract.pdf');
  await documents.getByRole('button', { name: 'Throw away contract.pdf' }).click();
  await documents.getByRole('button', { name: 'Throw contract.pdf away for good' }).click();
  await expect(documents.getByText('Thrown away: contract.pdf.')).toBeVisible();
});

test('an open invoice is agreed in parts, and an amount is added, each shown before it is done', async ({
  page,
}) => {
  await openSample(page, home);
  const one = await world.almanac.db.row<{ id: string }>(
    'select id::text from subscriptions where customer_id = $stays',
    { stays },
  );
  await page.goto(`${home}/subscriptions/${one?.id}`);
  await page.getByRole('button', { name: /^Pay .* in parts$/ }).click();
  await page.getByRole('textbox', { name: 'Parts' }).fill('2');
  await page.getByLabel('The first on').fill('10 Jan 2027');
  await expect(page.getByText(/£5\.00 on Sun 10 Jan 2027, £5\.00 on Wed 10 Feb 2027/)).toBeVisible();
  await isAccessible(page);
  await page.getByRole('button', { name: 'Agree these parts' }).click();
  await expect(page.getByText('Due 1 of 2')).toBeVisible();
  await expect(page.getByText('overdue')).toBeHidden();
  await page.getByRole('button', { name: 'More' }).click();
  await page.getByRole('menuitem', { name: 'Add an amount' }).click();
  await page.getByLabel('What it is for').fill('A new queen');
  await page.getByRole('textbox', { name: 'How much' }).fill('12.50');
  await page.getByRole('button', { name: 'Add an amount', exact: true }).last().click();
  await expect(page.getByText(/Done: A new queen is added, £12\.50/)).toBeVisible();
});

test('two records are put together with the effect first; who has left is erased', async ({ page }) => {
  await openSample(page, home);
  await page.goto(`${home}/customers/${stays}`);
  await page.getByRole('button', { name: /^Put another record into this/ }).click();
  await page.getByLabel('The other record').fill('Person 1');
  const merge = page.getByRole('group', { name: 'Put another record into this one' });
  await merge.getByRole('button', { name: 'This one' }).click();
  await expect(
    merge.getByText('What runs is charged to the very cards that it is charged to now.'),
  ).toBeVisible();
  await isAccessible(page);
  await merge.getByRole('button', { name: 'Put Person 1 into Person 0' }).click();
  await expect(page.getByRole('region', { name: 'Ways to pay' }).getByText(/ alone$/)).toBeVisible();
  await page.goto(`${home}/customers/${goes}`);
  await expect(page.getByRole('heading', { name: 'There is no such customer' })).toBeVisible();

  await page.goto(`${home}/customers/${stays}`);
  await page.getByRole('button', { name: /^Erase/ }).click();
  const erase = page.getByRole('group', { name: 'Erase the customer' });
  await expect(erase.getByText('2 subscriptions run: end them first.')).toBeVisible();
  await expect(erase.getByText(/Something is still owed/)).toBeVisible();
  await isAccessible(page);
});
