import { expect, test, type Page } from '@playwright/test';
import { isAccessible } from '../testing/accessible.ts';
import { World } from '../testing/world.ts';
import { mend } from '../server/readiness/mends.ts';
import { verify } from '../server/verify/verify.ts';
import { chooseRate, newCustomer } from './enrolling.ts';

let world: World;
let home: string;

test.beforeAll(async () => {
  world = await World.begin(process.env.TEST_DATABASE_URL ?? '');
  home = world.environment.ALMANAC_URL ?? '';
  await mend(world.almanac, 'no-tax');
  await mend(world.almanac, 'terms');
  await world.parts.start('server', ['command/main.ts', 'serve'], world.environment, 'serving on');
  await world.parts.start('worker', ['command/main.ts', 'worker'], world.environment, 'worker at work');
});
test.afterAll(() => world.end());

const APPROVES = '9171000000000012';
const NO_MONEY = '9171000000000517';

async function enrol(page: Page, name: string, card: string): Promise<void> {
  await page.goto(`${home}/enrol`);
  await newCustomer(page, name, `${name.toLowerCase().replace(' ', '.')}@post.example`);
  await chooseRate(page);
  await expect(page.getByRole('group', { name: 'Still missing' })).toContainText('a card to charge');
  await page.getByLabel('Card number').fill(card);
  await page.getByLabel('Expires').fill('11/30');
  await expect(page.getByText('Nothing is missing.')).toBeVisible();
  await page.getByRole('button', { name: 'Enrol', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name })).toBeVisible();
}

async function turnTo(page: Page, date: string, words: string): Promise<void> {
  await page.getByLabel('Turn to this day').fill(date);
  await page.getByRole('button', { name: 'Turn to it' }).click();
  await expect(page.getByRole('button', { name: 'Turn the page' })).toBeVisible({ timeout: 60_000 });
  await expect(page.getByLabel('Days').getByText(words)).toBeVisible();
}

