import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import getPort from 'get-port';
import { expect, test, type FrameLocator, type Page } from '@playwright/test';
import { inTheNameOf } from '../server/audit/asker.ts';
import { importFiles } from '../server/imports/importFiles.ts';
import { mend } from '../server/readiness/mends.ts';
import { changeSection, readSection } from '../server/settings/settings.ts';
import { signUpPageSchema, type SignUpPageInput } from '../server/signUp/messages.ts';
import {
  changeSignUpPage,
  makeSignUpPage,
  readSignUpPage,
  switchSignUpPage,
} from '../server/signUp/pages.ts';
import { verify } from '../server/verify/verify.ts';
import { isAccessible } from '../testing/accessible.ts';
import { openSample } from '../testing/openSample.ts';
import { World } from '../testing/world.ts';

// Customers join by themselves: on the pages, and through the site of the business that shows them.

const GOOD = '9171000000000012';
const NO_MONEY = '9171000000000517';
const LOST = '9272000000000416';
let world: World;
let home: string;
let site: string;
let rates: Record<string, string>;

const flat = (name: string, amount: string) => [{ name, price: { scheme: 'flat', amount } }];
const PLANS = [
  {
    ...{ key: 'hives', name: 'Hive Watch', description: 'A scale under each hive.' },
    rates: [
      {
        ...{ key: 'monthly', name: 'Monthly' },
        terms: { currency: 'GBP', interval: 'P1M', trial: { length: 'P14D' }, lines: flat('Hive', '12.00') },
      },
      {
        ...{ key: 'yearly', name: 'Yearly' },
        terms: { currency: 'GBP', interval: 'P1Y', trial: { length: 'P14D' }, lines: flat('Hive', '120.00') },
      },
    ],
  },
  {
    ...{ key: 'rows', name: 'Adopt a Row' },
    rates: [
      {
        key: 'monthly',
        name: 'Monthly',
        terms: { currency: 'GBP', interval: 'P1M', lines: flat('Row', '8.00') },
      },
      {
        key: 'yearly',
        name: 'Yearly',
        terms: { currency: 'GBP', interval: 'P1Y', lines: flat('Row', '80.00') },
      },
      {
        ...{ key: 'own', name: 'Your own amount' },
        terms: {
          ...{ currency: 'GBP', interval: 'P1M' },
          lines: [{ name: 'Gift', price: { scheme: 'chosen', amount: '15.00', min: '3.00' } }],
        },
      },
    ],
  },
  {
    ...{ key: 'course', name: 'Course' },
    rates: [
      {
        key: 'once',
        name: 'Paid at once',
        terms: { currency: 'GBP', once: [{ name: 'Course', amount: '240.00' }] },
      },
      {
        ...{ key: 'parts', name: 'In six parts' },
        terms: {
          ...{ currency: 'GBP', interval: 'P1M', ends: { after: 6 } },
          lines: [{ name: 'Course', price: { scheme: 'instalments', total: '252.00' } }],
        },
      },
    ],
  },
];

test.beforeAll(async () => {
  world = await World.begin(process.env.TEST_DATABASE_URL ?? '', { LOG_LEVEL: 'warn' });
  home = world.environment.ALMANAC_URL ?? '';
  await mend(world.almanac, 'terms');
  await mend(world.almanac, 'no-tax');
  const files = [{ name: 'plans.json', text: JSON.stringify({ plans: PLANS }) }];
  expect((await importFiles(world.almanac, files, { dryRun: false })).problems).toEqual([]);
  const found = await world.almanac.db.rows<{ key: string; id: string }>(
    `select p.key || '/' || r.key as key, r.id::text from rates r join plans p on p.id = r.plan_id`,
  );
  rates = Object.fromEntries(found.map(({ key, id }) => [key, id]));
  const port = await getPort();
  site = `http://127.0.0.1:${port}`;
  const { version } = await readSection(world.almanac, 'sites');
  await changeSection(world.almanac, 'sites', { version, value: { origins: [site] } });
  await world.parts.start('server', ['command/main.ts', 'serve'], world.environment, 'serving on');
  const folder = join(import.meta.dirname, '..', 'demo', 'site');
  const environment = { ...world.environment, SITE_FOLDER: folder, SITE_PORT: String(port) };
  await world.parts.start('example site', ['standins/site/main.ts'], environment, 'example site on port');
  // What the site shows.
  await makePage('keep-with-us', ['hives/monthly', 'hives/yearly', 'rows/monthly', 'rows/yearly'], {
    policies: ['terms of service'],
  });
});
test.afterAll(() => world.end());
// Whatever was done: the books hold.
test.afterEach(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
});

