import type { TermsPrice } from '../../../../core/terms/schema.ts';
import { NEW_OPTIONS, type OptionsDraft } from './optionsDraft.ts';

/**
 * A rate as it is being typed: every field a text, good or not. `termsOf` makes terms of it for the calculation to
 * check, so that each fault comes back with a pointer to the field it belongs to.
 */
export interface RateDraft {
  readonly name: string;
  readonly currency: string;
  readonly kind: 'recurring' | 'one-off';
  readonly lines: readonly LineDraft[];
  readonly every: string;
  readonly unit: 'D' | 'W' | 'M' | 'Y';
  readonly anchor: AnchorDraft;
  readonly trial: string;
  readonly trialUnit: 'D' | 'W' | 'M' | 'Y';
  readonly trialAmount: string;
  readonly setup: string;
  readonly setupWhen: 'start' | 'after-trial';
  readonly once: readonly OnceDraft[];
  /** Empty while nobody has picked: then a rate that would have a part period is not complete. */
  readonly stub: '' | 'prorate' | 'full' | 'free';
  readonly ends: 'never' | 'after' | 'until';
  readonly after: string;
  readonly until: string;
  readonly endStub: '' | 'whole' | 'prorate';
  readonly tax: 'default' | 'none' | 'own' | `tax:${string}`;
  readonly taxRate: string;
  readonly taxMode: 'exclusive' | 'inclusive';
  readonly termDays: string;
  readonly pauses: readonly PauseDraft[];
  /** Empty: by the calendar of Setup. */
  readonly shift: '' | 'next' | 'previous';
  readonly weekend: readonly string[];
  /** Days not worked beside weekends, one a line. */
  readonly holidays: string;
  readonly discounts: readonly DiscountDraft[];
  readonly options: OptionsDraft;
}

export interface PauseDraft {
  readonly from: string;
  readonly to: string;
  /** What becomes of the billing days, and of the days that are left of the period it ends in. */
  readonly resume: 'keep' | 'prorate' | 'restart';
}

export interface DiscountDraft {
  readonly as: 'percent' | 'amount';
  readonly off: string;
  readonly payments: string;
  readonly to: 'recurring' | 'once' | 'all';
}

/** Changes a draft: to values, or by what it is at that moment. */
export type DraftChange = (to: Partial<RateDraft> | ((now: RateDraft) => Partial<RateDraft>)) => void;

/** A draft after a change of it. */
export function changed(now: RateDraft, to: Parameters<DraftChange>[0]): RateDraft {
  const next = { ...now, ...(typeof to === 'function' ? to(now) : to) };
  // A rate is called after its interval until it is given a name.
  return now.name === nameByInterval(now) && next.name === now.name
    ? { ...next, name: nameByInterval(next) }
    : next;
}

/** What a rate is called that nobody has named: 'Monthly', 'Daily', 'Every 2 years'. */
function nameByInterval({ kind, every, unit }: Pick<RateDraft, 'kind' | 'every' | 'unit'>): string {
  if (kind === 'one-off') return 'Once';
  const once = { D: 'Daily', W: 'Weekly', M: 'Monthly', Y: 'Yearly' };
  if (every === '1') return once[unit];
  if (every === '3' && unit === 'M') return 'Quarterly';
  const units = { D: 'days', W: 'weeks', M: 'months', Y: 'years' };
  return /^\d{1,3}$/.test(every) ? `Every ${every} ${units[unit]}` : once[unit];
}

/** A price as it is being typed, by any scheme. */
export interface PriceDraft {
  readonly scheme: TermsPrice['scheme'];
  readonly amount: string;
  readonly size: string;
  readonly min: string;
  readonly max: string;
  readonly tiers: readonly TierDraft[];
}

export interface LineDraft extends PriceDraft {
  readonly name: string;
  readonly firstPayments: string;
  /** Typed as the price, or as what is taken off it. */
  readonly firstAs: 'price' | 'off';
  readonly firstAmount: string;
  /** Members that the form does not edit: they go along unchanged. */
  readonly kept: Readonly<Record<string, unknown>>;
}

export interface TierDraft {
  /** Last quantity of the tier; the last tier has none. */
  readonly to: string;
  readonly each: string;
  readonly amount: string;
}

