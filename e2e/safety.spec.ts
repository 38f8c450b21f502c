import { expect, test, type Page } from '@playwright/test';
import { isAccessible } from '../testing/accessible.ts';
import { World } from '../testing/world.ts';
import { makeSignInToken } from '../server/http/session.ts';
import { mend } from '../server/readiness/mends.ts';
import { Subscription } from '../server/subscriptions/Subscription.ts';
import { chooseRate, newCustomer } from './enrolling.ts';

let world: World;
let home: string;

test.beforeAll(async () => {
  world = await World.begin(process.env.TEST_DATABASE_URL ?? '', { ALMANAC_DEMO: 'false' });
  home = world.environment.ALMANAC_URL ?? '';
  await mend(world.almanac, 'no-tax');
  await mend(world.almanac, 'terms');
  await world.enrol([{ code: '51' }]);
  await world.parts.start('server', ['command/main.ts', 'serve'], world.environment, 'serving on');
});
test.afterAll(() => world.end());

const PASSWORD = 'walnut barge lantern seven';
const APPROVES = '9171000000000012';

async function open(page: Page, path: string, title: string): Promise<void> {
  await page.goto(`${home}${path}`);
  await expect(page.getByRole('heading', { level: 1, name: title, exact: true })).toBeVisible();
}

/** As if the owner had signed in an hour ago. */
const anHourLater = () =>
  world.almanac.db.rows(`update sessions set confirmed_at = now() - interval '1 hour'`);

test('who gives power proves who they are again; a double click is one act; links are ended; a factor is demanded', async ({
  page,
  browser,
}) => {
  await test.step('the owner signs in', async () => {
    await page.goto(`${home}/sign-in/${await makeSignInToken(world.almanac.db)}`);
    await page.getByLabel('Your name').fill('Ada Ashgrove');
    await page.getByLabel('Your e-mail').fill('ada@staff.example');
    await page.getByLabel('A password').fill(PASSWORD);
    await page.getByLabel('The same again').fill(PASSWORD);
    await page.getByRole('button', { name: 'Become the owner' }).click();
    await expect(page.getByRole('navigation', { name: 'Areas' })).toBeVisible();
  });

  await test.step('Enrol pressed twice enrols once', async () => {
    await page.goto(`${home}/enrol`);
    await newCustomer(page, 'Cilla Coldwater', 'cilla@post.example');
    await chooseRate(page);
    await page.getByLabel('Card number').fill(APPROVES);
    await page.getByLabel('Expires').fill('11/30');
    await expect(page.getByText('Nothing is missing.')).toBeVisible();
    await page.getByRole('button', { name: 'Enrol', exact: true }).dblclick();
    await expect(page.getByRole('heading', { level: 1, name: 'Cilla Coldwater' })).toBeVisible();
    const made = await world.almanac.db.rows(`select 1 from customers where name = 'Cilla Coldwater'`);
    expect(made).toHaveLength(1);
    expect(await Subscription.count()).toBe(2);
  });

  await test.step('a key is made an hour later: the password is asked for, and what was typed stays', async () => {
    await open(page, '/setup/keys', 'API keys');
    await page.getByLabel('For which program').fill('The books');
    await page.getByRole('group', { name: 'What it may do' }).locator('label').first().click();
    await anHourLater();
    await page.getByRole('button', { name: 'Make the key' }).click();
    const asked = page.getByRole('dialog', { name: 'Is it still you?' });
    await expect(asked).toBeVisible();
    await isAccessible(page);
    await asked.getByLabel('Your password').fill('not my password');
    await asked.getByRole('button', { name: 'Go on' }).click();
    await expect(asked.getByText('This is not your password.')).toBeVisible();
    await asked.getByLabel('Your password').fill(PASSWORD);
    await asked.getByRole('button', { name: 'Go on' }).click();
    await expect(asked).toBeHidden();
    await expect(page.getByRole('cell', { name: 'The books' })).toBeVisible();
  });

  await test.step('the links of a customer are ended, after it is said what that does', async () => {
    await world.turnTo('2027-01-05');
    const { customerId } = await Subscription.findOne({ order: ['id'], rejectOnEmpty: true });
    await page.goto(`${home}/customers/${customerId}`);
    await expect(page.getByText('One link in a letter is good still.')).toBeVisible();
    await page.getByRole('button', { name: 'End them …' }).click();
    await expect(page.getByText('Letters from now on carry new ones')).toBeVisible();
    await isAccessible(page);
    await page.getByRole('button', { name: 'End it', exact: true }).click();
    await expect(page.getByText('None opens it at present.')).toBeVisible();
  });

  await test.step('staff look at a page of a customer that opens for nobody else', async () => {
    const { id } = await Subscription.findOne({ order: ['id'], rejectOnEmpty: true });
    await page.goto(`${home}/subscriptions/${id}`);
    const opened = page.waitForEvent('popup');
    await page.getByRole('button', { name: 'As the customer sees it' }).click();
    const shown = await opened;
    await expect(shown.getByText('Nothing can be done on it from here.')).toBeVisible();
    const address = shown.url();
    await shown.close();
    const stranger = await (await browser.newContext()).newPage();
    await stranger.goto(address);
    await expect(stranger.getByText('sign in first')).toBeVisible();
    await stranger.close();
  });

  await test.step('a second factor is demanded of owners: nothing else opens until they have one', async () => {
    await open(page, '/setup/security', 'Security');
    await page.getByLabel('Minutes unused until a session ends').fill('2');
    await page.getByRole('button', { name: 'Store the changes' }).click();
    await expect(page.getByText('Give a whole number from 5 to 720.')).toBeVisible();
    await page.getByLabel('Minutes unused until a session ends').fill('60');
    await page.getByLabel('A second factor is needed by').selectOption('owners');
    await expect(page.getByText('That counts for you too.')).toBeVisible();
    await isAccessible(page);
    await page.getByRole('button', { name: 'Store the changes' }).click();
    await page.goto(`${home}/customers`);
    await expect(page.getByText('This business asks for a second factor')).toBeVisible();
    await isAccessible(page);
  });
});
