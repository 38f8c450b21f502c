import { expect, test, type Page } from '@playwright/test';
import { formatDay, toDay } from '../core/dates/day.ts';
import { Business } from '../server/business/Business.ts';
import { isAccessible } from '../testing/accessible.ts';
import { openSample } from '../testing/openSample.ts';
import { World } from '../testing/world.ts';

test.describe.configure({ mode: 'serial' });

let world: World;
let home: string;
let page: Page;
const errors: string[] = [];

test.beforeAll(async ({ browser }) => {
  world = await World.begin(process.env.TEST_DATABASE_URL ?? '');
  home = world.environment.ALMANAC_URL ?? '';
  await world.enrol([{}, {}, { code: '51' }]);
  await world.turnTo('2027-01-06');
  await world.parts.start('server', ['command/main.ts', 'serve'], world.environment, 'serving on');
  page = await browser.newPage();
  page.on('pageerror', (error) => errors.push(error.message));
  await openSample(page, home);
});
test.afterAll(async () => {
  expect(errors).toEqual([]);
  await world.end();
});

test('days chosen on the rail by keyboard are summed, and what is to be done is found by a word for it', async () => {
  const { businessDate } = await Business.findOne({ rejectOnEmpty: true });
  const later = formatDay(toDay(businessDate) + 10);
  await page.goto(`${home}/days/${businessDate}`);
  await page.locator(`nav[aria-label="Days"] [data-stop="${later}"]`).focus();
  await page.keyboard.press('Shift+Enter');
  await expect(page).toHaveURL(`${home}/days/${businessDate}/to/${later}`);
  await expect(page.getByRole('heading', { level: 1 })).toContainText(' to ');
  await page.getByRole('button', { name: 'Next month' }).click();
  await expect(page.getByRole('button', { name: 'Next month' })).toHaveAttribute('aria-pressed', 'true');
  await expect(page.getByRole('columnheader', { name: 'Planned' })).toBeVisible();
  await isAccessible(page);
  // The field is loaded when it is first wanted: what is typed meanwhile is kept, and is no shortcut.
  await page.route('**/assets/Find-*.js', async (route) => {
    await page.keyboard.type('ret');
    await route.continue();
  });
  await page.keyboard.press('/');
  const field = page.getByLabel('A customer, invoice number, plan, amount or setting');
  await expect(field).toHaveValue('ret');
  await page.keyboard.type('ry');
  await expect(field).toHaveValue('retry');
  await expect(page.getByRole('option').first()).toContainText('Retries of failed payments');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(`${home}/ladders`);
});

test('days that are none, or too many, are said to be, and nothing breaks', async () => {
  for (const path of ['garbage', '2027-02-30', 'garbage/to/2027-01-01']) {
    await page.goto(`${home}/days/${path}`);
    await expect(page.getByRole('heading', { level: 1 })).toContainText(/^No such days|^No sheet for/);
  }
  await page.goto(`${home}/days/2027-02-01/to/2027-01-01`);
  await expect(page.getByText('Give a last day that is not before the first.')).toBeVisible();
  await page.goto(`${home}/days/2020-01-01/to/2027-01-01`);
  await expect(page.getByText('At most 400 days at once.')).toBeVisible();
});

test('a day on which very much happened shows the first of it, and the rest as it is asked for', async () => {
  const { businessDate } = await Business.findOne({ rejectOnEmpty: true });
  await world.almanac.db.rows(
    `with one as (select customer_id, rate_id, terms from subscriptions order by id limit 1)
     insert into subscriptions (reference, customer_id, rate_id, terms, state, starts_on, enrolled_on)
     select 'begun-' || n, customer_id, rate_id, terms, 'paused', $businessDate, $businessDate from one, generate_series(1, 95) n`,
    { businessDate },
  );
  await page.goto(`${home}/days/${businessDate}`);
  const rows = page.locator('section', { hasText: 'Also that day' }).last().locator('tbody tr');
  await expect(rows).toHaveCount(40);
  await page.getByRole('button', { name: /^Show more: 40 of/ }).click();
  await expect(rows).toHaveCount(80);
  await page.getByRole('button', { name: /^Show more: 80 of/ }).click();
  await expect(page.getByRole('button', { name: /^Show more/ })).toHaveCount(0);
  expect(await rows.count()).toBeGreaterThanOrEqual(95);
  await isAccessible(page);
  await world.almanac.db.rows(`delete from subscriptions where reference like 'begun-%'`);
});
