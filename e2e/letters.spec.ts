import { expect, test, type Page } from '@playwright/test';
import { linkForLetter, linkToken } from '../server/customers/link.ts';
import { stopToken } from '../server/notices/stopLetters.ts';
import { isAccessible } from '../testing/accessible.ts';
import { openSample } from '../testing/openSample.ts';
import type { World } from '../testing/world.ts';
import { bringInCustomers, endSound, HIVES, sell, serve } from './selling.ts';

// The words of letters, as staff write them and customers read them; each test goes on with what the one before it made.
test.describe.configure({ mode: 'serial' });

let world: World;
let home: string;

test.beforeAll(async () => {
  world = await sell([HIVES]);
  await world.moveCards([{ token: 'card-of-bram-fenn', behaviour: {} }]);
  await bringInCustomers(world, [
    'reference,name,email,plan,rate,starts,card_token',
    'B-1,Bram Fenn,bram@post.example,hives,monthly,2027-01-04,card-of-bram-fenn',
  ]);
  await world.turnTo('2027-01-06');
  home = await serve(world);
});
test.afterAll(() => endSound(world));

const margin = (page: Page) => page.getByRole('complementary');
const letter = (page: Page) => page.frameLocator('iframe[title^="Letter:"]');

/** Stores what was written. A click may fall on what is about to be drawn anew: it counts once it is seen to have been taken. */
async function store(page: Page, says: string): Promise<void> {
  await expect(async () => {
    await page.getByRole('button', { name: 'Store these words' }).click({ timeout: 2000 });
    await expect(page.getByText(says)).toBeVisible({ timeout: 5000 });
  }).toPass();
}

test('a letter is written with fields and a condition, seen as it will be read, tried on a customer and stored', async ({
  page,
}) => {
  await openSample(page, home);
  await page.goto(`${home}/setup/recovery`);
  await isAccessible(page);
  await page.getByRole('link', { name: 'Words: a payment was collected' }).click();
  await expect(
    page.getByRole('heading', { level: 1, name: 'Letter: A payment was collected' }),
  ).toBeVisible();
  await expect(letter(page).getByText('Thank you. We have charged')).toBeVisible();
  await isAccessible(page);
  const body = page.getByRole('textbox', { name: 'Letter', exact: true });
  // All that was there is written anew: some words, a field, and what is only for those who pay by hand.
  await body.click();
  await page.keyboard.press('ControlOrMeta+a');
  await page.keyboard.type('We have your ');
  await page.getByLabel('Add a field: Letter').selectOption({ label: 'What was paid' });
  await page.keyboard.type('. Bring the slip.');
  for (let n = 0; n < 'Bring the slip.'.length; n++) await page.keyboard.press('Shift+ArrowLeft');
  await page
    .getByLabel('When the chosen words are written: Letter')
    .selectOption({ label: 'Only if: it is paid by hand' });
  await expect(letter(page).getByText('We have your £12.00.', { exact: true })).toBeVisible();
  await page.getByLabel('In the case that').selectOption('It is paid by hand');
  await expect(letter(page).getByText('We have your £12.00. Bring the slip.')).toBeVisible();
  const who = page.getByRole('combobox', { name: 'Try it on a customer' });
  await who.click();
  await who.pressSequentially('bram');
  await expect(page.getByRole('option', { name: /Bram Fenn/ })).toBeVisible();
  await who.press('Enter');
  await expect(letter(page).getByText('We have your £48.00. Bring the slip.')).toBeVisible();
  await page.getByLabel('Plain text', { exact: true }).check();
  await expect(margin(page).locator('pre')).toContainText('You need not get letters like this one');
  // What was typed is here again after the page was left.
  await page.reload();
  await expect(page.getByText('is here again')).toBeVisible();
  await expect(body).toContainText('Bring the slip.');
  await expect(letter(page).getByText('We have your £12.00.', { exact: true })).toBeVisible();
  await store(page, 'Your own words. Last changed by');
  await page.getByRole('link', { name: 'All letters' }).click();
  await expect(page.getByText('your own in English')).toBeVisible();
});

