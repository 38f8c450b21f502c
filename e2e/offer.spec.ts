import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test, type Locator, type Page } from '@playwright/test';
import { sayDate } from '../core/words/date.ts';
import { isAccessible } from '../testing/accessible.ts';
import { mend } from '../server/readiness/mends.ts';
import { FIRST_DAY, World } from '../testing/world.ts';

const ROOT = join(import.meta.dirname, '..');

interface SampleRate {
  readonly name: string;
  readonly terms: Record<string, never>;
  readonly options?: {
    methods?: string[];
    noticeDays?: number;
    account?: string;
    invoicing?: string;
    withoutMethod?: string;
  };
}
const sample = JSON.parse(readFileSync(join(ROOT, 'demo', 'plans.json'), 'utf8')) as {
  plans: { name: string; description: string; rates: SampleRate[] }[];
};

// Each goes on with what the one before it made.
test.describe.configure({ mode: 'serial' });

let world: World;
let home: string;

test.beforeAll(async () => {
  world = await World.begin(process.env.TEST_DATABASE_URL ?? '');
  home = world.environment.ALMANAC_URL ?? '';
  await mend(world.almanac, 'no-tax');
  await mend(world.almanac, 'terms');
  await world.parts.start('server', ['command/main.ts', 'serve'], world.environment, 'serving on');
});
test.afterAll(() => world.end());

/** The members of terms that the sample uses. */
interface OnPaper {
  readonly currency: string;
  readonly lines?: { name?: string; price: Record<string, never> }[];
  readonly interval?: string;
  readonly on?: {
    day?: number | 'last';
    days?: number[];
    nth?: number | 'last';
    weekday?: string;
    month?: number;
  };
  readonly trial?: { length: string };
  readonly setup?: { amount: string; when?: string };
  readonly ends?: { after: number };
  readonly once?: { name: string; amount: string }[];
  readonly stub?: 'prorate' | 'full' | 'free';
  readonly tax?: { rate: string; mode: string };
  readonly terms?: string;
  readonly pauses?: { from: string; to: string }[];
  readonly workingDays?: { shift: string; holidays: string[] };
}

const UNITS = { D: 'days', W: 'weeks', M: 'months', Y: 'years' };
const TIERED = ['graduated', 'volume', 'stairs'];

/** Types a price into a line of the form. */
async function typePrice(line: Locator, currency: string, price: Record<string, never>): Promise<void> {
  const { scheme, tiers } = price as never as {
    scheme: string;
    tiers: { upTo: number | null; unit?: string; flat?: string }[];
  };
  await line.getByLabel('Scheme').selectOption(scheme);
  if (TIERED.includes(scheme)) {
    // As from a spreadsheet: the rows are pasted over the table, from its first cell.
    const rows = tiers.map(({ upTo, unit, flat }) =>
      [upTo ?? 'and more', ...(scheme === 'stairs' ? [] : [unit]), flat ?? ''].join('\t'),
    );
    await line.getByLabel('Up to, tier 1').focus();
    await line.page().evaluate((text) => {
      const data = new DataTransfer();
      data.setData('text', text);
      document.activeElement?.dispatchEvent(
        new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }),
      );
    }, rows.join('\n'));
    return;
  }
  const { amount, total, size, min, max } = price as Record<string, string | number>;
  const label =
    { 'per-unit': 'Price of one', chosen: 'Suggested', package: 'Price of a pack', instalments: 'Total' }[
      scheme
    ] ?? 'Amount';
  await line.getByLabel(`${label}, ${currency}`).fill(String(amount ?? total));
  if (size !== undefined) await line.getByLabel('Pack of').fill(String(size));
  if (min !== undefined) await line.getByLabel('At least').fill(String(min));
  if (max !== undefined) await line.getByLabel('At most').fill(String(max));
}