const asStaff = <T>(work: () => Promise<T>) =>
  inTheNameOf({ personId: null, who: 'Olga', via: 'terminal', address: '', agent: '' }, work);

/** Makes a page of rates, named by plan and rate, and opens it; gives its id. */
async function makePage(
  key: string,
  of: readonly string[],
  facts: Partial<SignUpPageInput> = {},
): Promise<string> {
  const ids = of.map((one) => rates[one] ?? '');
  const value = signUpPageSchema.parse({
    ...{ key, rates: ids, firstRate: ids[0], texts: { en: { title: `Join: ${key}` } } },
    ...facts,
  });
  return asStaff(async () => {
    const { id } = await makeSignUpPage(world.almanac, value);
    await switchSignUpPage(world.almanac, id, true);
    return id;
  });
}

async function fillIn(page: Page | FrameLocator, name: string, card: string | null = GOOD): Promise<void> {
  await page.getByLabel('Name', { exact: true }).fill(name);
  await page.getByLabel('E-mail address').fill(`${name.toLowerCase().replaceAll(' ', '.')}@post.example`);
  if (card === null) return;
  await page.getByLabel('Card number').fill(card);
  await page.getByLabel('Expires').fill('11/30');
}
const joinNow = (page: Page | FrameLocator) =>
  page.getByRole('button', { name: 'Join', exact: true }).click();

/** What was agreed to by somebody: their terms, the charges that they were shown, and how it was taken up. */
const agreementOf = (name: string) =>
  world.almanac.db.row<{
    terms: Record<string, unknown>;
    dues: { due: string }[];
    channel: string;
    page: string;
  }>(
    `select s.terms, k.dues, a.channel, p.key as page
     from customers c join subscriptions s on s.customer_id = c.id join agreements a on a.subscription_id = s.id
       join reckonings k on k.id = a.reckoning_id join sign_up_pages p on p.id = a.page_id
     where c.name = $name`,
    { name },
  );

/** Without serious findings, in the frames of it too. */
async function isClean(page: Page): Promise<void> {
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.filter(({ impact }) => impact === 'serious' || impact === 'critical')).toEqual([]);
}

for (const [width, height] of [
  [390, 844],
  [1280, 800],
] as const)
  test(`through the block on the business’s own site: yearly, with a trial, ${width} px wide`, async ({
    browser,
  }) => {
    const context = await browser.newContext({ viewport: { width, height }, locale: 'en-GB' });
    const page = await context.newPage();
    const asked = new Set<string>();
    page.on('request', (request) => asked.add(new URL(request.url()).origin));
    const name = `Ada of ${width}`;
    await page.goto(site);
    const frame = page.frameLocator('iframe[title="What we offer"]');
    await expect(frame.getByText('£12.00 every month')).toBeVisible();
    await frame.getByLabel('every year').check();
    await expect(frame.getByText('£120.00 every year')).toBeVisible();
    await expect(frame.getByText('saves £24.00 a year against Monthly')).toBeVisible();
    await isClean(page);
    await frame.getByRole('link', { name: 'Join: Hive Watch' }).click();

    await expect(frame.getByText('You pay nothing today.')).toBeVisible();
    await expect(frame.getByText(/The trial runs until Mon,? 18 Jan 2027/)).toBeVisible();
    await expect(frame.getByRole('row', { name: /18 Jan 2027 £120\.00/ })).toBeVisible();
    await expect(frame.getByRole('radio', { name: /^Yearly saves £24/ })).toBeChecked();
    // The frame is as high as what it shows: nothing of it is scrolled by itself.
    const tall = await page.locator('iframe').evaluate((one) => one.getBoundingClientRect().height);
    await expect
      .poll(() => frame.locator('body').evaluate((body) => body.scrollHeight))
      .toBeLessThanOrEqual(Math.ceil(tall) + 1);
    await joinNow(frame);
    await expect(frame.getByText('This is needed.').first()).toBeVisible();
    await expect(frame.getByText('Agree to this to join.')).toBeVisible();
    await fillIn(frame, name);
    await frame.getByLabel(/I have read the terms of service/).check();
    await isClean(page);
    await joinNow(frame);
    await expect(frame.getByRole('heading', { name: 'Thank you' })).toBeVisible();
    await expect(frame.getByText('Nothing was charged today.')).toBeVisible();
    await expect(frame.getByText(/Next: £120\.00 on Mon,? 18 Jan 2027/)).toBeVisible();
    await isClean(page);

    const agreed = await agreementOf(name);
    expect(agreed).toMatchObject({ channel: 'customer', page: 'keep-with-us', terms: { interval: 'P1Y' } });
    // Nobody was asked but the site, the almanac and the gateway.
    const gateway = new URL(world.environment.GATEWAY_URL ?? '').origin;
    expect([...asked].filter((origin) => ![site, home, gateway].includes(origin))).toEqual([]);
    await context.close();
  });

