import { expect, test } from '@playwright/test';
import { importFiles } from '../server/imports/importFiles.ts';
import { mend } from '../server/readiness/mends.ts';
import { verify } from '../server/verify/verify.ts';
import { isAccessible } from '../testing/accessible.ts';
import { openSample } from '../testing/openSample.ts';
import { World } from '../testing/world.ts';
import { chooseRate, newCustomer } from './enrolling.ts';

// Each goes on with what the one before it made.
test.describe.configure({ mode: 'serial' });

const APPROVES = '9171000000000012';
let world: World;
let home: string;

const PLANS = {
  plans: [
    {
      ...{ key: 'hives', name: 'Hive Watch' },
      rates: [
        {
          ...{ key: 'monthly', name: 'Monthly' },
          terms: {
            ...{ currency: 'GBP', interval: 'P1M' },
            lines: [{ name: 'Hive', price: { scheme: 'each', amount: '9.50' } }],
          },
        },
      ],
    },
  ],
};

test.beforeAll(async () => {
  world = await World.begin(process.env.TEST_DATABASE_URL ?? '');
  home = world.environment.ALMANAC_URL ?? '';
  await mend(world.almanac, 'terms');
  await mend(world.almanac, 'no-tax');
  const files = [{ name: 'plans.json', text: JSON.stringify(PLANS) }];
  expect((await importFiles(world.almanac, files, { dryRun: false })).problems).toEqual([]);
  await world.parts.start('server', ['command/main.ts', 'serve'], world.environment, 'serving on');
});
test.afterAll(() => world.end());

