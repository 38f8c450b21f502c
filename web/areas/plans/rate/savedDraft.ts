import { parseDuration } from '../../../../core/dates/duration.ts';
import type { TermsAnchor, TermsPrice } from '../../../../core/terms/schema.ts';
import {
  newDraft,
  NEW_LINE,
  NEW_PRICE,
  type AnchorDraft,
  type DiscountDraft,
  type LineDraft,
  type PriceDraft,
  type RateDraft,
} from './draft.ts';
import { NEW_OPTIONS, type OptionsDraft } from './optionsDraft.ts';

interface SavedTerms {
  readonly currency: string;
  readonly lines?: readonly {
    name?: string;
    price: TermsPrice;
    intro?: { payments: number; amount: string };
  }[];
  readonly interval?: string;
  readonly on?: TermsAnchor;
  readonly trial?: { length: string; amount?: string };
  readonly setup?: { amount: string; when?: 'start' | 'after-trial' };
  readonly once?: readonly { name?: string; amount: string; date?: string }[];
  readonly stub?: RateDraft['stub'];
  readonly ends?: { after?: number; until?: string };
  readonly endStub?: RateDraft['endStub'];
  readonly tax?: { rate: string; mode: 'exclusive' | 'inclusive' };
  readonly terms?: string;
  readonly pauses?: readonly {
    from: string;
    to: string;
    resume?: 'keep' | 'restart';
    rest?: 'free' | 'prorate';
  }[];
  readonly workingDays?: {
    shift: 'next' | 'previous';
    weekend?: readonly string[];
    holidays?: readonly string[];
  };
  readonly discounts?: readonly {
    percent?: string;
    amount?: string;
    payments?: number;
    to?: DiscountDraft['to'];
  }[];
}

/** Members of terms that this form edits; a rate with others is kept as it is where the form does not reach. */
const EDITED =
  'currency lines interval on trial setup once stub ends endStub tax terms pauses workingDays discounts'.split(
    ' ',
  );

/** The members of terms that the form does not edit: they go along unchanged. */
export function untouched(terms: Readonly<Record<string, unknown>>): Record<string, unknown> {
  return Object.fromEntries(Object.entries(terms).filter(([name]) => !EDITED.includes(name)));
}

/** The draft of a rate that is stored. */
export function draftOf(
  name: string,
  stored: Readonly<Record<string, unknown>>,
  tax: RateDraft['tax'],
  options: OptionsDraft = NEW_OPTIONS,
): RateDraft {
  const terms = stored as unknown as SavedTerms;
  const base = newDraft(terms.currency, 0);
  const every = parseDuration(terms.interval ?? 'P1M');
  const trial = terms.trial ? parseDuration(terms.trial.length) : null;
  return {
    ...base,
    options,
    name,
    kind: terms.lines ? 'recurring' : 'one-off',
    lines: terms.lines?.map(lineDraftOf) ?? base.lines,
    every: String(every?.count ?? 1),
    unit: every?.unit ?? 'M',
    anchor: anchorDraftOf(base.anchor, terms.on),
    trial: trial ? String(trial.count) : '',
    trialUnit: trial?.unit ?? 'D',
    trialAmount: terms.trial?.amount ?? '',
    setup: terms.setup?.amount ?? '',
    setupWhen: terms.setup?.when ?? 'start',
    once: (terms.once ?? []).map(({ name: called = '', amount, date = '', ...kept }) => ({
      name: called,
      amount,
      date,
      kept,
    })),
    stub: terms.stub ?? (terms.on ? 'prorate' : ''),
    ends: terms.ends?.after !== undefined ? 'after' : terms.ends?.until !== undefined ? 'until' : 'never',
    after: String(terms.ends?.after ?? 12),
    until: terms.ends?.until ?? '',
    endStub: terms.endStub ?? (terms.ends ? 'whole' : ''),
    tax: terms.tax ? 'own' : tax,
    taxRate: terms.tax?.rate ?? '20',
    taxMode: terms.tax?.mode ?? 'exclusive',
    termDays: terms.terms ? String(parseDuration(terms.terms)?.count ?? '') : '',
    pauses: (terms.pauses ?? []).map(({ from, to, resume, rest }) => ({
      from,
      to,
      resume: rest === 'prorate' ? rest : (resume ?? 'keep'),
    })),
    shift: terms.workingDays?.shift ?? '',
    weekend: terms.workingDays ? (terms.workingDays.weekend ?? []) : base.weekend,
    holidays: (terms.workingDays?.holidays ?? []).join('\n'),
    discounts: (terms.discounts ?? []).map((one) => ({
      as: one.percent === undefined ? 'amount' : 'percent',
      off: one.percent ?? one.amount ?? '',
      payments: String(one.payments ?? ''),
      to: one.to ?? 'recurring',
    })),
  };
}

function lineDraftOf(line: NonNullable<SavedTerms['lines']>[number]): LineDraft {
  const { price, intro, name: _name, ...kept } = line;
  return {
    ...NEW_LINE,
    ...priceDraftOf(price),
    name: line.name ?? '',
    firstPayments: intro ? String(intro.payments) : '',
    firstAmount: intro?.amount ?? '',
    kept,
  };
}

/** The draft of a price that is stored. */
export function priceDraftOf(price: TermsPrice): PriceDraft {
  const base = { ...NEW_PRICE, scheme: price.scheme };
  switch (price.scheme) {
    case 'flat':
    case 'each':
      return { ...base, amount: price.amount };
    case 'pack':
      return { ...base, amount: price.amount, size: String(price.size) };
    case 'chosen':
      return { ...base, amount: price.amount, min: price.min ?? '', max: price.max ?? '' };
    case 'instalments':
      return { ...base, amount: price.total };
    case 'step':
      return {
        ...base,
        tiers: price.tiers.map(({ to, amount }) => ({ to: String(to ?? ''), each: '', amount })),
      };
    case 'each-tier':
    case 'reached-tier':
      return {
        ...base,
        tiers: price.tiers.map(({ to, each, amount }) => ({
          to: String(to ?? ''),
          each,
          amount: amount ?? '',
        })),
      };
  }
}

function anchorDraftOf(base: AnchorDraft, on: TermsAnchor | undefined): AnchorDraft {
  if (!on) return base;
  if ('month' in on) return { ...base, kind: 'month', month: String(on.month), day: String(on.day) };
  if ('nth' in on)
    return { ...base, kind: 'nth', nth: String(on.nth) as AnchorDraft['nth'], weekday: on.weekday };
  if ('days' in on) return { ...base, kind: 'days', day: String(on.days[0]), second: String(on.days[1]) };
  if ('day' in on) return { ...base, kind: 'day', day: String(on.day) };
  return { ...base, kind: 'weekday', weekday: on.weekday };
}