test('a site that Setup does not name is refused by the browser', async ({ page }) => {
  const { version, value } = await readSection(world.almanac, 'sites');
  await changeSection(world.almanac, 'sites', { version, value: { origins: ['https://another.example'] } });
  const refused = page.waitForEvent('console', (message) => /frame-ancestors/.test(message.text()));
  await page.goto(site);
  await refused;
  await changeSection(world.almanac, 'sites', { version: version + 1, value });
});

test('an own amount is read as it is typed, held to its least, and charged at once', async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await makePage('gift', ['rows/own', 'rows/monthly']);
  await page.goto(`${home}/join/gift`);
  await fillIn(page, 'Bea Reed');
  await page.getByLabel('Your amount').fill('2');
  await expect(page.getByText('at least £3.00')).toBeVisible();
  await joinNow(page);
  await expect(page.getByRole('alert').first()).toHaveText('at least £3.00');
  await expect(page.getByLabel('Your amount')).toBeFocused();
  await page.getByLabel('Your amount').fill('22.50');
  await expect(page.getByText('You pay £22.50 today.')).toBeVisible();
  await isAccessible(page);
  await joinNow(page);
  await expect(page.getByText(/£22\.50 was charged to your Larkfield ending 0012 today\./)).toBeVisible();
  await expect(page.getByRole('link', { name: 'Open your own page' })).toBeVisible();
  expect((await agreementOf('Bea Reed'))?.dues[0]?.due).toBe('2250');
});

test('instalments are held against the same paid at once, with what they cost more', async ({ page }) => {
  await makePage('course', ['course/once', 'course/parts']);
  await page.goto(`${home}/join/course`);
  await expect(page.getByText('£12.00 more in all than Paid at once')).toBeVisible();
  await expect(page.getByText('You pay £240.00 today.')).toBeVisible();
  await page.getByRole('radio', { name: /^In six parts/ }).check();
  await expect(page.getByText('You pay £42.00 today.')).toBeVisible();
  await expect(page.getByText('£252.00 in all.')).toBeVisible();
  await expect(page.getByText(/It ends on Sun,? 4 Jul 2027 by itself\./)).toBeVisible();
  await fillIn(page, 'Cora Moss', NO_MONEY);
  await joinNow(page);
  await expect(page.getByText(/not enough money in the account\. Nothing was kept/).first()).toBeVisible();
  await expect(page.getByLabel('Card number')).toHaveAttribute('aria-invalid', 'true');
  await page.getByLabel('Card number').fill(GOOD);
  await joinNow(page);
  await expect(page.getByText(/£42\.00 was charged/)).toBeVisible();
  expect((await agreementOf('Cora Moss'))?.dues.length).toBe(6);
});

