import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { importFiles } from '../server/imports/importFiles.ts';
import { mend } from '../server/readiness/mends.ts';
import { CustomerLink } from '../server/customers/CustomerLink.ts';
import { linkToken } from '../server/customers/link.ts';
import { verify } from '../server/verify/verify.ts';
import { isAccessible } from '../testing/accessible.ts';
import { openSample } from '../testing/openSample.ts';
import { World } from '../testing/world.ts';
import { chooseChange } from './chooseChange.ts';
import { typeRate } from './sampleOffer.ts';
import { chooseRate, newCustomer } from './enrolling.ts';

// Each goes on with what the one before it made.
test.describe.configure({ mode: 'serial' });

const DEMO = join(import.meta.dirname, '..', 'demo');
const APPROVES = '9171000000000012';
/** The smallest document that begins as a PDF does. */
const PDF = Buffer.from('%PDF-1.4\n%%EOF\n');

let world: World;
let home: string;
const errors: string[] = [];

test.beforeAll(async () => {
  world = await World.begin(process.env.TEST_DATABASE_URL ?? '');
  home = world.environment.ALMANAC_URL ?? '';
  await mend(world.almanac, 'no-tax');
  await mend(world.almanac, 'terms');
  const { plans } = JSON.parse(readFileSync(join(DEMO, 'plans.json'), 'utf8')) as { plans: object[] };
  const text = JSON.stringify({ plans });
  const report = await importFiles(world.almanac, [{ name: 'plans.json', text }], { dryRun: false });
  expect(report.problems).toEqual([]);
  await world.parts.start('server', ['command/main.ts', 'serve'], world.environment, 'serving on');
});
test.afterAll(async () => {
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  expect(errors).toEqual([]);
  await world.end();
});

async function open(page: Page, path: string): Promise<void> {
  page.on('pageerror', (error) => errors.push(error.message));
  await openSample(page, home);
  await page.goto(`${home}${path}`);
}
const planId = async (name: string) =>
  (await world.almanac.db.row<{ id: string }>('select id::text from plans where name = $name', { name }))
    ?.id ?? '';
/** The amounts that the margin lists. */
const amounts = (page: Page) =>
  page
    .getByRole('table', { name: 'Coming charges' })
    .locator('tbody tr')
    .evaluateAll((rows) => rows.map((row) => row.querySelectorAll('td')[1]?.textContent ?? ''));

test('a plan says all it has to say: formatted text, picture, document, extra lines, questions, what customers may', async ({
  page,
}) => {
  const id = await planId('Adopt a Row');
  await open(page, `/plans/${id}/edit`);
  const description = page.getByRole('textbox', { name: 'Description' });
  await description.click();
  await expect(page.getByRole('toolbar', { name: 'Formatting' })).toBeVisible();
  await description.fill('A row of your own.');
  await description.press('Control+a');
  await page.getByRole('button', { name: 'Bold' }).click();
  await description.press('ArrowRight');
  await page.getByLabel('Picture for the text').setInputFiles(join(DEMO, 'logo.svg'));
  await expect(description.locator('img[src^="/pictures/"]')).toBeVisible();
  await page.getByLabel('Picture', { exact: true }).nth(1).setInputFiles(join(DEMO, 'logo.svg'));
  await expect(page.getByAltText('Of the plan')).toBeVisible();
  await page
    .getByLabel('Add a document (PDF)')
    .setInputFiles({ name: 'a.pdf', mimeType: 'application/pdf', buffer: Buffer.from('no') });
  await expect(page.getByText('Choose a PDF.')).toBeVisible();
  await page
    .getByLabel('Add a document (PDF)')
    .setInputFiles({ name: 'Care of a row.pdf', mimeType: 'application/pdf', buffer: PDF });
  await expect(page.getByLabel('Document 1')).toHaveValue('Care of a row');
  await page.getByRole('button', { name: 'Add an extra line' }).click();
  const extra = page.getByRole('region', { name: 'Extra line 1' });
  await expect(page.getByRole('group', { name: 'Still missing' })).toBeVisible();
  await extra.getByLabel('Extra line').fill('A jar of honey');
  await extra.getByLabel('It is', { exact: true }).selectOption('preselected');
  await extra.getByLabel('Scheme').selectOption('each');
  await extra.getByLabel('Price of one, GBP').fill('4.505');
  await expect(page.getByRole('button', { name: 'Store the plan' })).toBeEnabled();
  await extra.getByLabel('Price of one, GBP').fill('4.50');
  await extra.getByLabel('At most').fill('0');
  await expect(extra.getByText('At least 1.')).toBeVisible();
  await extra.getByLabel('At most').fill('6');
  await extra.getByText('customers may change it themselves').click();
  await page.getByRole('button', { name: 'Ask something' }).click();
  await page.getByLabel('Asked', { exact: true }).fill('Name on the plate');
  await page.getByRole('group', { name: 'Question 1' }).getByText('required').click();
  await page.getByText('skip the next period').click();
  await page.getByText('move to another variant').click();
  await page.getByLabel('Note', { exact: true }).fill('A row of your own, on every invoice');
  await page.getByLabel('Lines show').selectOption('quantity and price');
  await isAccessible(page);
  await page.getByRole('button', { name: 'Store the plan' }).click();
  await expect(page.getByText('A row of your own, on every invoice')).toBeVisible();
  await expect(
    page.getByText('A jar of honey: £4.50 each with each payment, unless left out, 1 to 6 of them'),
  ).toBeVisible();
  await expect(page.locator('strong', { hasText: 'A row of your own.' })).toBeVisible();
  // The plan's picture, and the one that stands in its text.
  await expect(page.locator('main img[src^="/pictures/"]')).toHaveCount(2);
  await isAccessible(page);
});

