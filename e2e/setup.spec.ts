import { expect, test, type Page } from '@playwright/test';
import { Secret, TOTP } from 'otpauth';
import { makeSignInToken } from '../server/http/session.ts';
import { verify } from '../server/verify/verify.ts';
import { isAccessible } from '../testing/accessible.ts';
import { until, World } from '../testing/world.ts';
import { chooseRate, newCustomer } from './enrolling.ts';

let world: World;
let home: string;

test.beforeAll(async () => {
  const changes = { ALMANAC_DEMO: 'false' };
  world = await World.begin(process.env.TEST_DATABASE_URL ?? '', changes, false);
  home = world.environment.ALMANAC_URL ?? '';
  // Without the key in its environment the server connects nothing by itself.
  const { GATEWAY_SECRET_KEY: _key, ...environment } = world.environment;
  await world.parts.start('server', ['command/main.ts', 'serve'], environment, 'serving on');
  await world.parts.start('worker', ['command/main.ts', 'worker'], environment, 'worker at work');
});
test.afterAll(() => world.end());

const PASSWORD = 'walnut barge lantern seven';
const APPROVES = '9171000000000012';
const NAME = 'Fenmarsh 🐝 <b>Hives</b> & نحل';

async function open(page: Page, path: string, title: string): Promise<void> {
  await page.goto(`${home}${path}`);
  await expect(page.getByRole('heading', { level: 1, name: title })).toBeVisible();
}

async function store(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Store the changes' }).click();
  await expect(page.getByText('Stored.')).toBeVisible();
}

