import { expect, test, type Page } from '@playwright/test';
import { formatDay, toDay } from '../core/dates/day.ts';
import { sayAmount } from '../core/words/amount.ts';
import { sayDate } from '../core/words/date.ts';
import { CustomerLink } from '../server/customers/CustomerLink.ts';
import { linkToken } from '../server/customers/link.ts';
import { connectByKey } from '../server/gateways/connect.ts';
import { Subscription } from '../server/subscriptions/Subscription.ts';
import { isAccessible } from '../testing/accessible.ts';
import { openSample } from '../testing/openSample.ts';
import type { World } from '../testing/world.ts';
import { endSound, sell, serve } from './selling.ts';
import { chooseRate, newCustomer } from './enrolling.ts';

// What customers pay with, and what is agreed with one of them alone; each test goes on with what the one before it made.
test.describe.configure({ mode: 'serial' });

const NO_MONEY = '9171000000000517';
const LOST = '9272000000000416';
/** Its bank asks the cardholder to confirm each charge. */
const ASKS = '9272000000000721';
let world: World;
let home: string;

test.beforeAll(async () => {
  const rate = {
    ...{ key: 'monthly', name: 'Monthly' },
    terms: {
      ...{ currency: 'GBP', interval: 'P1M', setup: { amount: '45.00' } },
      lines: [{ name: 'Hive', price: { scheme: 'each', amount: '31.00' } }],
    },
    options: { methods: ['card', 'bank debit', 'online transfer', 'invoice'] },
  };
  world = await sell([{ key: 'hives', name: 'Hive Watch', rates: [rate] }]);
  home = await serve(world);
});
test.afterAll(() => endSound(world));

const today = async () =>
  (await world.almanac.db.row<{ day: string }>('select business_date::text as day from business'))?.day ?? '';
const enrol = (page: Page) => page.getByRole('button', { name: 'Enrol', exact: true }).click();
const typeCard = async (page: Page, number: string) => {
  await page.getByLabel('Card number').fill(number);
  await page.getByLabel('Expires', { exact: true }).fill('11/30');
};
const idOf = (page: Page) => /subscriptions\/(\d+)/.exec(page.url())?.[1] ?? '';

test('a card that its bank refuses is said beside its number; one is read on the reader instead', async ({
  page,
}) => {
  await openSample(page, home);
  await page.goto(`${home}/enrol`);
  await newCustomer(page, 'Ada Fenn', 'ada@post.example');
  await chooseRate(page, /Hive/);
  await typeCard(page, LOST);
  await enrol(page);
  await expect(
    page.getByText(/The bank refused this card .* the card was reported lost/).first(),
  ).toBeVisible();
  await expect(page.getByLabel('Card number')).toHaveAttribute('aria-invalid', 'true');
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Ada Fenn');

  await page.getByText('Card, read on the reader').click();
  await expect(page.getByRole('group', { name: 'Still missing' })).toContainText(
    'the card, read on the reader',
  );
  await page.getByRole('button', { name: 'Read the card on the reader' }).click();
  await expect(page.getByText('The reader waits for a card.')).toBeVisible();
  const reader = await page.context().newPage();
  await reader.goto(
    (await page.getByRole('link', { name: 'The reader on the counter' }).getAttribute('href')) ?? '',
  );
  await isAccessible(reader);
  // Closed at once it would take what was pressed back.
  const pressed = reader.waitForResponse((answer) => answer.request().method() === 'POST');
  await reader.getByRole('button', { name: /0012: Approves every charge/ }).click();
  await pressed;
  await reader.close();
  await expect(page.getByText('The card was read.')).toBeVisible();
  await isAccessible(page);
  await enrol(page);
  await expect(page.getByRole('heading', { level: 1, name: 'Ada Fenn' })).toBeVisible();
  await page.getByRole('link', { name: 'Customer and letters' }).click();
  await expect(page.getByRole('region', { name: 'Ways to pay' })).toContainText('Read on the reader on');
  await isAccessible(page);
});