test('variants share what they share and differ where they differ', async ({ page }) => {
  const id = await planId('Adopt a Row');
  await open(page, `/plans/${id}/variants/new`);
  await expect(page.getByRole('button', { name: 'Make the variant' })).toBeDisabled();
  await page.getByLabel('Name of the variant').fill('Lime trees');
  const monthly = page
    .getByRole('region', { name: 'Monthly', exact: true })
    .or(page.locator('section', { has: page.getByRole('heading', { name: 'Monthly', exact: true }) }));
  await monthly.getByText('another price').click();
  await monthly.getByLabel('Amount, GBP').fill('18.0.0');
  await expect(monthly.getByText(/Give an amount/)).toBeVisible();
  await monthly.getByLabel('Amount, GBP').fill('18.00');
  await expect.poll(async () => (await amounts(page)).at(-1)).toBe('18.00');
  await isAccessible(page);
  await page.getByRole('button', { name: 'Make the variant' }).click();
  await page.getByRole('link', { name: 'Add a variant' }).click();
  await page.getByLabel('Name of the variant').fill('Lime Trees');
  await page.getByRole('button', { name: 'Make the variant' }).click();
  await expect(page.getByText('This plan has a variant of this name.').first()).toBeVisible();
  await page.getByLabel('Name of the variant').fill('Heather');
  await page.getByRole('button', { name: 'Make the variant' }).click();
  const table = page.getByRole('table', { name: 'Variants' });
  await expect(table.getByRole('row', { name: /Lime trees/ })).toContainText('£18.00');
  await expect(table.getByRole('row', { name: /Heather/ })).toContainText('£12.00');
  await isAccessible(page);
});