/** Types a whole rate into the form, from nothing, as somebody would who has its terms on paper. */
async function typeRate(page: Page, { name, terms, options }: SampleRate): Promise<void> {
  const {
    currency,
    lines,
    interval,
    on,
    trial,
    setup,
    ends,
    once,
    stub,
    tax,
    terms: within,
    pauses,
    workingDays,
  } = terms as never as OnPaper;
  await page.getByLabel('Name of the rate').fill(name);
  await page.getByLabel('Currency', { exact: true }).selectOption(currency);
  if (!lines) await page.getByLabel('Charged', { exact: true }).selectOption('one-off');
  for (const [i, line] of (lines ?? []).entries()) {
    if (i > 0) await page.getByRole('button', { name: 'Add another line' }).click();
    const part = page
      .getByRole('region', { name: lines?.length === 1 ? 'Price' : `Line ${i + 1}`, exact: true })
      .or(page.getByRole('region', { name: 'Price', exact: true }))
      .first();
    await typePrice(part, currency, line.price);
    await part.getByLabel('Name on invoices').fill(line.name ?? '');
  }
  if (interval) {
    await page.getByLabel('Every', { exact: true }).fill(/\d+/.exec(interval)?.[0] ?? '');
    await page.getByLabel('Interval').selectOption({ label: UNITS[interval.at(-1) as 'M'] });
  }
  if (on) {
    const kind =
      'nth' in on
        ? 'nth'
        : 'days' in on
          ? 'days'
          : 'month' in on
            ? 'month'
            : 'weekday' in on
              ? 'weekday'
              : 'day';
    await page.getByLabel('Counted from').selectOption(kind);
    if (kind === 'nth') {
      await page.getByLabel('Which').selectOption(String(on.nth));
      await page.getByLabel('Weekday').selectOption(on.weekday ?? '');
    } else if (kind === 'days') {
      await page.getByLabel('First day').fill(String(on.days?.[0]));
      await page.getByLabel('Second day').fill(String(on.days?.[1]));
    } else await page.getByLabel('Day', { exact: true }).fill(String(on.day));
    await expect(page.getByText('Pick one: nothing is taken for granted here.')).toBeVisible();
    const stubs = { prorate: 'its part of the price', full: 'the full price', free: 'nothing' };
    await page.getByText(stubs[stub ?? 'prorate'], { exact: true }).click();
  }
  if (trial) await page.getByLabel('Trial of').fill(/\d+/.exec(trial.length)?.[0] ?? '');
  if (setup) {
    await page.getByLabel('Set-up fee').fill(setup.amount);
    await page.getByLabel('It is due').selectOption(setup.when ?? 'start');
  }
  if (ends) {
    await page.getByLabel('It ends').selectOption('after');
    await page.getByLabel('Payments', { exact: true }).fill(String(ends.after));
  }
  for (const [i, one] of (once ?? []).entries()) {
    await page.getByRole('button', { name: 'Add an amount' }).click();
    await page.getByLabel('For', { exact: true }).nth(i).fill(one.name);
    await page.getByLabel(`Amount, ${currency}`).nth(i).fill(one.amount);
  }
  for (const [i, pause] of (pauses ?? []).entries()) {
    await page.getByRole('button', { name: 'Add a pause' }).click();
    await page.getByLabel('Paused from').nth(i).fill(pause.from);
    await page.getByLabel('On again from').nth(i).fill(pause.to);
  }
  if (tax) {
    await page.getByLabel('Tax', { exact: true }).selectOption('own');
    await page.getByLabel('Percent').fill(tax.rate);
    await page.getByLabel('It stands').selectOption(tax.mode);
  }
  if (within) await page.getByLabel('Paid within, days').fill(/\d+/.exec(within)?.[0] ?? '');
  if (workingDays) {
    await page.getByLabel('Due on a day not worked').selectOption(workingDays.shift);
    await page.getByLabel('Holidays beside weekends').fill(workingDays.holidays.join('\n'));
  }
  if (options?.methods?.includes('invoice')) await page.getByText('by invoice', { exact: true }).click();
  if (options?.noticeDays) await page.getByLabel('Notice of renewals, days').fill(String(options.noticeDays));
  if (options?.invoicing) await page.getByLabel('Invoiced').selectOption(options.invoicing);
  if (options?.withoutMethod)
    await page.getByLabel('A trial without a card').selectOption(options.withoutMethod);
  if (options?.account) await page.getByLabel('Account of the books').fill(options.account);
}

/** The charges that the margin lists: date and amount as they are written there. */
async function charges(page: Page): Promise<string[]> {
  const rows = page.getByRole('table', { name: 'Coming charges' }).getByRole('row');
  const texts = await rows.evaluateAll((all) =>
    all
      .slice(1)
      .map((row) => [...row.querySelectorAll('td')].slice(0, 2).map((cell) => cell.textContent ?? '')),
  );
  return texts.map(
    ([date = '', amount = '']) => `${date.replace(/(\d{4}).*$/, '$1')} ${amount.replace(/,/g, '')}`,
  );
}