test('what is agreed with one customer alone is shown day by day, kept, and charged just so', async ({
  page,
}) => {
  await openSample(page, home);
  await page.goto(`${home}/enrol`);
  await page.getByRole('combobox', { name: 'Customer' }).fill('Ada');
  await page.getByRole('option', { name: /Ada Fenn/ }).click();
  await chooseRate(page, /Hive/);
  await page.getByText('Card, typed here').click();
  await typeCard(page, NO_MONEY);
  await page.getByText('More', { exact: true }).click();
  await page.getByLabel('Billing day').selectOption('1');
  await page.getByLabel('Set-up, once').fill('10');
  await page.getByLabel('For so many payments').fill('2000');
  await expect(page.getByText(/1 to 1,000/)).toBeVisible();
  await page.getByLabel('For so many payments').fill('2');
  await page.getByLabel('How much').fill('10 %');
  await page.getByRole('button', { name: 'Add a line of this agreement alone' }).click();
  await expect(page.getByRole('group', { name: 'Still missing' })).toContainText(
    'a line of this agreement alone',
  );
  await page.getByLabel('What', { exact: true }).fill('A visit');
  await page.getByLabel('Amount', { exact: true }).fill('4.00');
  await page.getByLabel('Note on every invoice').fill('Mind the bees');
  await expect(page.getByRole('group', { name: 'The first payment' })).toContainText('until the billing day');
  await isAccessible(page);
  const rows = await page.getByRole('complementary').getByRole('row').allInnerTexts();
  await enrol(page);
  await expect(page.getByText(/Agreed on .*, through/)).toBeVisible();
  const id = idOf(page);

  // The fallback: the card of this subscription alone has no money, and the customer's other one is tried after it.
  await expect(page.getByText(/0517, expires 11\/2030, then Larkfield ending 0012/)).toBeVisible();
  const start = await today();
  await world.turnTo(formatDay(toDay(start) + 45));
  const charged = await world.almanac.db.rows<{ due: string; total: string; state: string }>(
    `select due_on::text as due, total::text, state from invoices where subscription_id = $id order by id`,
    { id },
  );
  expect(charged.length).toBeGreaterThan(1);
  for (const { due, total, state } of charged) {
    expect(state).toBe('paid');
    const said = sayAmount(BigInt(total), 'GBP').replace('£', '');
    expect(
      rows.some((row) => row.includes(sayDate(due)) && row.includes(said)),
      `${due} ${said}`,
    ).toBe(true);
  }
  await page.reload();
  await expect(page.getByText(/Declined: not enough money/).first()).toBeVisible();
  await isAccessible(page);
});

test('the effect of withdrawing is read first; the customer does it too, on their own page', async ({
  page,
}) => {
  await openSample(page, home);
  const ada = await world.almanac.db.row<{ id: string }>(
    `select id::text from customers where name = 'Ada Fenn'`,
  );
  await page.goto(`${home}/customers/${ada?.id}`);
  const ways = page.getByRole('region', { name: 'Ways to pay' });
  await expect(ways.getByText('first for Hive Watch alone')).toBeVisible();
  await ways.getByRole('button', { name: 'Make it the first' }).click();
  await expect(ways.getByText('the fallback, tried after the first')).toBeVisible();
  await ways.getByRole('button', { name: 'Check it, without a charge' }).first().click();
  await expect(ways.getByText(/the bank would let it be charged/).first()).toBeVisible();
  await ways.getByRole('button', { name: 'New expiry' }).first().click();
  await page.getByLabel('Expires now').fill('01/20');
  await page.getByRole('button', { name: /^Change it/ }).click();
  await expect(page.getByText(/That month is over/).first()).toBeVisible();
  await ways.getByRole('button', { name: 'Withdraw', exact: true }).first().click();
  await expect(ways.getByText(/is never charged again, and the customer is written to/)).toBeVisible();
  await expect(
    ways.getByText(/Hive Watch is charged to Larkfield ending 0012 from then on/).first(),
  ).toBeVisible();
  await isAccessible(page);
  await ways.getByRole('button', { name: /^Withdraw the mandate for/ }).click();
  await expect(ways.getByRole('button', { name: 'Make it the first' })).toBeHidden();
  await expect(ways.getByText('One that is not used any more')).toBeVisible();

  const { id: subscriptionId } = (await world.almanac.db.row<{ id: string }>(
    'select min(id)::text as id from subscriptions',
  )) ?? { id: '' };
  const link = await CustomerLink.create({
    ...{ customerId: ada?.id ?? '', subscriptionId, expiresOn: '2031-01-01' },
  });
  await page.setViewportSize({ width: 390, height: 800 });
  await page.goto(`${home}/own/${linkToken(world.almanac, link.id, 'own')}`);
  await page.getByRole('button', { name: 'Do not charge this card any more' }).click();
  await expect(page.getByText('Nothing is left to charge for Hive Watch:')).toBeVisible();
  await isAccessible(page);
  await page.getByRole('button', { name: 'Withdraw it' }).click();
  await expect(page.getByText('It is withdrawn: nothing is charged to it any more.')).toBeVisible();
  await expect(page.getByRole('heading', { name: 'Waits for your card' })).toBeVisible();
});