test('the last place is taken by one of two, and the other is told before anything is charged', async ({
  browser,
}) => {
  await makePage('last', ['rows/monthly'], { places: 1 });
  const pages = await Promise.all([browser.newPage(), browser.newPage()]);
  for (const [i, page] of pages.entries()) {
    await page.goto(`${home}/join/last`);
    await expect(page.getByText('One place is left.')).toBeVisible();
    await fillIn(page, `Racer ${i}`);
    await expect(page.getByRole('button', { name: 'Join', exact: true })).toBeEnabled();
  }
  const before = (await world.chargesAtGateway()).length;
  await Promise.all(pages.map((page) => joinNow(page)));
  const said = pages.map(async (page) => {
    const thanks = page.getByRole('heading', { name: 'Thank you' });
    const full = page.getByText('All places are taken. Nothing was charged.');
    await expect(thanks.or(full)).toBeVisible();
    return (await thanks.isVisible()) ? 'joined' : 'full';
  });
  expect((await Promise.all(said)).toSorted()).toEqual(['full', 'joined']);
  expect((await world.chargesAtGateway()).length - before).toBe(1);
  for (const page of pages) {
    await page.reload();
    await expect(page.getByText('All places are taken.')).toBeVisible();
  }
  await Promise.all(pages.map((page) => page.close()));
});

test('a page that is edited while it is filled in shows what it comes to now before anybody joins', async ({
  page,
}) => {
  const id = await makePage('edited', ['rows/monthly']);
  await page.goto(`${home}/join/edited`);
  await fillIn(page, 'Dora Finch');
  await expect(page.getByText('You pay £8.00 today.')).toBeVisible();
  // Another title matters to nobody; a text to agree to does.
  await asStaff(async () => {
    const { version, value } = await readSignUpPage(world.almanac, id);
    await changeSignUpPage(world.almanac, id, {
      version,
      value: { ...value, policies: ['terms of service'] },
    });
  });
  await joinNow(page);
  await expect(page.getByText(/Something was changed while you filled this in/)).toBeVisible();
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Dora Finch');
  await page.getByLabel(/I have read the terms of service/).check();
  await page.getByLabel('Card number').fill(GOOD);
  await joinNow(page);
  await expect(page.getByText(/£8\.00 was charged/)).toBeVisible();
  const kept = await world.almanac.db.row<{ n: number }>(
    `select count(*)::int as n from agreed_policies a join subscriptions s on s.id = a.subscription_id
     join customers c on c.id = s.customer_id where c.name = 'Dora Finch'`,
  );
  expect(kept?.n).toBe(1);
});

test('200 bad cards from one address are slowed, named to staff, and join nobody', async ({ page }) => {
  // Whoever is to be told is there.
  await openSample(page, home);
  const id = await makePage('tested', ['rows/monthly']);
  await page.goto(`${home}/join/tested`);
  const card = async () => {
    const answer = await page.request.post(`${world.environment.GATEWAY_URL}/v1/cards`, {
      headers: { Authorization: `Bearer ${world.environment.GATEWAY_PUBLIC_KEY}` },
      data: { number: LOST, expiresYear: 2030, expiresMonth: 11 },
    });
    return ((await answer.json()) as { token: string }).token;
  };
  const shown = { dueOn: '2027-01-04', due: '800' };
  const statuses: Record<number, number> = {};
  for (let n = 0; n < 200; n += 1) {
    const answer = await page.request.post(`${home}/api/join/tested/joining`, {
      headers: { 'X-Almanac': '1', 'X-Forwarded-For': '198.51.100.9' },
      data: {
        ...{ visit: crypto.randomUUID(), version: 1, language: 'en', pays: 'card', shown: [shown] },
        ...{ choice: { rateId: rates['rows/monthly'] }, cardToken: await card() },
        customer: { name: `Robot ${n}`, email: `robot${n}@post.example` },
      },
    });
    statuses[answer.status()] = (statuses[answer.status()] ?? 0) + 1;
  }
  // A few are asked about; all others are turned away before the bank hears of them.
  expect(statuses[422]).toBe(4);
  expect(statuses[429]).toBe(196);
  const joined = await world.almanac.db.rows("select 1 from customers where name like 'Robot%'");
  expect(joined).toEqual([]);
  const told = await world.almanac.db.rows<{ subject: string }>(
    "select subject from staff_letters where kind = 'cards tried'",
  );
  expect(told).toEqual([{ subject: 'Cards are being tried on the page Join: tested' }]);
  await page.goto(`${home}/sign-up-pages/${id}`);
  await expect(page.getByText('4 declined from 198.51.100.9')).toBeVisible();
  await isAccessible(page);
  // Somebody elsewhere joins as if nothing were.
  await page.goto(`${home}/join/tested`);
  await fillIn(page, 'Elin Hart');
  await joinNow(page);
  await expect(page.getByText(/£8\.00 was charged/)).toBeVisible();
});