/** What `./almanac preview` lists for terms that start on the first day. */
function previewed(terms: object): string[] {
  const once =
    'once' in terms ? { once: (terms.once as object[]).map((one) => ({ date: FIRST_DAY, ...one })) } : {};
  const document = JSON.stringify({ ...terms, ...once, starts: FIRST_DAY });
  const done = spawnSync(join(ROOT, 'almanac'), ['preview', '-', '--json', '--count', '12'], {
    input: document,
    encoding: 'utf8',
  });
  expect(done.status, done.stderr).toBe(0);
  const { payments } = JSON.parse(done.stdout) as { payments: { dueOn: string; due: string }[] };
  return payments.map(({ dueOn, due }) => `${sayDate(dueOn)} ${due}`);
}

test('every plan of the sample business is made from nothing, and charges what preview says', async ({
  page,
}) => {
  test.setTimeout(400_000);
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(error.message));
  await page.goto(home);
  await page.getByRole('button', { name: 'Open the sample business' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Readiness' })).toBeVisible();
  for (const plan of sample.plans) {
    for (const [i, rate] of plan.rates.entries()) {
      await test.step(`${plan.name}, ${rate.name}`, async () => {
        if (i === 0) {
          await page.goto(`${home}/plans/new`);
          await page.getByLabel('Name', { exact: true }).fill(plan.name);
          await page.getByLabel('Description').fill(plan.description.replace(/<[^>]+>/g, ' '));
        } else await page.getByRole('link', { name: 'Add a rate' }).click();
        await typeRate(page, rate);
        await expect(page.getByText('Nothing is missing.')).toBeVisible();
        if (i === 0) await isAccessible(page);
        // The margin follows the typing a moment later.
        await expect.poll(() => charges(page), 'the terms on paper').toEqual(previewed(rate.terms));
        await page.getByRole('button', { name: i === 0 ? 'Make the plan' : 'Add the rate' }).click();
        await expect(page.getByRole('heading', { level: 1, name: plan.name, exact: true })).toBeVisible();
        await expect(
          page.getByRole('table', { name: 'Rates' }).getByText(rate.name, { exact: true }),
        ).toBeVisible();
        const id = page.url().split('/').at(-1);
        const stored = (await (await page.request.get(`${home}/api/plans/${id}`)).json()) as {
          rates: SampleRate[];
        };
        const made = stored.rates.find(({ name }) => name === rate.name);
        const terms = made?.terms ?? {};
        expect(made?.options).toMatchObject(rate.options ?? {});
        expect(previewed(terms), 'the terms that were stored').toEqual(previewed(rate.terms));
      });
    }
    await isAccessible(page);
  }
  expect(errors).toEqual([]);
});

test('a table of 200 tiers is pasted, walked by keys and computed; what a key takes is printed', async ({
  page,
}) => {
  await page.goto(home);
  await page.getByRole('button', { name: 'Open the sample business' }).click();
  await page.goto(`${home}/plans/new`);
  await page.getByLabel('Scheme').selectOption('graduated');
  const tiers = Array.from({ length: 200 }, (_, i) => ({
    upTo: i === 199 ? null : (i + 1) * 10,
    unit: (5 - i / 100).toFixed(2),
  }));
  await typePrice(page.getByRole('region', { name: 'Price', exact: true }), 'GBP', {
    scheme: 'graduated',
    tiers,
  } as never);
  await expect(page.getByLabel('Each, tier 200')).toHaveValue('3.01');
  await page.getByLabel('Each, tier 1', { exact: true }).focus();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByLabel('Each, tier 2', { exact: true })).toBeFocused();
  // Measured, not judged: the time from a key to the next picture, over a hundred keys.
  const millis = await page.evaluate(async () => {
    const input = document.querySelector<HTMLInputElement>('[data-cell="100:1"]');
    if (!input) throw new Error('no such cell');
    const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')?.set;
    const times: number[] = [];
    for (let i = 0; i < 100; i += 1) {
      const began = performance.now();
      set?.call(input, `4.${String(i).padStart(2, '0')}`);
      input.dispatchEvent(new Event('input', { bubbles: true }));
      await new Promise((resolve) => requestAnimationFrame(() => setTimeout(resolve)));
      times.push(performance.now() - began);
    }
    return times.sort((a, b) => a - b);
  });
  console.log(
    `200 tiers: ${millis[50]?.toFixed(0)} ms from key to picture in the middle, ${millis[95]?.toFixed(0)} ms at 95 of 100`,
  );
  await page.getByLabel('Try a quantity').fill('25');
  await expect(page.getByText('10 at 5.00')).toBeVisible();
  await expect(page.getByRole('region', { name: 'Price' }).getByText('In all')).toBeVisible();
});