test('a bank account: its digits are checked as they are typed, both are shown when they are debited, and so they are', async ({
  page,
}) => {
  await connectByKey(world.almanac, world.environment.GATEWAY_DEBIT_SECRET_KEY ?? '', 'environment');
  await openSample(page, home);
  await page.goto(`${home}/enrol`);
  await newCustomer(page, 'Bram Sedge', 'bram@post.example');
  await chooseRate(page, /Hive/);
  await page.getByText('Bank account', { exact: true }).click();
  await page.getByLabel('IBAN').fill('GB44 TARN 0001 0100 0000 10');
  await expect(page.getByText('its check digits do not fit')).toBeVisible();
  const missing = page.getByRole('group', { name: 'Still missing' });
  await expect(missing).toContainText('the IBAN of the account');
  await missing.getByText('the holder of the account').click();
  await expect(page.getByLabel('Holder of the account')).toBeFocused();
  await isAccessible(page);
  await page.getByLabel('Holder of the account').fill('Bram Sedge');
  await page.getByLabel('IBAN').fill('gb44tarn00010100000001');
  await expect(page.getByText('its check digits do not fit')).toBeHidden();
  // A Saturday: cards would be charged on it, debits are collected on the Monday after.
  const starts = nextSaturday(await today());
  await page.getByText('More', { exact: true }).click();
  await page.getByLabel('Starts').fill(starts);
  const monday = formatDay(toDay(starts) + 2);
  await expect(page.getByRole('cell', { name: new RegExp(sayDate(monday)) })).toBeVisible();
  await enrol(page);
  await expect(page.getByText(/Bank account ending 0001/).first()).toBeVisible();
  const id = idOf(page);
  await isAccessible(page);

  await world.turnTo(formatDay(toDay(monday) + 1));
  await page.reload();
  await expect(page.getByText(/the banks answer on/).first()).toBeVisible();
  expect(
    await world.almanac.db.rows(`select 1 from recovery_cases where subscription_id = $id`, { id }),
  ).toEqual([]);
  await world.turnTo(formatDay(toDay(monday) + 6));
  const paid = await world.almanac.db.rows(
    `select due_on::text as "dueOn", state from invoices where subscription_id = $id`,
    { id },
  );
  expect(paid).toEqual([{ dueOn: monday, state: 'paid' }]);
  await page.getByRole('link', { name: 'Customer and letters' }).click();
  const ways = page.getByRole('region', { name: 'Ways to pay' });
  await expect(ways).toContainText('In the name of Bram Sedge.');
  await expect(ways.getByRole('button', { name: 'New expiry' })).toHaveCount(0);

  // On their own page they give another account, to the words that stand there.
  const { customerId } = await Subscription.findByPk(id, { rejectOnEmpty: true });
  const link = await CustomerLink.create({ customerId, subscriptionId: id, expiresOn: '2031-01-01' });
  await page.setViewportSize({ width: 390, height: 800 });
  await page.goto(`${home}/own/${linkToken(world.almanac, link.id, 'own')}`);
  await page.getByText('Bank account', { exact: true }).click();
  await expect(page.getByText(/to collect from this bank account/)).toBeVisible();
  await page.getByRole('button', { name: 'Give this bank account' }).click();
  await expect(page.getByText('Give the name of whoever holds the account.')).toBeVisible();
  await isAccessible(page);
  await page.getByLabel('IBAN').fill('NL50 TARN 0000 0001 23');
  await page.getByLabel('Holder of the account').fill('Bram Sedge');
  await page.getByRole('button', { name: 'Give this bank account' }).click();
  await expect(page.getByText('Thank you: we have your bank account.')).toBeVisible();
  await expect(page.getByText('Now: Bank account ending 0123')).toBeVisible();
});