test('a field that is not there is said beside the words, and nothing is stored until it is mended', async ({
  page,
}) => {
  await openSample(page, home);
  await page.goto(`${home}/setup/recovery/lapsed?language=de`);
  const added = page.getByRole('textbox', { name: 'Added to it' });
  await added.click();
  await page.keyboard.type('Bis bald, {{{{ nickname }}.');
  await expect(
    page.getByText(/no field “nickname”|does not close|not the name of a field/).first(),
  ).toBeVisible();
  await expect(margin(page).getByText('Still missing:')).toBeVisible();
  await added.click();
  await page.keyboard.press('ControlOrMeta+a');
  await page.keyboard.type('Bis bald.');
  await store(page, 'Last changed by');
  await page.getByLabel('Send it as a test to').fill('me@post.example');
  const before = world.mail().length;
  await page.getByRole('button', { name: 'Send', exact: true }).click();
  await expect(page.getByText('Sent to me@post.example')).toBeVisible();
  expect(world.mail().length).toBe(before + 1);
});

test('who needs no receipts stops them by the link at the foot of one, on a phone; staff see it', async ({
  page,
}) => {
  const row = await world.almanac.db.row<{ id: string; customerId: string }>(
    `select id::text, customer_id::text as "customerId" from letters where event = 'receipt' order by id limit 1`,
  );
  await page.setViewportSize({ width: 390, height: 800 });
  await page.goto(`${home}/stop-letters/${stopToken(world.almanac, row?.id ?? '')}`);
  await expect(page.getByText('Shall we send no more receipts to b…@post.example?')).toBeVisible();
  await isAccessible(page);
  await page.getByRole('button', { name: 'Stop these letters' }).click();
  await expect(page.getByText('We send no more receipts to')).toBeVisible();
  await page.setViewportSize({ width: 1280, height: 800 });
  await openSample(page, home);
  await page.goto(`${home}/customers/${row?.customerId ?? ''}`);
  const tick = page.getByRole('checkbox', { name: 'A payment was collected' });
  await expect(tick).not.toBeChecked();
  await page.getByText('A payment was collected').click();
  await expect(tick).toBeChecked();
});

test('a customer’s own page speaks their language, on a phone', async ({ page }) => {
  const { almanac } = world;
  const row = await almanac.db.row<{ id: string; customerId: string }>(
    `update customers set language = 'de', country = 'DE' where email = 'bram@post.example'
     returning id::text as "customerId", (select s.id::text from subscriptions s where s.customer_id = customers.id) as id`,
  );
  const link = await almanac.db.transaction((within) =>
    linkForLetter({ id: row?.id ?? '', customerId: row?.customerId ?? '' }, '2027-01-06', within),
  );
  await page.setViewportSize({ width: 390, height: 800 });
  await page.goto(`${home}/own/${linkToken(almanac, link.id, 'own')}`);
  await expect(page.getByRole('heading', { name: 'Ihre Karte', exact: true })).toBeVisible();
  await expect(page.getByText('Bram Fenn, 48,00 £ jeden Monat')).toBeVisible();
  await expect(page.getByText('Do., 4. Feb. 2027')).toBeVisible();
  await isAccessible(page);
  await page.getByLabel('Kartennummer').fill('12');
  await page.getByRole('button', { name: 'Karte ändern' }).click();
  await expect(page.getByText('Geben Sie die Kartennummer an, 12 bis 19 Ziffern.')).toBeVisible();
  await page.getByLabel('Schreiben Sie uns hier').fill('Eine Frage');
  await page.getByRole('button', { name: 'Senden' }).click();
  await expect(page.getByText('Vielen Dank. Wir haben es')).toBeVisible();
  const part = page.getByRole('group', { name: 'Das Abonnement ändern' });
  await part.getByRole('button', { name: 'Kündigen', exact: true }).click();
  await expect(part.getByText('Ihr Abonnement endet am Do., 4. Feb. 2027.')).toBeVisible();
  await part.getByRole('button', { name: 'Mein Abonnement kündigen' }).click();
  await expect(page.getByText('Erledigt. Wir haben Ihnen geschrieben.')).toBeVisible();
  await isAccessible(page);
  const letters = await almanac.db.rows<{ subject: string }>(
    `select subject from letters where event = 'cancelled'`,
  );
  expect(letters).toEqual([{ subject: 'Ihr Abonnement Hive Watch endet am Do., 4. Feb. 2027' }]);
});