test('from a starting point to a shared page: made, tried as a customer, opened, counted, and shown in two languages', async ({
  page,
  browser,
}) => {
  await openSample(page, home);
  await page.getByRole('link', { name: 'Sign-up pages' }).click();
  await page.getByRole('link', { name: 'Make a page' }).click();
  await page.getByRole('button', { name: 'A membership, monthly or yearly' }).click();
  await page.getByLabel('What it is called').fill('Friends of the marsh');
  await page.getByLabel('Each month').fill('6');
  await page.getByLabel('Each year').fill('60');
  await page.getByRole('button', { name: 'Make the plan, and go on' }).click();
  await expect(page.getByLabel('Title')).toHaveValue('Friends of the marsh');
  await expect(page.getByRole('textbox', { name: 'Address' })).toHaveValue('friends-of-the-marsh');
  const preview = page.frameLocator('iframe[title="The page"]');
  await expect(preview.getByText('£6.00 every month')).toBeVisible();
  await page.getByLabel('Title').fill('Be a friend');
  await expect(preview.getByRole('heading', { name: 'Be a friend' })).toBeVisible();
  await page.getByText('How long, and for how many').click();
  await page.getByLabel('Places').fill('0');
  await expect(page.getByRole('group', { name: 'Still missing' })).toContainText('At least 1');
  await page.getByLabel('Places').fill('50');
  await page.getByRole('button', { name: 'Add Deutsch' }).click();
  await page.getByLabel('Title').fill('Freundin werden');
  await isAccessible(page);
  await page.getByRole('button', { name: 'Make the page' }).click();

  await expect(page.getByRole('heading', { level: 1, name: 'Freundin werden' })).toBeVisible();
  await expect(page.getByText('It is off: nobody can join yet.')).toBeVisible();
  const tried = page.frameLocator('iframe[title="Freundin werden, tried as a customer"]');
  await tried.getByRole('button', { name: 'English' }).click();
  await fillIn(tried, 'Olga herself');
  await joinNow(tried);
  await expect(tried.getByText(/£6\.00 was charged to your Larkfield ending 0012/)).toBeVisible();
  expect(await world.almanac.db.rows("select 1 from customers where name = 'Olga herself'")).toEqual([]);
  await page.getByRole('button', { name: 'Turn on' }).click();
  await expect(page.getByText('Customers can join here.')).toBeVisible();
  const address = await page.getByRole('textbox', { name: 'Its address' }).inputValue();
  await expect(page.getByRole('img', { name: /QR code of/ })).toBeVisible();
  await isAccessible(page);

  const theirs = await browser.newContext({ locale: 'de-DE', viewport: { width: 390, height: 844 } });
  const customer = await theirs.newPage();
  await customer.goto(address);
  await expect(customer.getByRole('heading', { level: 1, name: 'Freundin werden' })).toBeVisible();
  await customer.getByLabel('Name', { exact: true }).fill('Frieda Moor');
  await customer.getByLabel('E-Mail-Adresse').fill('frieda@post.example');
  await customer.getByLabel('Kartennummer').fill(GOOD);
  await customer.getByLabel('Gültig bis').fill('11/30');
  await expect(customer.getByText(/Heute zahlen Sie 6,00\s£\./)).toBeVisible();
  await isAccessible(customer);
  await customer.getByRole('button', { name: 'Beitreten' }).click();
  await expect(customer.getByRole('heading', { name: 'Vielen Dank' })).toBeVisible();
  await theirs.close();
  await page.reload();
  await expect(page.getByText(/One has joined in all of 50 places, who bring £6\.00 a month/)).toBeVisible();
  await page.getByRole('link', { name: 'Sign-up pages' }).click();
  await page.getByRole('row', { name: /Freundin werden/ }).click();
  await expect(page.getByText('49 of 50 places are left.')).toBeVisible();
  await isAccessible(page);
});