export interface OnceDraft {
  readonly name: string;
  readonly amount: string;
  /** Empty: on the day of start. */
  readonly date: string;
  /** Members that the form does not edit, such as a tax of its own. */
  readonly kept?: Readonly<Record<string, unknown>>;
}

export interface AnchorDraft {
  readonly kind: 'none' | 'day' | 'days' | 'weekday' | 'nth' | 'month';
  readonly day: string;
  readonly second: string;
  readonly weekday: 'mon' | 'tue' | 'wed' | 'thu' | 'fri' | 'sat' | 'sun';
  readonly nth: '1' | '2' | '3' | '4' | 'last';
  readonly month: string;
}

export const NEW_PRICE: PriceDraft = {
  scheme: 'flat',
  amount: '',
  size: '6',
  min: '',
  max: '',
  tiers: [
    { to: '10', each: '', amount: '' },
    { to: '', each: '', amount: '' },
  ],
};

export const NEW_LINE: LineDraft = {
  ...NEW_PRICE,
  name: '',
  firstPayments: '',
  firstAs: 'price',
  firstAmount: '',
  kept: {},
};

export function newDraft(currency: string, termDays: number): RateDraft {
  return {
    name: 'Monthly',
    currency,
    kind: 'recurring',
    lines: [NEW_LINE],
    every: '1',
    unit: 'M',
    anchor: { kind: 'none', day: '1', second: '15', weekday: 'mon', nth: '1', month: '1' },
    trial: '',
    trialUnit: 'D',
    trialAmount: '',
    setup: '',
    setupWhen: 'start',
    once: [],
    stub: '',
    ends: 'never',
    after: '12',
    until: '',
    endStub: '',
    tax: 'default',
    taxRate: '20',
    taxMode: 'exclusive',
    termDays: termDays === 0 ? '' : String(termDays),
    pauses: [],
    shift: '',
    weekend: ['sat', 'sun'],
    holidays: '',
    discounts: [],
    options: NEW_OPTIONS,
  };
}

const whole = (text: string) => (/^\d+$/.test(text.trim()) ? Number(text.trim()) : text.trim());
const when = <Value>(holds: boolean, value: Value): Value | Record<string, never> => (holds ? value : {});

/** The terms that a draft stands for, without the day of start. What is not good stays as it was typed. */
export function termsOf(draft: RateDraft): Record<string, unknown> {
  const once = draft.once.map(({ name, amount, date, kept = {} }) => ({
    ...kept,
    ...when(name.trim() !== '', { name: name.trim() }),
    amount: amount.trim(),
    ...when(date !== '', { date }),
  }));
  const common = {
    currency: draft.currency,
    ...when(once.length > 0 || draft.kind === 'one-off', { once }),
    ...when(draft.tax === 'own', { tax: { rate: draft.taxRate.trim(), mode: draft.taxMode } }),
    ...when(draft.termDays.trim() !== '' && draft.termDays.trim() !== '0', {
      terms: `P${draft.termDays.trim()}D`,
    }),
    ...when(draft.discounts.length > 0, { discounts: draft.discounts.map(discountOf) }),
    ...when(draft.shift !== '', {
      workingDays: {
        shift: draft.shift,
        weekend: draft.weekend,
        ...when(draft.holidays.trim() !== '', { holidays: draft.holidays.trim().split(/\s+/) }),
      },
    }),
  };
  if (draft.kind === 'one-off') return common;
  return {
    ...common,
    ...when(draft.pauses.length > 0, { pauses: draft.pauses.map(pauseOf) }),
    lines: draft.lines.map(lineOf),
    interval: `P${draft.every.trim()}${draft.unit}`,
    ...when(draft.anchor.kind !== 'none', { on: anchorOf(draft.anchor) }),
    ...when(draft.trial.trim() !== '' && draft.trial.trim() !== '0', {
      trial: {
        length: `P${draft.trial.trim()}${draft.trialUnit}`,
        ...when(draft.trialAmount.trim() !== '', { amount: draft.trialAmount.trim() }),
      },
    }),
    ...when(draft.setup.trim() !== '', { setup: { amount: draft.setup.trim(), when: draft.setupWhen } }),
    ...when(draft.stub !== '', { stub: draft.stub }),
    ...when(draft.ends === 'after', { ends: { after: whole(draft.after) } }),
    ...when(draft.ends === 'until', { ends: { until: draft.until } }),
    ...when(draft.ends !== 'never' && draft.endStub !== '', { endStub: draft.endStub }),
  };
}

