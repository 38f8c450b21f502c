import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, type Locator, type Page } from '@playwright/test';
import type { ExtraLine } from '../core/offer/extras.ts';
import { askSchema, mayDoSchema, type Ask, type MayDo } from '../server/plans/choiceMessages.ts';

const ROOT = join(import.meta.dirname, '..');

export interface SampleRate {
  readonly name: string;
  readonly terms: Record<string, never>;
  readonly options?: {
    methods?: string[];
    issueDaysBefore?: number;
    noticeDays?: number;
    account?: string;
    invoicing?: string;
    withoutMethod?: string;
  };
}
export interface SamplePlan {
  readonly key: string;
  readonly name: string;
  readonly description: string;
  readonly rates: (SampleRate & { readonly key: string })[];
  readonly extras?: (ExtraLine & { readonly price: never })[];
  readonly asks?: Ask[];
  readonly mayDo?: Partial<MayDo>;
  readonly variants?: { name: string; says?: string; prices?: Record<string, (Price | null)[]> }[];
}
export type Price = Record<string, never>;
export interface Offer {
  readonly plans: SamplePlan[];
  readonly rateCards: {
    name: string;
    givenBy: string;
    group?: string;
    code?: string | null;
    validTo?: string | null;
    prices: { plan: string; rate: string; prices: (Price | null)[] }[];
  }[];
}
export const sample = JSON.parse(readFileSync(join(ROOT, 'demo', 'plans.json'), 'utf8')) as Offer;

/** The members of terms that the sample uses. */
export interface OnPaper {
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
const TIERED = ['each-tier', 'reached-tier', 'step'];

/** Types a price into a line of the form. */
export async function typePrice(
  line: Locator,
  currency: string,
  price: Record<string, never>,
): Promise<void> {
  const { scheme, tiers } = price as never as {
    scheme: string;
    tiers: { to: number | null; each?: string; amount?: string }[];
  };
  await line.getByLabel('Scheme').selectOption(scheme);
  if (TIERED.includes(scheme)) {
    // As from a spreadsheet: the rows are pasted over the table, from its first cell.
    const rows = tiers.map(({ to, each, amount }) =>
      [to ?? 'and more', ...(scheme === 'step' ? [] : [each]), amount ?? ''].join('\t'),
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
    { each: 'Price of one', chosen: 'Suggested', pack: 'Price of a pack', instalments: 'Total' }[scheme] ??
    'Amount';
  await line.getByLabel(`${label}, ${currency}`).fill(String(amount ?? total));
  if (size !== undefined) await line.getByLabel('Pack of').fill(String(size));
  if (min !== undefined) await line.getByLabel('At least').fill(String(min));
  if (max !== undefined) await line.getByLabel('At most').fill(String(max));
}

/** Types a whole rate into the form, from nothing, as somebody would who has its terms on paper. */
export async function typeRate(page: Page, { name, terms, options }: SampleRate): Promise<void> {
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
      await page.getByLabel('Which', { exact: true }).selectOption(String(on.nth));
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
  const paid = page.getByRole('group', { name: 'Paid', exact: true });
  if (options?.methods?.includes('bank debit')) await paid.getByText('by bank debit').click();
  if (options?.methods?.includes('online transfer')) await paid.getByText('by online transfer').click();
  if (options?.methods?.includes('invoice')) await paid.getByText('by invoice').click();
  if (options?.methods && !options.methods.includes('card')) await paid.getByText('by card').click();
  if (options?.noticeDays) await page.getByLabel('Notice of renewals, days').fill(String(options.noticeDays));
  if (options?.issueDaysBefore)
    await page.getByLabel('Invoiced before, days').fill(String(options.issueDaysBefore));
  if (options?.invoicing) await page.getByLabel('Invoiced', { exact: true }).selectOption(options.invoicing);
  if (options?.withoutMethod)
    await page.getByLabel('A trial without a card').selectOption(options.withoutMethod);
  if (options?.account) await page.getByLabel('Account of the books').fill(options.account);
}

/** What a file offers beside its rates' terms, by the names of things, since keys are each business's own. */
export function byName({ plans, rateCards }: Offer) {
  const nameOf = (planKey: string, rateKey: string) => {
    const plan = plans.find(({ key }) => key === planKey);
    return `${plan?.name}, ${plan?.rates.find(({ key }) => key === rateKey)?.name}`;
  };
  return {
    plans: plans.map(({ key, name, extras = [], asks = [], mayDo = {}, variants = [] }) => ({
      name,
      extras: extras.map(({ key: _, ...extra }) => extra),
      asks: asks.map((ask) => askSchema.parse(ask)),
      mayDo: mayDoSchema.parse(mayDo),
      variants: variants.map(({ name: called, says = '', prices = {} }) => ({
        called,
        says,
        prices: Object.fromEntries(Object.entries(prices).map(([rate, of]) => [nameOf(key, rate), of])),
      })),
    })),
    rateCards: rateCards.map(({ name, givenBy, group = '', code = null, validTo = null, prices }) => ({
      ...{ name, givenBy, group, code, validTo },
      prices: prices.map(({ plan, rate, prices: of }) => ({ rate: nameOf(plan, rate), of })),
    })),
  };
}