test('an enrolment chooses all of it, and the customer alters it alone on their own page', async ({
  page,
}) => {
  await open(page, '/enrol');
  await newCustomer(page, 'Wilf Marsham', 'wilf@post.example');
  await chooseRate(page, /Adopt a Row, Monthly.*£12/);
  await page.getByLabel('Card number').fill(APPROVES);
  await page.getByLabel('Expires').fill('11/30');
  const missing = page.getByRole('group', { name: 'Still missing' });
  await expect(missing).toHaveText('Still missing: the variant, Name on the plate.');
  await expect(page.getByRole('button', { name: 'Enrol', exact: true })).toBeDisabled();
  // Enter leads to the first thing that is missing.
  await page.getByLabel('E-mail').press('Enter');
  await expect(page.locator('[data-field="variant"] input:focus')).toHaveCount(1);
  await expect(page.getByText('Name on the plate: this is asked of everybody.')).toBeVisible();
  await expect(page.getByText('Choose one.')).toBeVisible();
  await page.getByLabel('Name on the plate').fill('For Ada');
  await page.getByText('Heather', { exact: true }).click();
  await page.getByLabel('How many: A jar of honey').fill('9');
  await expect(page.getByText('A jar of honey: take 1 to 6, or none.')).toBeVisible();
  await page.getByLabel('How many: A jar of honey').fill('2');
  await expect.poll(async () => (await amounts(page)).at(-1)).toBe('21.00');
  await isAccessible(page);
  await page.getByRole('button', { name: 'Enrol', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Wilf Marsham' })).toBeVisible();
  await expect(page.getByText('For Ada')).toBeVisible();
  await world.turnTo('2027-01-06');

  const id = page.url().split('/').at(-1) ?? '';
  const customer = await world.almanac.db.row<{ id: string }>(
    'select customer_id::text as id from subscriptions where id = $id',
    { id },
  );
  const link = await CustomerLink.create({
    customerId: customer?.id ?? '',
    subscriptionId: id,
    expiresOn: '2030-01-01',
  });
  await page.setViewportSize({ width: 390, height: 844 });
  await page.goto(`${home}/own/${linkToken(world.almanac, link.id, 'own')}`);
  await expect(page.getByRole('link', { name: 'Care of a row (PDF)' })).toBeVisible();
  const part = page.getByRole('group', { name: 'Change the subscription' });
  await chooseChange(page, 'variant');
  await expect(part.getByText('It is Lime trees from Mon 1 Feb 2027.')).toBeVisible();
  await expect(
    part.getByRole('table', { name: 'Prices' }).getByRole('row', { name: /In all/ }),
  ).toContainText('27.00');
  await isAccessible(page);
  await part.getByRole('button', { name: 'Move to another one' }).click();
  await expect(
    page.getByText('Done: it is Lime trees from Mon 1 Feb 2027. We have written to you.'),
  ).toBeVisible();
  await chooseChange(page, 'cancel');
  await expect(part.getByText('It ends on Mon 1 Feb 2027.')).toBeVisible();
  await part.getByRole('button', { name: 'End my subscription' }).click();
  await expect(page.getByText('It ends on Mon 1 Feb 2027.').first()).toBeVisible();
  await chooseChange(page, 'go on');
  await part.getByRole('button', { name: 'Keep my subscription after all' }).click();
  await expect(page.getByText(/^Done: the subscription goes on/)).toBeVisible();
  await world.turnTo('2027-02-03');
  await page.reload();
  await expect(page.getByText('£27.00', { exact: true }).first()).toBeVisible();
  await isAccessible(page);
});

test('a rate card is made, stands beside the ordinary prices, and is applied by one button', async ({
  page,
}) => {
  await open(page, '/rate-cards');
  await expect(page.getByText('There is no rate card yet.')).toBeVisible();
  await page.getByRole('link', { name: 'Make a rate card' }).click();
  await expect(page.getByRole('group', { name: 'Still missing' })).toContainText(
    'the name, the group of customers',
  );
  await page.getByLabel('Name', { exact: true }).press('Enter');
  await expect(page.getByText('Give the rate card a name.')).toBeVisible();
  await expect(page.getByText('Name the group of customers.')).toBeVisible();
  await page.getByLabel('Name', { exact: true }).fill('Friends of the hives');
  await page.getByLabel('Who may have it').selectOption('hand');
  const rate = page
    .getByLabel('Add a rate')
    .locator('option', { hasText: 'Adopt a Row, Lime trees, Monthly' })
    .first();
  await page.getByLabel('Add a rate').selectOption((await rate.getAttribute('value')) ?? '');
  await page.getByLabel('Amount, GBP').fill('15.00');
  await expect(
    page.getByRole('table', { name: 'A year, side by side' }).getByRole('row').nth(1),
  ).toContainText('216.00180.00');
  await isAccessible(page);
  await page.getByRole('button', { name: 'Make the rate card' }).click();
  await expect(page.getByText('Given by hand. 0 subscriptions have it.')).toBeVisible();
  const who = page.getByRole('table', { name: 'Who may have it' });
  await expect(who.getByRole('row', { name: /Wilf Marsham/ })).toContainText('27.00');
  await expect(who.getByRole('row', { name: /Wilf Marsham/ })).toContainText('24.00');
  await expect(page.getByRole('button', { name: 'Apply to 0' })).toBeDisabled();
  await who.getByText('Wilf Marsham').click();
  await isAccessible(page);
  await page.getByRole('button', { name: 'Apply to 1' }).click();
  await expect(page.getByText('1 subscription has it.')).toBeVisible();
  await world.turnTo('2027-03-02');
  await page.goto(`${home}/subscriptions`);
  await page.getByRole('link', { name: 'Wilf Marsham' }).first().click();
  const last = await world.almanac.db.row<{ total: string }>(
    'select total from invoices order by id desc limit 1',
  );
  expect(last?.total).toBe('2400');
});

test('staff see what an alteration does before it is done, and what they may not is refused beside its field', async ({
  page,
}) => {
  const { id } = (await world.almanac.db.row<{ id: string }>(
    'select id::text from subscriptions order by id limit 1',
  )) ?? { id: '' };
  await open(page, `/subscriptions/${id}`);
  await chooseChange(page, 'code');
  await page.getByRole('textbox', { name: 'Code' }).fill('NO-SUCH-CODE');
  await expect(page.getByText('This code is not known.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Use a code' })).toBeDisabled();
  await chooseChange(page, 'pause');
  await page.getByLabel('Periods to rest').fill('2');
  const table = page.getByRole('table', { name: 'Payments before and after' });
  await expect(table.getByRole('row').nth(1)).toContainText('1 Jun 2027: £24.00');
  await isAccessible(page);
  await page.getByRole('button', { name: 'Pause it' }).click();
  await expect(page.getByText(/^Done: it rests from Thu 1 Apr 2027/)).toBeVisible();
  await world.turnTo('2027-06-02');
  await chooseChange(page, 'cancel');
  await page.getByLabel('It ends').selectOption('now');
  await page.getByRole('button', { name: 'End the subscription' }).click();
  await expect(page.getByText('cancelled by the business').first()).toBeVisible();
});

test('a plot is rented by invoice, and a trial begins without a card: the customer pays or gives one by the link', async ({
  page,
}) => {
  const enrol = async (name: string, rate: RegExp, choose: () => Promise<void>) => {
    await page.goto(`${home}/enrol`);
    await newCustomer(page, name, `${name.toLowerCase().replace(' ', '.')}@post.example`);
    await chooseRate(page, rate);
    await choose();
    await expect(page.getByText(/Nothing is missing/)).toBeVisible();
    await isAccessible(page);
    await page.getByRole('button', { name: 'Enrol', exact: true }).click();
    await expect(page.getByRole('heading', { level: 1, name })).toBeVisible();
    return page.url().split('/').at(-1) ?? '';
  };
  await open(page, '/enrol');
  const rent = await enrol('Enid Holt', /Apiary Ground, Twice a month/, async () => {
    await page.getByText('Half plot', { exact: true }).click();
    await expect(page.getByRole('group', { name: 'Still missing' })).toContainText('a card to charge');
    await page.getByText('By invoice', { exact: true }).click();
    await expect(page.getByLabel('Card number')).toBeHidden();
  });
  await expect(page.getByText('paid by hand')).toBeVisible();
  const trial = await enrol('Otto Fenn', /Hive Watch, Monthly/, async () => {
    await expect(page.getByText('A card can wait: without one it rests after the trial.')).toBeVisible();
  });
  await expect(page.getByText('no card: it rests after the trial')).toBeVisible();
  await world.turnTo('2027-06-17');
  await page.reload();
  await expect(page.getByText('paused').first()).toBeVisible();

  const ownPage = async (subscriptionId: string) => {
    const link = await CustomerLink.findOne({
      where: { subscriptionId },
      order: [['id', 'desc']],
      rejectOnEmpty: true,
    });
    await page.goto(`${home}/own/${linkToken(world.almanac, link.id, 'own')}`);
  };
  await page.setViewportSize({ width: 390, height: 844 });
  for (const [id, says] of [
    [rent, /Give this card and pay £/],
    [trial, /^Give this card$/],
  ] as const) {
    await ownPage(id);
    await page.getByLabel('Card number').fill(APPROVES);
    await page.getByLabel('Expires').fill('11/30');
    await isAccessible(page);
    await page.getByRole('button', { name: says }).click();
    await expect(page.getByText(/Thank you: we have your card/)).toBeVisible();
  }
  await world.turnTo('2027-06-19');
  const states = await world.almanac.db.rows<{ state: string }>(
    'select state from subscriptions where id = any($ids::bigint[]) order by id',
    { ids: [rent, trial] },
  );
  expect(states.map(({ state }) => state)).toEqual(['active', 'active']);
  const owed = await world.almanac.db.row<{ n: number }>(
    'select count(*)::int as n from open_dues d join invoices i on i.id = d.invoice_id where i.subscription_id = any($ids::bigint[]) and d.due_on < $today',
    { ids: [rent, trial], today: '2027-06-17' },
  );
  expect(owed?.n).toBe(0);

  await page.setViewportSize({ width: 1280, height: 800 });
  await page.goto(`${home}/subscriptions/${trial}`);
  await chooseChange(page, 'once');
  await page.getByLabel('How many are added').fill('5');
  await expect(page.getByText('Take 1 to 4.')).toBeVisible();
  await page.getByLabel('How many are added').fill('1');
  await page.getByText('charged at once').click();
  await expect(page.getByRole('table', { name: 'Payments before and after' })).toContainText('£45.60');
  await isAccessible(page);
  await page.getByRole('button', { name: 'Add something paid once' }).click();
  await expect(page.getByText(/^Done: A second scale is added and charged at once/)).toBeVisible();
  await world.turnTo('2027-06-20');
  await page.reload();
  await expect(page.getByRole('row', { name: /19 Jun 2027 paid 45\.60/ })).toBeVisible();
});

test('a rate names the gateway that keeps its cards, and a card is given there', async ({ page }) => {
  await open(page, '/setup/gateways');
  await page.getByRole('button', { name: 'Connect by hand-over' }).click();
  await page.getByRole('button', { name: /Sample business, cards abroad/ }).click();
  await expect(page.getByRole('cell', { name: 'may charge and pay out' })).toHaveCount(2);
  await page.goto(`${home}/plans/new`);
  await page.getByLabel('Name', { exact: true }).fill('A row abroad');
  const price = { scheme: 'flat', amount: '10.00' };
  const terms = { currency: 'GBP', lines: [{ price }], interval: 'P1M' };
  await typeRate(page, { name: 'Monthly', terms: terms as never });
  const kept = page.getByRole('group', { name: 'What is charged is kept at' });
  await kept.getByText('Sample business, cards abroad (charges no GBP)').click();
  await expect(kept.getByRole('alert')).toContainText('None of these can charge GBP now');
  await page.getByLabel('Currency', { exact: true }).selectOption('EUR');
  await expect(kept.getByRole('alert')).toBeHidden();
  await isAccessible(page);
  await page.getByRole('button', { name: 'Make the plan' }).click();
  await expect(page.getByText('Takes cards of Sample business, cards abroad alone.')).toBeVisible();

  const customer = await world.almanac.db.row<{ id: string }>(
    `select id::text from customers where name = 'Wilf Marsham'`,
  );
  await page.goto(`${home}/enrol?customer=${customer?.id}`);
  await chooseRate(page, /A row abroad/);
  await page.getByRole('button', { name: 'Enrol', exact: true }).click();
  await expect(page.getByText(/^The card on file is kept at Sample business, cards,/)).toBeVisible();
  await isAccessible(page);
  await page.getByLabel('Card number').fill(APPROVES);
  await page.getByLabel('Expires').fill('11/30');
  await page.getByRole('button', { name: 'Enrol', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Wilf Marsham' })).toBeVisible();
  await world.turnTo('2027-06-21');
  await page.reload();
  await expect(page.getByText('€10.00').first()).toBeVisible();
  const charged = await world.almanac.db.row(
    `select g.account, a.state from attempts a join payment_methods m on m.id = a.payment_method_id
     join gateway_accounts g on g.id = m.gateway_account_id order by a.id desc limit 1`,
  );
  expect(charged).toEqual({ account: 'cards-abroad', state: 'collected' });
});