test('the first hour: from no owner to money that can move', async ({ page, browser }) => {
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(error.message));
  page.on('console', (said) => {
    if (/Content Security Policy/.test(said.text())) errors.push(said.text());
  });

  await test.step('the owner is made by the link of the terminal', async () => {
    await page.goto(home);
    await expect(page.getByRole('button', { name: 'Open the sample business' })).toBeHidden();
    await isAccessible(page);
    await page.goto(`${home}/sign-in/${await makeSignInToken(world.almanac.db)}`);
    await page.getByLabel('Your name').fill('Ada Ashgrove');
    await page.getByLabel('Your e-mail').fill('ada@staff.example');
    await page.getByLabel('A password').fill('password1234');
    await page.getByLabel('The same again').fill('password1234');
    await page.getByRole('button', { name: 'Become the owner' }).click();
    await expect(page.getByText('Take a few words that do not belong together.')).toBeVisible();
    await isAccessible(page);
    await page.getByLabel('A password').fill(PASSWORD);
    await page.getByLabel('The same again').fill(PASSWORD);
    await page.getByRole('button', { name: 'Become the owner' }).click();
  });

  await test.step('the start screen says what is missing before money can move', async () => {
    await expect(page.getByRole('heading', { level: 1, name: 'Readiness' })).toBeVisible();
    await expect(page.getByText('Money cannot move yet: 4 things are missing.')).toBeVisible();
    await isAccessible(page);
  });

  await test.step('a gateway is connected by a hand-over, and refusing it connects nothing', async () => {
    await page.getByRole('button', { name: 'Connect a gateway' }).click();
    await page.getByRole('button', { name: 'Refuse' }).click();
    await expect(page.getByText('Nothing was connected.')).toBeVisible();
    await page.getByRole('link', { name: 'Back to the gateways' }).click();
    await page.getByRole('button', { name: 'Connect by hand-over' }).click();
    await page.getByRole('button', { name: /Sample business, cards(?! abroad)/ }).click();
    await expect(page.getByRole('cell', { name: 'may charge and pay out' })).toBeVisible();
    await isAccessible(page);
    await page.getByRole('button', { name: 'Try the reader' }).click();
    await expect(page.getByText('The amount stands on the reader.')).toBeVisible();
    const counter = await browser.newPage();
    await counter.goto(new URL('/reader/cards-main', world.environment.GATEWAY_URL).href);
    await counter.getByRole('button', { name: 'Present a card: it approves' }).click();
    await counter.close();
    await expect(page.getByText('The reader took the card.')).toBeVisible();
  });

  await test.step('one click mends what can be mended by one', async () => {
    await open(page, '/setup', 'Readiness');
    await page.getByRole('button', { name: 'Begin with a plain text' }).first().click();
    await expect(page.getByText('There are no terms of service')).toBeHidden();
    await page.getByRole('button', { name: 'Take accounts@fenmarsh-hives.example' }).click();
    await expect(page.getByText('Customers are not told where to write')).toBeHidden();
  });

  await test.step('the business takes any text, and two who edit it are told', async () => {
    await open(page, '/setup/business', 'Business');
    const other = await page.context().newPage();
    await open(other, '/setup/business', 'Business');
    await other.getByLabel('Legal name').fill('Theirs Ltd');
    await store(other);
    await other.close();
    await page.getByLabel('Name', { exact: true }).fill(NAME);
    await page.getByLabel('Bank-statement text').fill('fenmarsh');
    await page.getByRole('button', { name: 'Store the changes' }).click();
    await expect(page.getByText('Give at most 22 capitals')).toBeVisible();
    await page.getByLabel('Bank-statement text').fill('FENMARSH HIVES');
    await page.getByRole('button', { name: 'Store the changes' }).click();
    await expect(page.getByRole('alert').getByText('Theirs Ltd')).toBeVisible();
    await isAccessible(page);
    await page.getByLabel('Legal name').fill('Theirs Ltd');
    await page.getByRole('button', { name: 'Store mine' }).click();
    await expect(page.getByText('Stored.')).toBeVisible();
    await expect(page.getByText(NAME).first()).toBeVisible();
  });

  await test.step('the look: a logo, and a colour in another notation', async () => {
    await open(page, '/setup/look', 'Look');
    const logo =
      '<svg xmlns="http://www.w3.org/2000/svg" width="80" height="20"><rect width="80" height="20" fill="#fdfdfd"/></svg>';
    await page
      .getByLabel('Logo')
      .setInputFiles({ name: 'logo.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(logo) });
    await expect(page.getByText('100% of it vanishes on this ground.').first()).toBeVisible();
    await page.getByLabel('Main colour').fill('hsl(30 90% 29%)');
    await expect(page.getByText('Read as #8d4a07.')).toBeVisible();
    await isAccessible(page);
    await store(page);
  });

  await test.step('invoices, customers, letters and mail', async () => {
    await open(page, '/setup/invoices', 'Invoices');
    await page.getByLabel('Prefix', { exact: true }).fill('FH-');
    await page.getByLabel('Next number').fill('2000');
    await page.getByRole('button', { name: 'Add a field' }).click();
    await page.getByLabel('Field 1').fill('Purchase order');
    await isAccessible(page);
    await store(page);
    await open(page, '/setup/customers', 'Customers');
    await page.getByRole('row', { name: 'Country' }).getByLabel('required').check();
    await isAccessible(page);
    await store(page);
    await open(page, '/setup/recovery', 'Letters that go out');
    await page.getByText('The subscription is complete').click();
    await isAccessible(page);
    await store(page);
    await open(page, '/setup/mail', 'Mail');
    await page.getByRole('button', { name: 'Send a test letter' }).click();
    await expect(page.getByText('The mail server took it for ada@staff.example')).toBeVisible();
    await until(
      () => Promise.resolve(world.mail().some((mail) => mail.includes('To: ada@staff.example'))),
      'the test letter',
    );
    await isAccessible(page);
  });

  await test.step('a tax with rates by country, and the default', async () => {
    await open(page, '/setup/taxes', 'Taxes');
    await page.getByRole('button', { name: 'Make a tax' }).click();
    await page.getByLabel('Name').fill('VAT');
    await page.getByLabel('Percent').fill('200');
    await page.getByRole('button', { name: 'Make the tax' }).click();
    await expect(page.getByText('Give a rate in percent, from 0 to 100')).toBeVisible();
    await page.getByLabel('Percent').fill('20');
    await isAccessible(page);
    await page.getByRole('button', { name: 'Make the tax' }).click();
    await page.getByLabel('New subscriptions pay').selectOption({ label: 'VAT' });
    await expect(page.getByText('the default', { exact: true })).toBeVisible();
  });

  await test.step('holidays from a file, seen before they are added', async () => {
    await open(page, '/setup/calendar', 'Calendar');
    const text =
      'BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//x//EN\r\nBEGIN:VEVENT\r\nUID:1@x\r\nDTSTAMP:20270101T000000Z\r\nDTSTART;VALUE=DATE:20270503\r\nSUMMARY:May Day\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n';
    await page
      .getByLabel('Or read an iCalendar file')
      .setInputFiles({ name: 'h.ics', mimeType: 'text/calendar', buffer: Buffer.from(text) });
    await expect(page.getByText('The file would add 1 days')).toBeVisible();
    await page.getByRole('button', { name: 'Add them' }).click();
    await expect(page.getByRole('table', { name: 'Holidays' }).getByText('May Day')).toBeVisible();
    await isAccessible(page);
  });

  await test.step('policies, people, keys', async () => {
    await open(page, '/setup/policies', 'Policies');
    await page.getByRole('button', { name: 'Write a new version' }).first().click();
    await page.getByLabel('Text', { exact: true }).fill('The second text.');
    await page.getByRole('button', { name: 'Store the version' }).click();
    await expect(page.getByText('Version 2').first()).toBeVisible();
    await isAccessible(page);
    await open(page, '/setup/people', 'People');
    await page.getByRole('button', { name: 'Invite somebody' }).click();
    await page.getByLabel('Name').fill('Bram Barleymow');
    await page.getByLabel('E-mail').fill('bram@staff.example');
    await page.getByRole('button', { name: 'Send the invitation' }).click();
    await expect(page.getByText('Bram Barleymow, bram@staff.example, as biller')).toBeVisible();
    await isAccessible(page);
    await open(page, '/setup/keys', 'API keys');
    await page.getByLabel('For which program').fill('A shop');
    await page.getByText('see plans and rates').click();
    await page.getByRole('button', { name: 'Make the key' }).click();
    await expect(page.getByText('Copy it now: it is not shown again.')).toBeVisible();
    await isAccessible(page);
  });

  await test.step('a second factor, and signing in with it', async () => {
    await open(page, '/me', 'Ada Ashgrove');
    await page.getByLabel('Your password, once more').fill(PASSWORD);
    await page.getByRole('button', { name: 'Begin' }).click();
    const letters = (await page.locator('code').textContent()) ?? '';
    const totp = new TOTP({ secret: Secret.fromBase32(letters) });
    await page.getByLabel('The code it shows').fill(totp.generate());
    await page.getByRole('button', { name: 'Turn it on' }).click();
    await expect(page.getByText('they are not shown again')).toBeVisible();
    const [recovery = ''] = await page
      .locator('ul li')
      .filter({ hasText: /^[0-9a-f-]{23}$/ })
      .allTextContents();
    await isAccessible(page);
    await page.getByRole('button', { name: 'Sign out' }).click();
    await page.getByLabel('E-mail').fill('ada@staff.example');
    await page.getByLabel('Password').fill(PASSWORD);
    await page.getByRole('button', { name: 'Sign in' }).click();
    await page.getByLabel('Code of your second factor').fill(recovery);
    await page.getByRole('button', { name: 'Sign in' }).click();
    await expect(page.getByRole('heading', { level: 1, name: 'Readiness' })).toBeVisible();
  });

  await test.step('with a plan money can move, and the day sheet is the start', async () => {
    await page.getByRole('link', { name: 'Make a plan' }).click();
    await page.getByLabel('Name', { exact: true }).fill('Queen Post');
    await page.getByLabel('Amount, GBP').fill('10.00');
    await expect(page.getByRole('table', { name: 'Coming charges' }).getByRole('row').nth(1)).toContainText(
      '12.00',
    );
    await page.getByRole('button', { name: 'Make the plan' }).click();
    await open(page, '/setup', 'Readiness');
    await expect(page.getByText('Money can move.')).toBeVisible();
    await open(page, '/', 'Mon 4 Jan 2027');
  });

  await test.step('a rehearsal shows all of it and is kept nowhere', async () => {
    await open(page, '/rehearsal', 'Sign up');
    await page.getByLabel('Plan').selectOption({ index: 1 });
    await page.getByLabel('Card number').fill(APPROVES);
    await page.getByLabel('Expires').fill('11/30');
    await isAccessible(page);
    await page.getByRole('button', { name: 'Sign up' }).click();
    await expect(page.getByText('£12.00 is collected now.')).toBeVisible();
    await expect(page.frameLocator('iframe').first().getByText('The first payment is £12.00')).toBeVisible();
    await isAccessible(page);
    const kept = await world.almanac.db.row<{ n: string }>(
      `select (select count(*) from customers) + (select count(*) from subscriptions) + (select count(*) from letters) as n`,
    );
    expect(kept?.n).toBe('0');
    expect(await world.chargesAtGateway()).toEqual([]);
  });

  await test.step('an enrolment asks what Setup says, and its letters and invoices say it', async () => {
    await open(page, '/enrol', 'Enrol a customer');
    await newCustomer(page, 'Zoë <i>Ўладзь</i> 木', 'zoe@post.example');
    await chooseRate(page);
    await page.getByText('More', { exact: true }).click();
    await page.getByLabel('Purchase order').fill('PO-7/é');
    await page.getByLabel('Card number').fill(APPROVES);
    await page.getByLabel('Expires').fill('11/30');
    await expect(page.getByText('The mandate keeps version 2 of the terms of service.')).toBeVisible();
    await page.getByRole('group', { name: 'Still missing' }).getByRole('button', { name: 'country' }).click();
    await expect(page.getByLabel('Country')).toBeFocused();
    await page.getByLabel('Country').selectOption({ label: 'Iceland' });
    await isAccessible(page);
    await page.getByRole('button', { name: 'Enrol', exact: true }).click();
    await expect(page.getByRole('heading', { level: 1, name: 'Zoë <i>Ўладзь</i> 木' })).toBeVisible();
    await page.getByRole('button', { name: 'Turn the page' }).click();
    await expect(page.getByLabel('Days').getByText('Tue 5 Jan 2027')).toBeVisible();
    const invoice = await world.almanac.db.row(
      `select prefix || number as number, total, fields, (select parties from invoice_parties p where p.id = parties_id) as seller from invoices`,
    );
    expect(invoice).toMatchObject({
      number: 'FH-2000',
      total: '1200',
      fields: [{ label: 'Purchase order', value: 'PO-7/é' }],
      seller: { legalName: 'Theirs Ltd', to: { name: 'Zoë <i>Ўладзь</i> 木' } },
    });
    await page.goto(`${home}/letters?state=receipt`);
    await page.getByRole('cell', { name: 'Zoë <i>Ўладзь</i> 木', exact: true }).click();
    await expect(page.frameLocator('iframe').getByText('Dear Zoë <i>Ўладзь</i> 木,')).toBeVisible();
  });

  await test.step('the audit has it all, and the always-true holds', async () => {
    await open(page, '/setup/audit', 'Audit');
    await page.getByLabel('Search entries').fill('enrolled');
    await page.getByRole('cell', { name: 'enrolled a customer' }).click();
    await expect(page.getByText('Ada Ashgrove enrolled a customer')).toBeVisible();
    await isAccessible(page);
    const broken = (await verify(world.almanac)).filter(({ breaches }) => breaches.length > 0);
    expect(broken).toEqual([]);
    expect(errors).toEqual([]);
  });
});
