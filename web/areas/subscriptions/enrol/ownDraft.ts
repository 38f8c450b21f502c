import { decimalsOf } from '../../../../core/money/decimal.ts';
import { minorDigits } from '../../../../core/money/currency.ts';
import type { OwnLine, OwnTerms } from '../../../../core/offer/ownTerms.ts';
import type { EnrolmentMessage } from '../../../../server/subscriptions/messages.ts';

/** What is agreed with this customer alone, as it is being typed; empty: as the rate says. */
export interface OwnDraft {
  readonly termDays: string;
  /** Days of a trial instead of the rate's. */
  readonly trialDays: string;
  readonly billingDay: string;
  readonly setUp: string;
  readonly untaxed: boolean;
  readonly because: string;
  readonly offAs: 'percent' | 'amount';
  readonly off: string;
  readonly offPayments: string;
  readonly lines: readonly OwnLine[];
  readonly note: string;
}

export const NOTHING_OWN: OwnDraft = {
  ...{ termDays: '', trialDays: '', billingDay: '', setUp: '', untaxed: false, because: '' },
  ...{ offAs: 'percent', off: '', offPayments: '', lines: [], note: '' },
};

const whole = (text: string) => (/^\d{1,4}$/.test(text.trim()) ? Number(text) : undefined);
const isAmount = (text: string, decimals: number) => {
  const places = decimalsOf(text.trim());
  return places !== null && places <= decimals;
};

/** What of a draft is good, as it is computed with; what is not stands in {@link faultsOfOwnDraft}. */
export function ownTermsOf(draft: OwnDraft, currency: string): OwnTerms {
  const digits = minorDigits(currency);
  const { setUp, billingDay, off } = draft;
  const payments = whole(draft.offPayments);
  const good = off.trim() !== '' && isAmount(off, draft.offAs === 'percent' ? 4 : digits);
  return {
    termDays: whole(draft.termDays),
    trialDays: whole(draft.trialDays),
    billingDay: billingDay === 'last' ? 'last' : whole(billingDay),
    setUp: isAmount(setUp, digits) ? setUp.trim() : undefined,
    untaxed: draft.untaxed || undefined,
    discount: good
      ? { [draft.offAs]: off.trim(), ...(payments === undefined ? {} : { payments }) }
      : undefined,
    lines: draft.lines.filter(({ name, amount }) => name.trim() !== '' && isAmount(amount, digits)),
  };
}

/** What is wrong with a draft, by its fields. */
export function faultsOfOwnDraft(draft: OwnDraft, currency: string): ReadonlyMap<string, string> {
  const digits = minorDigits(currency);
  const faults = new Map<string, string>();
  const wrong = (field: string, says: string, isWrong: boolean) => isWrong && faults.set(field, says);
  const days = whole(draft.termDays);
  wrong(
    'own/termDays',
    'Give a number of days, 0 to 365.',
    draft.termDays.trim() !== '' && !(days !== undefined && days <= 365),
  );
  const trial = whole(draft.trialDays);
  wrong(
    'own/trialDays',
    'Give a number of days, 0 to 366; 0 is none.',
    draft.trialDays.trim() !== '' && !(trial !== undefined && trial <= 366),
  );
  wrong(
    'own/setUp',
    'Give an amount, or 0 for none.',
    draft.setUp.trim() !== '' && !isAmount(draft.setUp, digits),
  );
  wrong('own/noTaxBecause', 'Say why no tax is charged.', draft.untaxed && draft.because.trim().length < 3);
  const percent = draft.offAs === 'percent';
  const tooMuch = percent && Number(draft.off) > 100;
  wrong(
    'own/discount',
    percent ? 'Give a percentage from 0 to 100.' : 'Give an amount.',
    draft.off.trim() !== '' && (tooMuch || !isAmount(draft.off, percent ? 4 : digits)),
  );
  const payments = whole(draft.offPayments);
  wrong(
    'own/discount/payments',
    'Give a number of payments, from 1 to 1,000, or leave it empty.',
    draft.offPayments.trim() !== '' && !(payments !== undefined && payments >= 1 && payments <= 1000),
  );
  draft.lines.forEach(({ name, amount }, i) => {
    wrong(`own/lines/${i}/name`, 'Say what it is.', name.trim() === '');
    wrong(`own/lines/${i}/amount`, 'Give an amount.', !isAmount(amount, digits));
  });
  return faults;
}

/** The same as it is sent. */
export function sentOwn(draft: OwnDraft, currency: string): NonNullable<EnrolmentMessage['own']> {
  const { untaxed: _, lines = [], ...own } = ownTermsOf(draft, currency);
  const note = draft.note.trim();
  const given = {
    ...own,
    ...(draft.untaxed ? { noTaxBecause: draft.because.trim() } : {}),
    ...(lines.length > 0 ? { lines: lines.map((line) => ({ ...line, name: line.name.trim() })) } : {}),
    ...(note === '' ? {} : { note }),
  };
  return Object.fromEntries(Object.entries(given).filter(([, value]) => value !== undefined));
}

/** What of it is given, in words, for the line of what is folded away. */
export function sayOwn(draft: OwnDraft): string[] {
  return [
    ...(draft.billingDay
      ? [draft.billingDay === 'last' ? 'billed on the last day' : `billed on day ${draft.billingDay}`]
      : []),
    ...(draft.trialDays
      ? [Number(draft.trialDays) === 0 ? 'no trial' : `a trial of ${draft.trialDays} days`]
      : []),
    ...(draft.setUp ? [Number(draft.setUp) === 0 ? 'no set-up' : 'a set-up of its own'] : []),
    ...(draft.off ? ['a discount of its own'] : []),
    ...(draft.untaxed ? ['no tax'] : []),
    ...(draft.termDays ? [`${draft.termDays} days to pay`] : []),
    ...(draft.lines.length > 0
      ? [draft.lines.length === 1 ? 'a line of its own' : `${draft.lines.length} lines of its own`]
      : []),
    ...(draft.note ? ['a note'] : []),
  ];
}