test('a discount gets a code, and an enrolment with it shows and charges what it takes off', async ({
  page,
}) => {
  await page.goto(home);
  await page.getByRole('button', { name: 'Open the sample business' }).click();
  await page.goto(`${home}/discounts`);
  await page.getByRole('button', { name: 'Make a discount' }).click();
  await page.getByLabel('Name').fill('Spring');
  await page.getByLabel('Off', { exact: true }).fill('150');
  await page.getByRole('button', { name: 'Make the discount' }).click();
  await expect(page.getByText('Give a percentage from 0 to 100.')).toBeVisible();
  await page.getByLabel('Off', { exact: true }).fill('25');
  await page.getByLabel('For payments').fill('2');
  await isAccessible(page);
  await page.getByRole('button', { name: 'Make the discount' }).click();
  await page.getByRole('cell', { name: 'Spring', exact: true }).click();
  await page.getByLabel('A code that many use').fill('spring-25');
  await page.getByRole('button', { name: 'Give it' }).click();
  await expect(page.getByText('SPRING-25')).toBeVisible();
  await isAccessible(page);

  await page.goto(`${home}/enrol`);
  await page.getByLabel('Name', { exact: true }).fill('Ada Ashgrove');
  await page.getByLabel('E-mail').fill('ada@post.example');
  const yearly = page
    .getByLabel('Plan and rate')
    .locator('option', { hasText: /Adopt a Row.*£120\.00 every year/ });
  await page.getByLabel('Plan and rate').selectOption((await yearly.getAttribute('value')) ?? '');
  await page.getByLabel('Discount code').fill('SUMMER');
  await expect(page.getByText('This code is not known.')).toBeVisible();
  await page.getByLabel('Discount code').fill('spring-25');
  await expect(page.getByRole('table', { name: 'Coming charges' }).getByRole('row').nth(1)).toContainText(
    '90.00',
  );
  await page.getByLabel('Card number').fill('9171000000000012');
  await page.getByLabel('Expires').fill('11/30');
  await isAccessible(page);
  await page.getByRole('button', { name: 'Enrol', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'Ada Ashgrove' })).toBeVisible();
});

test('a rate in use is changed as a new version, with what it does to those who subscribe shown before', async ({
  page,
}) => {
  await page.goto(home);
  await page.getByRole('button', { name: 'Open the sample business' }).click();
  await page.goto(`${home}/plans`);
  await page.getByRole('cell', { name: 'Adopt a Row' }).click();
  await page.getByRole('link', { name: 'Open the plan' }).click();
  await page
    .getByRole('row', { name: /^Yearly/ })
    .getByRole('link', { name: 'Change' })
    .click();
  await page.getByLabel('Amount, GBP').fill('130.00');
  await expect(page.getByText('£10.00 more than as it is saved')).toBeVisible();
  await page.getByText('move at their next renewal').click();
  await expect(page.getByRole('table', { name: 'Who moves' }).getByText('Ada Ashgrove')).toBeVisible();
  await isAccessible(page);
  await page.getByRole('button', { name: 'Save as version 2' }).click();
  await expect(page.getByText('£130.00 every year').first()).toBeVisible();
  await page.getByRole('button', { name: 'Archive the plan …' }).click();
  await page.getByRole('button', { name: 'Archive Adopt a Row' }).click();
  await expect(page.getByText('Archived: nobody new can be enrolled.')).toBeVisible();
  await page.getByRole('button', { name: 'Restore Adopt a Row' }).click();
  await expect(page.getByText('Archived: nobody new can be enrolled.')).toBeHidden();
  await page.goto(`${home}/plans/file`);
  const file = {
    name: 'offer.json',
    mimeType: 'application/json',
    buffer: readFileSync(join(ROOT, 'demo', 'plans.json')),
  };
  await page.getByLabel('A file to bring in').setInputFiles(file);
  await expect(page.getByText('differs, and is left as it is').first()).toBeVisible();
  await isAccessible(page);
});