/** What a discount of a rate comes to in its terms. */
function discountOf({ as, off, payments, to }: DiscountDraft) {
  return {
    [as]: off.trim(),
    ...when(payments.trim() !== '', { payments: whole(payments) }),
    ...when(to !== 'recurring', { to }),
  };
}

function pauseOf({ from, to, resume }: PauseDraft) {
  return {
    from,
    to,
    ...when(resume === 'restart', { resume }),
    ...when(resume === 'prorate', { rest: resume }),
  };
}

function lineOf(line: LineDraft): Record<string, unknown> {
  const payments = line.firstPayments.trim();
  return {
    ...line.kept,
    ...when(line.name.trim() !== '', { name: line.name.trim() }),
    price: priceOf(line),
    ...when(payments !== '' && payments !== '0' && line.scheme !== 'instalments', {
      intro: { payments: whole(payments), amount: firstPriceOf(line) },
    }),
  };
}

/** The first price as a price: taken off the ordinary one where it was typed so; of other than flat prices it is one. */
function firstPriceOf(line: LineDraft): string {
  const [typed, ordinary] = [line.firstAmount.trim(), line.amount.trim()];
  if (line.firstAs === 'price' || line.scheme !== 'flat') return typed;
  const decimals = Math.max(...[typed, ordinary].map((text) => text.split('.')[1]?.length ?? 0));
  const minor = (text: string) =>
    BigInt(
      text
        .replace('.', '')
        .padEnd(text.replace('.', '').length + decimals - (text.split('.')[1]?.length ?? 0), '0'),
    );
  if (![typed, ordinary].every((text) => /^\d+(\.\d+)?$/.test(text))) return typed;
  const left = minor(ordinary) - minor(typed);
  if (left < 0n) return '-1';
  const digits = left.toString().padStart(decimals + 1, '0');
  return decimals === 0 ? digits : `${digits.slice(0, -decimals)}.${digits.slice(-decimals)}`;
}

/** The price that a draft stands for; what is not good stays as it was typed. */
export function priceOf(line: PriceDraft): Record<string, unknown> {
  const { scheme } = line;
  const amount = line.amount.trim();
  switch (scheme) {
    case 'flat':
    case 'each':
      return { scheme, amount };
    case 'pack':
      return { scheme, amount, size: whole(line.size) };
    case 'chosen':
      return {
        scheme,
        amount,
        ...when(line.min.trim() !== '', { min: line.min.trim() }),
        ...when(line.max.trim() !== '', { max: line.max.trim() }),
      };
    case 'instalments':
      return { scheme, total: amount };
    case 'step':
      return { scheme, tiers: tiersOf(line).map((tier) => ({ to: tier.to, amount: tier.amount ?? '' })) };
    case 'each-tier':
    case 'reached-tier':
      return { scheme, tiers: tiersOf(line) };
  }
}

function tiersOf(line: PriceDraft) {
  return line.tiers.map((tier, i) => ({
    to: i === line.tiers.length - 1 ? null : whole(tier.to),
    each: tier.each.trim(),
    ...when(tier.amount.trim() !== '', { amount: tier.amount.trim() }),
  })) as { to: number | string | null; each: string; amount?: string }[];
}

function anchorOf(anchor: AnchorDraft): object {
  switch (anchor.kind) {
    case 'none':
      return {};
    case 'day':
      return { day: anchor.day === 'last' ? 'last' : whole(anchor.day) };
    case 'days':
      return { days: [whole(anchor.day), whole(anchor.second)] };
    case 'weekday':
      return { weekday: anchor.weekday };
    case 'nth':
      return { nth: anchor.nth === 'last' ? 'last' : Number(anchor.nth), weekday: anchor.weekday };
    case 'month':
      return { month: whole(anchor.month), day: whole(anchor.day) };
  }
}