/** The next Saturday after a day. */
function nextSaturday(day: string): string {
  const from = toDay(day);
  const weekday = new Date(`${day}T00:00:00Z`).getUTCDay();
  return formatDay(from + ((6 - weekday + 7) % 7 || 7));
}

test('an online transfer: each invoice is paid at the bank’s own page, from the link in its letter, and back again', async ({
  page,
}) => {
  await openSample(page, home);
  await page.goto(`${home}/enrol`);
  await newCustomer(page, 'Tilda Rush', 'tilda@post.example');
  await chooseRate(page, /Hive/);
  await page.getByText('Online transfer', { exact: true }).click();
  await expect(page.getByText(/is paid at the bank’s own page/)).toBeVisible();
  await page.getByText('More', { exact: true }).click();
  await page.getByText(/^They are asked to agree to the terms of service/).click();
  await isAccessible(page);
  await enrol(page);
  await expect(page.getByRole('heading', { level: 1, name: 'Tilda Rush' })).toBeVisible();
  const id = idOf(page);
  await world.turnTo(formatDay(toDay(await today()) + 1));

  const link = await CustomerLink.findOne({ where: { subscriptionId: id }, rejectOnEmpty: true });
  await page.setViewportSize({ width: 390, height: 800 });
  const own = `${home}/own/${linkToken(world.almanac, link.id, 'own')}`;
  await page.goto(own);
  const go = page.getByRole('button', { name: 'Pay £76.00 by online transfer' });
  await expect(go).toBeHidden();
  const on = page.getByRole('button', { name: 'Go on' });
  await expect(on).toBeDisabled();
  await page.getByText(/^I have read the terms of service, version/).click();
  await isAccessible(page);
  await on.click();
  await expect(go).toBeVisible();
  await isAccessible(page);
  await go.click();
  await page.getByRole('button', { name: 'Go back without paying' }).click();
  await expect(page.getByText('Nothing was paid.')).toBeVisible();
  expect(page.url()).toBe(own);
  await go.click();
  await page.getByRole('button', { name: 'Pay from Tarn & Fell Bank' }).click();
  await expect(page.getByText('Thank you: your payment reached us.')).toBeVisible();
  await expect(go).toBeHidden();
  await isAccessible(page);
  // Whoever comes back in another browser is told where to look.
  const other = await page.context().browser()?.newPage();
  await other?.goto(`${home}/own/back`);
  await expect(other?.getByText('Open the link in your letter again') ?? page.locator('none')).toBeVisible();
  await other?.close();
});

test('a card whose bank asks: the letter leads to the bank’s page, and the renewal goes on once it is confirmed', async ({
  page,
}) => {
  await openSample(page, home);
  await page.goto(`${home}/enrol`);
  await newCustomer(page, 'Berit Holm', 'berit@post.example');
  await chooseRate(page, /Hive/);
  await typeCard(page, ASKS);
  await enrol(page);
  await expect(page.getByRole('heading', { level: 1, name: 'Berit Holm' })).toBeVisible();
  const id = idOf(page);
  const charged = await today();
  await world.turnTo(formatDay(toDay(charged) + 1));
  const until = sayDate(formatDay(toDay(charged) + 2));
  await page.reload();
  await expect(page.getByText(`Waits until ${until} for the cardholder to confirm it`).first()).toBeVisible();

  const link = await CustomerLink.findOne({ where: { subscriptionId: id }, rejectOnEmpty: true });
  await page.setViewportSize({ width: 390, height: 800 });
  await page.goto(`${home}/own/${linkToken(world.almanac, link.id, 'own')}`);
  const go = page.getByRole('button', { name: 'Confirm £76.00 at your bank' });
  await expect(go).toBeVisible();
  // What waits for that is not offered to be paid a second time.
  await expect(page.getByRole('button', { name: /^Pay / })).toBeHidden();
  await isAccessible(page);
  await go.click();
  await page.getByRole('button', { name: 'Go back and decide later' }).click();
  await expect(page.getByText('Nothing is confirmed yet.')).toBeVisible();
  await go.click();
  await page.getByRole('button', { name: 'Confirm this payment' }).click();
  await expect(page.getByText('Thank you: your payment reached us.')).toBeVisible();
  await expect(go).toBeHidden();
  await isAccessible(page);
});