test('a plan, an enrolment, a failed card, and its recovery by staff and by the customer', async ({
  page,
  browser,
}) => {
  const sent: string[] = [];
  page.on('request', (request) => {
    if (request.url().startsWith(home)) sent.push(request.postData() ?? '');
  });
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(error.message));

  await test.step('signs in to the demo', async () => {
    await page.goto(home);
    await isAccessible(page);
    await page.getByRole('button', { name: 'Open the sample business' }).click();
    await expect(page.getByText('Money cannot move yet: one thing is missing.')).toBeVisible();
    await expect(page.getByText('There is no plan')).toBeVisible();
    await isAccessible(page);
  });

  await test.step('makes a plan, and sees its charges while typing', async () => {
    await page.goto(`${home}/plans`);
    await expect(page.getByText('There is no plan yet.')).toBeVisible();
    await page.getByRole('link', { name: 'Make a plan' }).click();
    await page.getByLabel('Name', { exact: true }).fill('Queen Post');
    await page.getByLabel('Amount, GBP').fill('14.505');
    await page.getByLabel('Trial of').fill('3');
    await expect(page.getByText('At most 2 decimals, such as 1,234.50.')).toBeVisible();
    await page.getByLabel('Amount, GBP').fill('14.50');
    const charges = page.getByRole('table', { name: 'Coming charges' });
    await expect(charges.getByRole('row')).toHaveCount(13);
    await expect(charges.getByRole('row').nth(1)).toContainText('Thu 7 Jan 2027');
    await expect(charges.getByRole('row').nth(12)).toContainText('174.00');
    await isAccessible(page);
    await page.getByRole('button', { name: 'Make the plan' }).click();
    await expect(page.getByText('£14.50 every month, after a trial of 3 days').first()).toBeVisible();
    await isAccessible(page);
  });

  await test.step('enrols three customers; a wrong card is told beside its field and loses nothing', async () => {
    await enrol(page, 'Ada Ashgrove', APPROVES);
    await enrol(page, 'Bram Barleymow', NO_MONEY);
    await page.goto(`${home}/enrol`);
    await newCustomer(page, 'Cilla Coldwater', 'cilla@post.example');
    await chooseRate(page);
    await page.getByLabel('Card number').fill('9171000000000013');
    await page.getByLabel('Expires').fill('11/30');
    await page.getByRole('button', { name: 'Enrol', exact: true }).click();
    await expect(page.getByText('That is not a card number. Check the digits.').first()).toBeVisible();
    await expect(page.getByLabel('Name')).toHaveValue('Cilla Coldwater');
    await isAccessible(page);
    await page.getByLabel('Card number').fill(NO_MONEY);
    await page.getByRole('button', { name: 'Enrol', exact: true }).click();
    await expect(page.getByRole('heading', { level: 1, name: 'Cilla Coldwater' })).toBeVisible();
    expect(sent.join()).not.toContain('917100000000');
  });

  await test.step('turns the page by a day, then to a date: trials end, charges are made, two fail', async () => {
    await page.goto(home);
    await page.getByRole('button', { name: 'Turn the page' }).click();
    await expect(page.getByRole('heading', { level: 1, name: 'Tue 5 Jan 2027' })).toBeVisible();
    await turnTo(page, '2027-01-08', 'Fri 8 Jan 2027');
    await page.goto(`${home}/days/2027-01-07`);
    await expect(page.getByText('Declined: not enough money in the account.').first()).toBeVisible();
    await expect(page.getByRole('heading', { name: 'Came in' })).toBeVisible();
    await isAccessible(page);
  });

  await test.step('staff take another card: the debt is charged at once and the case closes', async () => {
    await page.goto(`${home}/cases?state=open`);
    await page.getByRole('cell', { name: /^Bram Barleymow/ }).click();
    await expect(
      page.getByLabel('The chosen case').getByText('Rung 1 of 4: wrote to the customer'),
    ).toBeVisible();
    await isAccessible(page);
    await page.getByRole('link', { name: 'Open the subscription' }).click();
    await page.getByRole('button', { name: 'Take another card' }).click();
    await page.getByLabel('Card number').fill(APPROVES);
    await page.getByLabel('Expires').fill('12/31');
    await page.getByRole('button', { name: 'Take the card and charge it' }).click();
    await expect(page.getByText('overdue')).toBeHidden();
    await expect(page.getByText('active')).toBeVisible();
    await isAccessible(page);
  });

  await test.step('the letterbook has the letter as its reader sees it', async () => {
    await page.goto(`${home}/letters?state=payment+declined`);
    await page.getByRole('cell', { name: /^Cilla Coldwater/ }).click();
    await expect(page.frameLocator('iframe').getByText('it was declined: not enough money')).toBeVisible();
    await isAccessible(page);
  });

  await test.step('the customer follows the link of the letter on a phone, and pays with another card', async () => {
    const links = world.mail().flatMap((letter) => {
      const text = letter.replace(/=\r\n/g, '').replace(/=3D/g, '=');
      // The letter before the trial ended has a link of its own: it is not of the case.
      return letter.includes('cilla@post.example') && text.includes('it was declined')
        ? (text.match(/http:\/\/127\.0\.0\.1:\d+\/own\/[\w.-]+/) ?? [])
        : [];
    });
    expect(new Set(links).size).toBe(1);
    const phone = await browser.newPage({ viewport: { width: 390, height: 844 } });
    await phone.goto(links[0] ?? '');
    await expect(phone.getByRole('heading', { name: 'Open: £14.50' })).toBeVisible();
    await isAccessible(phone);
    const width = await phone.evaluate(() => document.documentElement.scrollWidth);
    expect(width).toBeLessThanOrEqual(390);
    await phone.getByLabel('Card number').fill(APPROVES);
    await phone.getByLabel('Expires').fill('10/29');
    await phone.getByRole('button', { name: 'Change the card and pay £14.50' }).click();
    await expect(phone.getByText('Thank you, it is paid.')).toBeVisible();
    await expect(phone.getByRole('heading', { name: 'Open' })).toBeHidden();
    await phone.close();
  });

  await test.step('staff see the same page and can do nothing on it', async () => {
    await page.goto(`${home}/customers?search=cilla`);
    await page.getByRole('cell', { name: /^Cilla Coldwater/ }).click();
    await isAccessible(page);
    await page.getByLabel('The chosen customer').getByRole('link', { name: 'Queen Post' }).click();
    const opened = page.waitForEvent('popup');
    await page.getByRole('button', { name: 'As the customer sees it' }).click();
    const shown = await opened;
    await expect(shown.getByText('Nothing can be done on it from here.')).toBeVisible();
    await expect(shown.getByRole('button', { name: 'Change the card' })).toBeDisabled();
    await shown.close();
  });

  await test.step('a card that is not replaced lapses after three retries, and says so', async () => {
    await enrol(page, 'Dorrit Dunnock', NO_MONEY);
    await page.goto(home);
    await turnTo(page, '2027-02-01', 'Mon 1 Feb 2027');
    await page.goto(`${home}/subscriptions?state=lapsed`);
    await expect(page.getByRole('row', { name: /Dorrit Dunnock/ })).toBeVisible();
    await isAccessible(page);
    await page.getByRole('link', { name: 'Dorrit Dunnock' }).click();
    await expect(page.getByText('Declined: not enough money in the account')).toHaveCount(4);
    await page.goto(home);
    await expect(page.getByText('Lapsed with £14.50 open.')).toBeVisible();
    await page.getByRole('button', { name: 'Seen to: Dorrit Dunnock' }).click();
    await expect(page.getByText('Lapsed with £14.50 open.')).toBeHidden();
  });

  await test.step('the keyboard reaches everything', async () => {
    await page.keyboard.press('/');
    await page.getByLabel('A customer, invoice number, plan, amount or setting').fill('dorrit');
    await expect(page.getByRole('option', { name: /Dorrit Dunnock/ })).toBeVisible();
    await page.keyboard.press('Enter');
    await expect(page.getByRole('heading', { level: 1, name: 'Dorrit Dunnock' })).toBeVisible();
    await page.keyboard.press('[');
    await expect(page.getByRole('heading', { level: 1, name: 'Sun 31 Jan 2027' })).toBeVisible();
    await page.keyboard.press('e');
    await expect(page.getByRole('heading', { level: 1, name: 'Enrol a customer' })).toBeVisible();
  });

  const findings = await verify(world.almanac);
  expect(findings.flatMap(({ breaches }) => breaches)).toEqual([]);
  expect(errors).toEqual([]);
});
