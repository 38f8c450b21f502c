import type { AlterWords } from '../../../core/words/ownPage/words.ts';
import type { OwnChoices } from '../../../server/customers/ownMessages.ts';
import type { AlterationMessage } from '../../../server/subscriptions/alterMessages.ts';

export type Kind =
  | 'cancel'
  | 'go on'
  | 'pause'
  | 'pause until'
  | 'skip'
  | 'date'
  | 'quantity'
  | 'extra'
  | 'once'
  | 'amount'
  | 'variant'
  | 'rate card'
  | 'code';

/** What each is called on a button; some are for staff alone, who read English. */
export const shortNames = (words: AlterWords): Readonly<Record<Kind, string>> => ({
  ...words.short,
  'pause until': 'Pause until',
  date: 'Next date',
  'rate card': 'Rate card',
});

/** The order of the buttons: what is asked for most comes first. */
const MOST_USED: readonly Kind[] = [
  'go on',
  'quantity',
  'pause',
  'cancel',
  'date',
  'skip',
  'pause until',
  'variant',
  'extra',
  'once',
  'amount',
];

/** Kinds with the most used first. */
export function byUse(kinds: readonly Kind[]): Kind[] {
  const rank = (kind: Kind) => (MOST_USED.includes(kind) ? MOST_USED.indexOf(kind) : MOST_USED.length);
  return [...kinds].sort((a, b) => rank(a) - rank(b));
}

/** What somebody may alter of a subscription, and what there is to choose from. */
export interface Alterable {
  readonly kinds: readonly Kind[];
  readonly cancelWhen: readonly ('now' | 'period end' | 'after payments')[];
  /** Of customers: the number of payments that their plan asks for. */
  readonly cancelAfter: number | null;
  readonly pauseMost: number;
  readonly quantity: number | null;
  readonly variantId: string | null;
  readonly variants: OwnChoices['variants'];
  readonly extras: OwnChoices['extras'];
  readonly once: OwnChoices['once'];
  readonly cards: readonly { readonly id: string; readonly name: string }[];
  readonly cardId: string | null;
  readonly currency: string;
}

/** An alteration as it is being typed. */
export interface AlterDraft {
  readonly kind: Kind | '';
  readonly when: 'now' | 'period end' | 'after payments';
  readonly payments: string;
  readonly periods: string;
  readonly quantity: string;
  readonly extra: string;
  readonly extraQuantity: string;
  readonly once: string;
  readonly onceQuantity: string;
  /** What an amount is for, and how much. */
  readonly name: string;
  readonly amount: string;
  readonly variantId: string;
  readonly cardId: string;
  readonly code: string;
  readonly from: 'now' | 'renewal';
  /** The day that the next payment moves to, or on which it is on again. */
  readonly to: string;
  /** What becomes of the days that this gives, takes or leaves. */
  readonly given: 'free' | 'prorate';
}

/** A draft for what may be altered. */
export function newAlteration(of: Alterable): AlterDraft {
  return {
    kind: '',
    when: of.cancelWhen[0] ?? 'period end',
    payments: String(of.cancelAfter ?? 12),
    periods: '1',
    quantity: String(of.quantity ?? 1),
    extra: of.extras[0]?.key ?? '',
    extraQuantity: String(of.extras[0]?.quantity ?? 0),
    once: of.once[0]?.key ?? '',
    onceQuantity: String(of.once[0]?.min ?? 1),
    ...{ name: '', amount: '' },
    variantId: of.variants.find(({ id }) => id !== of.variantId)?.id ?? '',
    cardId: of.cards.find(({ id }) => id !== of.cardId)?.id ?? '',
    code: '',
    from: 'renewal',
    to: '',
    given: 'prorate',
  };
}

/** The message that a draft stands for; null while something of it is not good. */
export function messageOf(draft: AlterDraft): AlterationMessage | null {
  const whole = (text: string) => (/^\d{1,7}$/.test(text.trim()) ? Number(text) : null);
  const { from } = draft;
  switch (draft.kind) {
    case '':
      return null;
    case 'cancel': {
      if (draft.when !== 'after payments') return { kind: 'cancel', when: draft.when };
      const payments = whole(draft.payments);
      return payments ? { kind: 'cancel', when: draft.when, payments } : null;
    }
    case 'go on':
      return { kind: 'go on' };
    case 'skip':
      return { kind: 'pause', periods: 1 };
    case 'pause': {
      const periods = whole(draft.periods);
      return periods ? { kind: 'pause', periods } : null;
    }
    case 'pause until':
      return draft.to === '' ? null : { kind: 'pause until', to: draft.to, rest: draft.given };
    case 'date':
      return draft.to === '' ? null : { kind: 'date', to: draft.to, days: draft.given };
    case 'quantity': {
      const quantity = whole(draft.quantity);
      return quantity ? { kind: 'quantity', quantity, from } : null;
    }
    case 'extra': {
      const quantity = whole(draft.extraQuantity);
      return quantity === null || draft.extra === ''
        ? null
        : { kind: 'extra', key: draft.extra, quantity, from };
    }
    case 'once': {
      const quantity = whole(draft.onceQuantity);
      return quantity ? { kind: 'once', key: draft.once, quantity, from } : null;
    }
    case 'amount': {
      const [name, amount] = [draft.name.trim(), draft.amount.trim()];
      return name === '' || !/^\d+(\.\d+)?$/.test(amount) ? null : { kind: 'amount', name, amount, from };
    }
    case 'variant':
      return draft.variantId === '' ? null : { kind: 'variant', variantId: draft.variantId, from };
    case 'rate card':
      return { kind: 'rate card', cardId: draft.cardId || null, from };
    case 'code':
      return draft.code.trim() === '' ? null : { kind: 'code', code: draft.code.trim() };
  }
}