test('an address that somebody has is offered as who it is, and what was typed outlives its window', async ({
  browser,
}) => {
  const context = await browser.newContext();
  const page = await context.newPage();
  await openSample(page, home);
  await page.goto(`${home}/enrol`);
  await newCustomer(page, 'Ada Fenn', 'ada@post.example');
  await chooseRate(page, /Hive/);
  await page.getByLabel('Card number').fill(APPROVES);
  await page.getByLabel('Expires').fill('11/30');
  await page.getByRole('button', { name: 'Enrol', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Ada Fenn' })).toBeVisible();

  await page.goto(`${home}/enrol`);
  await newCustomer(page, 'Ada of the mill', 'ADA@post.example');
  await expect(
    page.getByText('Ada Fenn has this address already and subscribes to Hive Watch.'),
  ).toBeVisible();
  await expect(page.getByRole('group', { name: 'Still missing' })).toContainText('whether this is Ada Fenn');
  await isAccessible(page);
  await page.getByRole('button', { name: 'This is somebody else' }).click();
  await chooseRate(page, /Hive/);
  await page.close();

  const again = await context.newPage();
  await again.goto(`${home}/enrol`);
  await expect(again.getByText(/What you typed here .* is here again/)).toBeVisible();
  await expect(again.getByLabel('Name', { exact: true })).toHaveValue('Ada of the mill');
  await expect(again.getByText('Hive Watch, Monthly')).toBeVisible();
  // Taken for who it is after all, the way to pay is that of who it is.
  await again.getByRole('button', { name: 'Enrol Ada Fenn' }).click();
  await expect(again.getByRole('radio', { name: /ending 0012, on file/ })).toBeChecked();
  await again.getByRole('button', { name: 'Another customer' }).click();
  await expect(again.getByRole('combobox', { name: 'Customer' })).toBeFocused();
  await context.close();
});

test('a card is asked for by mail or by a link: nothing is charged before, and all that is open when it comes', async ({
  browser,
}) => {
  const context = await browser.newContext();
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  const page = await context.newPage();
  await openSample(page, home);
  await page.goto(`${home}/enrol`);
  await newCustomer(page, 'Bram Holt', 'bram@post.example');
  await chooseRate(page, /Hive/);
  await page.getByText('Card, asked for by mail').click();
  await expect(page.getByText(/A letter goes out now, with a link to give a card/)).toBeVisible();
  await isAccessible(page);
  await page.getByRole('button', { name: 'Enrol', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Bram Holt' })).toBeVisible();
  await expect(page.getByText('no card yet: its payments wait for one')).toBeVisible();
  await world.turnTo('2027-01-09');
  await page.goto(`${home}/subscriptions?kind=cannot+be+charged`);
  await expect(page.getByText('asked for a card')).toBeVisible();
  await page.getByRole('link', { name: 'Bram Holt' }).click();
  await expect(page.getByRole('heading', { name: 'Waits for a card' })).toBeVisible();
  await isAccessible(page);
  await page.getByRole('button', { name: 'Ask by mail' }).click();
  await expect(page.getByText('The letter is written, and reminders follow.')).toBeVisible();
  await page.getByRole('button', { name: 'Ask by mail' }).click();
  await expect(page.getByText('Not written: asked today already.')).toBeVisible();
  await page.getByRole('button', { name: 'Copy a link to give a card' }).click();
  await expect(page.getByText('Whoever has it acts as the customer.')).toBeVisible();
  const link = await page.evaluate(() => navigator.clipboard.readText());

  const theirs = await browser.newContext({ viewport: { width: 390, height: 800 } });
  const own = await theirs.newPage();
  await own.goto(link);
  await expect(own.getByText('Waits for your card')).toBeVisible();
  await own.getByLabel('Card number').fill(APPROVES);
  await own.getByLabel('Expires').fill('11/30');
  await isAccessible(own);
  await own.getByRole('button', { name: 'Give this card and pay £9.50' }).click();
  await expect(own.getByText(/Thank you/)).toBeVisible();
  await theirs.close();

  await page.reload();
  await expect(page.getByText('no card yet: its payments wait for one')).toBeHidden();
  await expect(page.getByText(/ending 0012/).first()).toBeVisible();
  const attempts = await world.almanac.db.rows(
    `select a.state, a.amount::text, c.name from attempts a join invoices i on i.id = a.invoice_id
     join customers c on c.id = i.customer_id where c.name = 'Bram Holt'`,
  );
  expect(attempts).toEqual([{ state: 'collected', amount: '950', name: 'Bram Holt' }]);
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
  await context.close();
});

test('a list from a spreadsheet is understood, its bad rows are given back and mended, and it comes in while its window is closed', async ({
  page,
}) => {
  const header = 'Member No;Full Name;E-mail;Membership;Interval;Next payment';
  const good = ['301;Una Merrow;una@post.example;Hive Watch;monthly;1/2/2027'];
  const bad = [
    '302;Vigo Nettle;vigo at post;Hive Watch;Monthly;1/2/2027',
    '303;Wren Pipit;wren@post.example;Hive Watch;Yearly;1/2/2027',
  ];
  const choose = (rows: readonly string[]) =>
    page.getByLabel('File of customers').setInputFiles({
      ...{ name: 'members.csv', mimeType: 'text/csv' },
      buffer: Buffer.from([header, ...rows].join('\r\n')),
    });
  await openSample(page, home);
  await page.getByRole('link', { name: 'Import', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Bring in customers' })).toBeVisible();
  await isAccessible(page);
  await choose([...good, ...bad]);
  await expect(page.getByRole('heading', { level: 1, name: 'members.csv' })).toBeVisible();
  await expect(page.getByLabel('First charge on')).toHaveValue(':Next payment');
  const rows = page.getByRole('table', { name: 'First rows' }).getByRole('row');
  await expect(rows.nth(1)).toContainText('Mon 1 Feb 2027');
  await expect(rows.nth(2)).toHaveText('Line 3: email: is not an address');
  // One column for two things is said beside the second.
  await page.getByLabel('Rate', { exact: true }).selectOption(':Membership');
  await expect(page.getByText('This column is taken for: plan.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Check the file' })).toBeDisabled();
  await page.getByLabel('Rate', { exact: true }).selectOption(':Interval');
  await isAccessible(page);
  await page.getByRole('button', { name: 'Check the file' }).click();
  await expect(page.getByRole('heading', { name: 'To be mended first' })).toBeVisible();
  await expect(page.getByRole('list', { name: 'Problems' })).toContainText(
    'the plan "Hive Watch" has no rate "Yearly"',
  );
  await isAccessible(page);
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Save them as CSV to mend' }).click(),
  ]);
  expect(file.suggestedFilename()).toBe('rows to mend.csv');
  await page.getByRole('button', { name: 'Forget this file' }).click();

  await expect(page.getByRole('heading', { level: 1, name: 'Bring in customers' })).toBeVisible();
  await choose([...good, '302;Vigo Nettle;vigo@post.example;Hive Watch;Monthly;1/2/2027']);
  await page.getByRole('button', { name: 'Check the file' }).click();
  await expect(page.getByRole('heading', { name: 'This would come of it' })).toBeVisible();
  await page.getByRole('button', { name: 'Bring them in' }).click();
  await page.goto(`${home}/import`);
  await expect(page.getByRole('row', { name: /members\.csv .* brought in 2/ })).toBeVisible();
  await page.goto(`${home}/customers?search=Nettle`);
  await expect(page.getByText('vigo@post.example')).toBeVisible();
  for (const { rule, breaches } of await verify(world.almanac)) expect(breaches, rule).toEqual([]);
});

test('many who have no card are chosen across a list and asked by mail, and who is left out is said first', async ({
  page,
}) => {
  await openSample(page, home);
  await page.goto(`${home}/subscriptions?sort=customer`);
  // Una and Vigo came from a file without a card; Ada has one.
  for (const name of ['Ada Fenn', 'Una Merrow'])
    await page.getByRole('checkbox', { name: `Choose ${name}, Hive Watch` }).check();
  // What is chosen stays while one searches.
  await page.getByLabel('Search subscriptions').fill('Vigo');
  await expect(page.getByText('1 subscription')).toBeVisible();
  await page.getByRole('checkbox', { name: 'Choose Vigo Nettle, Hive Watch' }).check();
  const bar = page.getByRole('region', { name: 'What is chosen' });
  await expect(bar).toContainText('3 chosen');
  await bar.getByRole('button', { name: 'Ask for a card by mail …' }).click();
  await expect(bar).toContainText('2 letters are written, each with a link to give a card.');
  await expect(bar).toContainText('Left out: Ada Fenn, there is a card that can be charged');
  await isAccessible(page);
  await bar.getByRole('button', { name: 'Write them' }).click();
  await expect(bar).toContainText('2 letters are written, and reminders follow.');
  const letters = await world.almanac.db.rows<{ name: string }>(
    `select c.name from letters l join customers c on c.id = l.customer_id
     where l.event = 'mandate request' and c.reference like '30%' order by c.name`,
  );
  expect(letters.map(({ name }) => name)).toEqual(['Una Merrow', 'Vigo Nettle']);
  await bar.getByRole('button', { name: 'Choose none' }).click();
  await expect(bar).toBeHidden();
});

test('a list opens with what runs, its columns are chosen, and what is looked for is saved as a view', async ({
  page,
}) => {
  await openSample(page, home);
  await world.almanac.db.rows(
    `update subscriptions set state = 'ended', ended_why = 'completed', closed_on = starts_on, wake_on = null, next_on = null,
       next_amount = null, monthly = null
     where id = (select max(id) from subscriptions where state = 'active' or state = 'scheduled')`,
  );
  const all = await world.almanac.db.row<{ n: number }>('select count(*)::int as n from subscriptions');
  const count = (n: number) => page.getByText(new RegExp(`^${n} subscriptions?$`));
  await page.goto(`${home}/subscriptions`);
  await expect(count((all?.n ?? 0) - 1)).toBeVisible();
  await page.getByRole('combobox', { name: 'State' }).selectOption('Any state');
  await expect(count(all?.n ?? 0)).toBeVisible();
  await page.getByRole('button', { name: 'View', exact: true }).click();
  const columns = page.getByRole('group', { name: 'Columns' });
  await columns.getByText('Starts').click();
  await expect(page.getByRole('columnheader', { name: 'Starts' })).toBeVisible();
  await columns.getByText('Thread').click();
  await expect(page.getByRole('columnheader', { name: 'Thread' })).toBeHidden();
  await page.getByRole('combobox', { name: 'State' }).selectOption('ended');
  await expect(count(1)).toBeVisible();
  await page.getByLabel('Name of a view').fill('Those that left');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Saved: Those that left.')).toBeVisible();
  await isAccessible(page);
  // It is there again in another window, with its columns, and gone once it is left out.
  await page.goto(`${home}/subscriptions`);
  await expect(page.getByRole('columnheader', { name: 'Thread' })).toBeHidden();
  await page.getByRole('button', { name: 'View', exact: true }).click();
  await page.getByRole('button', { name: 'Those that left', exact: true }).click();
  await expect(count(1)).toBeVisible();
  await page.getByRole('button', { name: 'Leave out the view Those that left' }).click();
  await expect(page.getByText('Left out: Those that left.')).toBeVisible();
  // Whoever searches finds those that ended too.
  await page.goto(`${home}/subscriptions?search=Hive`);
  await expect(count(all?.n ?? 0)).toBeVisible();
});

test('several who are chosen in the list are enrolled at once: what it does to each is seen first, who is left out is said', async ({
  page,
}) => {
  const club = { ...PLANS.plans[0], key: 'club', name: 'Row Club' };
  const files = [{ name: 'plans.json', text: JSON.stringify({ plans: [club] }) }];
  expect((await importFiles(world.almanac, files, { dryRun: false })).problems).toEqual([]);
  await openSample(page, home);
  const choose = async () => {
    await page.goto(`${home}/customers`);
    await page.getByRole('checkbox', { name: 'Choose Ada Fenn', exact: true }).check();
    await page.getByRole('checkbox', { name: 'Choose Una Merrow' }).check();
    await page.getByRole('link', { name: 'Enrol them in a plan …' }).click();
    await page.getByRole('button', { name: 'See what it does' }).click();
    await expect(page.getByRole('alert').filter({ hasText: 'Still missing: a plan.' })).toBeVisible();
    await chooseRate(page, /Row Club/);
    await page.getByRole('button', { name: 'See what it does' }).click();
  };
  await choose();
  const does = page.getByRole('table', { name: 'What it does to each' });
  await expect(does.getByRole('row', { name: /Ada Fenn/ })).toContainText('ending 0012£9.50 on');
  await expect(does.getByRole('row', { name: /Una Merrow/ })).toContainText('asked for by mail£9.50 on');
  await isAccessible(page);
  await page.getByRole('button', { name: 'Enrol 2 customers' }).click();
  await expect(page.getByRole('status').filter({ hasText: 'Enrolled: 2.' })).toBeVisible();
  const made = await world.almanac.db.rows(
    `select c.name from subscriptions s join customers c on c.id = s.customer_id join rates r on r.id = s.rate_id
     join plans p on p.id = r.plan_id where p.key = 'club' order by c.name`,
  );
  expect(made).toEqual([{ name: 'Ada Fenn' }, { name: 'Una Merrow' }]);

  await choose();
  await expect(does.getByText(/Left out: They have this rate already/)).toHaveCount(2);
  await expect(page.getByRole('button', { name: /^Enrol .* customers?$/ })).toHaveCount(0);
});

test('another plan begins with the same enrolment, paid with the same card; what is wrong with it stands beside it', async ({
  page,
}) => {
  await openSample(page, home);
  await page.goto(`${home}/enrol`);
  await newCustomer(page, 'Wilma Reed', 'wilma@post.example');
  await chooseRate(page, /Hive Watch/);
  await page.getByRole('button', { name: 'Another plan beside it' }).click();
  const beside = page.getByRole('group', { name: 'Beside it, plan 1' });
  await expect(page.getByRole('group', { name: 'Still missing' })).toContainText('the plan beside it');
  await beside.getByRole('combobox').click();
  await beside.getByRole('combobox').fill('row club');
  await page.getByRole('option', { name: /Row Club/ }).click();
  await beside.getByLabel('How many').fill('4');
  // Of the same interval: as lines of the same subscription, or else one of its own, day by day beside the first.
  const margin = page.getByRole('complementary');
  await expect(margin.getByText('£47.50 every month for 4 × Row')).toBeVisible();
  await beside.getByLabel('How it is charged').selectOption('as a subscription of its own');
  const apart = page.getByRole('region', { name: 'Beside it: Row Club' });
  await expect(apart.getByText('£38.00 every month')).toBeVisible();
  await expect(apart.getByText(/Both together on .*£47.50, as two payments/)).toBeVisible();
  await page.getByText('More', { exact: true }).click();
  await page.getByRole('button', { name: /^Who else gets letters/ }).click();
  await page.getByRole('button', { name: 'Somebody else gets letters too' }).click();
  await page.getByLabel('Their name').fill('Tess Reed');
  await page.getByLabel('A document to go with letters').setInputFiles({
    ...{ name: 'Rules.pdf', mimeType: 'application/pdf', buffer: Buffer.from('%PDF-1.7 of the house') },
  });
  await page.getByLabel('Rules.pdf', { exact: true }).selectOption('goes with every invoice and receipt');
  await expect(page.getByRole('group', { name: 'Still missing' })).toContainText('the address of whoever');
  await page.getByLabel('Their e-mail').fill('tess@accounts.example');
  await isAccessible(page);
  await page.getByLabel('Card number').fill(APPROVES);
  await page.getByLabel('Expires', { exact: true }).fill('11/30');
  await page.getByRole('button', { name: 'Enrol', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Wilma Reed' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Row Club', exact: true })).toBeVisible();
  await expect(page.getByText('£38.00 every month').first()).toBeVisible();
  await expect(page.getByText('£9.50 every month').first()).toBeVisible();
  await expect(page.getByText('Tess Reed', { exact: true })).toBeVisible();
  await expect(page.getByLabel('Letters that Rules.pdf goes with')).toHaveValue('invoices');
  await isAccessible(page);
});

test('something is invoiced to a customer by itself, beside what they subscribe to', async ({ page }) => {
  await openSample(page, home);
  const wilma = await world.almanac.db.row<{ id: string }>(
    `select id::text from customers where name = 'Wilma Reed'`,
  );
  for (const [what, price] of [
    ['A broken lid', '7.25'],
    ['A second visit', '30.00'],
  ] as const) {
    await page.goto(`${home}/customers/${wilma?.id}`);
    await page.getByRole('link', { name: 'Invoice something' }).click();
    const made = page.getByRole('group', { name: 'A rate made here' });
    await expect(made.getByLabel('Charged', { exact: true })).toHaveValue('once');
    await made.getByLabel('For what', { exact: true }).fill(what);
    await made.getByLabel('Price', { exact: true }).fill(price);
    await isAccessible(page);
    await made.getByRole('button', { name: 'Make it and take it' }).click();
    await expect(page.getByRole('complementary').getByText(price).first()).toBeVisible();
    await page.getByRole('button', { name: 'Enrol', exact: true }).click();
    await expect(page.getByRole('heading', { level: 1, name: 'Wilma Reed' })).toBeVisible();
  }
  // Both stand under one plan, and neither of its rates is sold to anybody else.
  const rows = await world.almanac.db.rows(
    `select p.name, r.archived_on is not null as archived from rates r join plans p on p.id = r.plan_id
     join subscriptions s on s.rate_id = r.id where p.name = 'Single charges'`,
  );
  expect(rows).toEqual(Array(2).fill({ name: 'Single charges', archived: true }));
});

test('an invoice is made recurring: its lines are a rate that is made in place, for this customer alone', async ({
  page,
}) => {
  const invoice = await world.almanac.db.row<{ subscription: string; number: string; customer: string }>(
    `select i.subscription_id::text as subscription, i.prefix || i.number as number, c.name as customer
     from invoices i join customers c on c.id = i.customer_id where i.total > 0 order by i.id limit 1`,
  );
  await openSample(page, home);
  await page.goto(`${home}/subscriptions/${invoice?.subscription}`);
  await page.getByRole('link', { name: `Make invoice ${invoice?.number} recurring` }).click();
  const made = page.getByRole('group', { name: 'A rate made here' });
  await expect(made.getByLabel('Name of the rate')).toHaveValue(`As invoice ${invoice?.number}`);
  await expect(made.getByLabel('Price', { exact: true })).toHaveValue('9.50');
  await made.getByLabel('Charged every').fill('0');
  await made.getByRole('button', { name: 'Make it and take it' }).click();
  await expect(made.getByText('Give a number from 1 to 999.')).toBeVisible();
  await isAccessible(page);
  await made.getByLabel('Charged every').fill('2');
  await made.getByRole('button', { name: 'Make it and take it' }).click();
  await expect(page.getByText(/every 2 months.*for this customer alone/)).toBeVisible();
  await page
    .getByRole('radio', { name: /on file/ })
    .first()
    .check({ force: true });
  await page.getByRole('button', { name: 'Enrol', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name: invoice?.customer ?? '' })).toBeVisible();
  const rate = await world.almanac.db.row<{ archived: boolean }>(
    `select archived_on is not null as archived from rates order by id desc limit 1`,
  );
  expect(rate).toEqual({ archived: true });
});
