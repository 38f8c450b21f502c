import { expect, test, type Page } from '@playwright/test';
import { CustomerLink } from '../server/customers/CustomerLink.ts';
import { linkToken } from '../server/customers/link.ts';
import { Subscription } from '../server/subscriptions/Subscription.ts';
import { verify } from '../server/verify/verify.ts';
import { isAccessible } from '../testing/accessible.ts';
import { Offering } from '../testing/offering.ts';
import { openSample } from '../testing/openSample.ts';
import { World } from '../testing/world.ts';
import { chooseChange } from './chooseChange.ts';

// How a change is settled, where staff and customers meet it. One life, begun on Monday 4 January 2027 at £31.00 a month.
test.describe.configure({ mode: 'serial' });

let world: World;
let home: string;
let page: Page;
let id: string;
let offering: Offering;
const errors: string[] = [];

test.beforeAll(async ({ browser }) => {
  world = await World.begin(process.env.TEST_DATABASE_URL ?? '');
  home = world.environment.ALMANAC_URL ?? '';
  offering = await Offering.of(world);
  const { rateId } = await offering.plan(
    { name: 'Hives', mayDo: { cancel: 'period end', quantity: true, quantityMost: 9 } },
    { lines: [{ name: 'Hive', price: { scheme: 'each', amount: '31.00' } }], ends: { after: 3 } },
  );
  id = await offering.enrolled(rateId);
  await world.turnTo('2027-01-14');
  await world.parts.start('server', ['command/main.ts', 'serve'], world.environment, 'serving on');
  await world.parts.start('worker', ['command/main.ts', 'worker'], world.environment, 'worker at work');
  page = await browser.newPage();
  page.on('pageerror', (error) => errors.push(error.message));
  await openSample(page, home);
});
test.afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  expect(errors).toEqual([]);
  await world.end();
});

const settled = () => page.getByRole('table', { name: 'How it is settled' });

test('the next date is moved for the difference, or for nothing, with both amounts; a day that cannot be is said', async () => {
  await page.goto(`${home}/subscriptions/${id}`);
  await chooseChange(page, 'date');
  const day = page.getByLabel('The next payment is on');
  await day.fill('4 Feb');
  await day.press('Tab');
  await expect(page.getByText('That is the day already.')).toBeVisible();
  await day.fill('14 Feb');
  await day.press('Tab');
  const ways = page.getByRole('radiogroup', { name: 'The days it gives or takes' });
  await expect(ways).toContainText(
    'pay the difference: £10.00 on Thu 14 Jan 2027, for Thu 4 Feb 2027 to Sun 14 Feb 2027',
  );
  await expect(ways).toContainText('free: nothing is charged or given back');
  await expect(settled()).toContainText('Hive, 10 of 31 days of £31.00');
  await isAccessible(page);
  await ways.getByText('free:').click();
  await expect(settled()).toBeHidden();
});

test('a pause to the middle of a period asks what becomes of its rest', async () => {
  await chooseChange(page, 'pause until');
  const day = page.getByLabel('On again from');
  await day.fill('18 Mar');
  await day.press('Tab');
  const ways = page.getByRole('radiogroup', { name: 'What is left of the period' });
  await expect(ways).toContainText('£17.00 on Thu 18 Mar 2027, for Thu 18 Mar 2027 to Sun 4 Apr 2027');
  await day.fill('4 Apr');
  await day.press('Tab');
  await expect(page.getByText('It goes on where a period begins: nothing is left of one.')).toBeVisible();
  await isAccessible(page);
});

test('the customer sees on their own page what comes back and what is charged, and staff see it on the invoice', async ({
  browser,
}) => {
  const { customerId } = await Subscription.findByPk(id, { rejectOnEmpty: true });
  const link = await CustomerLink.create({ customerId, subscriptionId: id, expiresOn: '2027-12-31' });
  const own = await browser.newPage({ viewport: { width: 390, height: 844 } });
  await own.goto(`${home}/own/${linkToken(world.almanac, link.id, 'own')}`);
  await own.getByRole('button', { name: 'How many' }).click();
  await own.getByLabel('How many').last().fill('3');
  await own.getByText('from today, the rest of the period settled').click();
  const lines = own.getByRole('table', { name: 'How it is settled' });
  await expect(lines).toContainText('back for Hive, 21 of 31 days of £31.00');
  await expect(lines).toContainText('Hive, 21 of 31 days of £93.00');
  await expect(lines).toContainText('£42.00');
  await isAccessible(own);
  await own.getByRole('button', { name: 'Change how many' }).click();
  await expect(own.getByText(/^Done: the quantity is 3 from today/)).toBeVisible();
  await page.goto(`${home}/subscriptions/${id}`);
  await page.getByRole('button', { name: 'Turn the page' }).click();
  await expect(page.getByRole('row', { name: /back for Hive, 21 of 31 days of £31\.00/ })).toBeVisible();
  await own.reload();
  await expect(own.getByText('Hive, 21 of 31 days of £93.00')).toBeVisible();
  await own.close();
});

test('credit that an end leaves is said before it, and stands with the customer after it', async () => {
  await world.turnTo('2027-03-05');
  await page.goto(`${home}/subscriptions/${id}`);
  await chooseChange(page, 'quantity');
  await page.getByLabel('How many').last().fill('1');
  await page.getByText('from today, the rest of the period settled').click();
  await expect(
    page.getByText(/^£60\.00 is not used up by then and goes to the customer’s credit\.$/),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Change how many' }).click();
  await expect(page.getByText(/^Done: the quantity is 1/)).toBeVisible();
  await world.turnTo('2027-04-06');
  await page.getByRole('link', { name: 'Customer and letters' }).click();
  await expect(page.getByText('Credit at hand: £60.00')).toBeVisible();
  await isAccessible(page);
});

test('what is invoiced before its period is corrected where it changes, and that is said before', async () => {
  const { rateId } = await offering.plan(
    { name: 'Jars' },
    { lines: [{ name: 'Jar', price: { scheme: 'each', amount: '10.00' } }] },
  );
  const jars = await offering.enrolled(rateId, { quantity: 2 });
  await world.turnTo('2027-04-20');
  await page.goto(`${home}/subscriptions/${jars}`);
  await page.getByRole('button', { name: 'Change when' }).click();
  const days = page.getByLabel('Days before each period');
  await days.fill('100');
  await expect(page.getByRole('button', { name: 'Store it' })).toBeDisabled();
  await days.fill('20');
  await page.getByRole('button', { name: 'Store it' }).click();
  await expect(page.getByText('Each period is invoiced 20 days before it begins.')).toBeVisible();
  await isAccessible(page);
  await page.getByRole('button', { name: 'Turn the page' }).click();
  const invoices = page.getByRole('table', { name: /^Invoices/ });
  await expect(invoices.getByRole('row', { name: /6 May 2027 to 6 Jun 2027.*issued/ })).toBeVisible();
  await page.getByRole('button', { name: 'How many' }).click();
  await page.getByLabel('How many').last().fill('5');
  await expect(
    page.getByText(
      /^Invoice \d+ of £20\.00 was issued before its period begins: a credit note takes it back, and a new one is issued\.$/,
    ),
  ).toBeVisible();
  await isAccessible(page);
  await page.getByRole('button', { name: 'Change how many' }).click();
  await expect(page.getByText(/^Done: the quantity is 5/)).toBeVisible();
  await expect(invoices.getByRole('row', { name: /6 May 2027.*withdrawn.*20\.00/ })).toBeVisible();
  await expect(invoices.getByRole('row', { name: /6 May 2027.*issued.*50\.00/ })).toBeVisible();
});
