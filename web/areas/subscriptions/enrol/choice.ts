import { variantsAt } from '../../../../core/offer/variant.ts';
import { parseDay } from '../../../../core/dates/day.ts';
import { composeTerms, type RateTerms } from '../../../../core/offer/composeTerms.ts';
import { chooseExtras, extrasOf, type ChosenExtra, type ExtraLine } from '../../../../core/offer/extras.ts';
import { faultsOfOwn } from '../../../../core/offer/ownTerms.ts';
import { linesOfPlans, type PlanLines } from '../../../../core/offer/planLines.ts';
import type { LinePrices } from '../../../../core/offer/prices.ts';
import { pricesBeside, type PriceBeside } from '../../../../core/offer/pricesBeside.ts';
import { checkTerms } from '../../../../core/terms/check.ts';
import type { LineSource } from '../../../../core/terms/law.ts';
import type { Terms } from '../../../../core/terms/schema.ts';
import type { CodeAnswer } from '../../../../server/discounts/messages.ts';
import { faultOfAnswer } from '../../../../server/plans/choiceMessages.ts';
import type { PlanView, RateView } from '../../../../server/plans/messages.ts';
import type { TakeableCard } from '../../../../server/rateCards/messages.ts';
import { faultsOfOwnDraft, ownTermsOf, type OwnDraft } from './ownDraft.ts';

/** What is chosen of a plan, as it is being typed. */
export interface ChoiceDraft {
  readonly quantity: string;
  readonly amount: string;
  readonly variantId: string;
  /** How many of each extra line, by its key; absent: as the plan offers it. */
  readonly extras: Readonly<Record<string, string>>;
  readonly answers: Readonly<Record<string, string>>;
  readonly code: string;
  /** A rate card; empty: none; null: the one of the customer's group. */
  readonly cardId: string | null;
}

/** Another plan of the same enrolment. */
export interface AlsoDraft {
  readonly rateId: string;
  readonly choice: ChoiceDraft;
  /** Its lines are charged with the first, on its dates, where they can be; or else it is a subscription of its own. */
  readonly inside: boolean;
}

export const NO_CHOICE: ChoiceDraft = {
  quantity: '1',
  amount: '',
  variantId: '',
  extras: {},
  answers: {},
  code: '',
  cardId: null,
};

const COUNTED = ['each', 'each-tier', 'reached-tier', 'step', 'pack'];

/** The scheme of the first line of a rate, which says what is to be chosen of it. */
export function firstScheme(rate: RateView): string {
  const lines = rate.terms.lines as { price?: { scheme?: string } }[] | undefined;
  return lines?.[0]?.price?.scheme ?? '';
}
export const countsQuantity = (rate: RateView) => COUNTED.includes(firstScheme(rate));
export const takesAmount = (rate: RateView) => firstScheme(rate) === 'chosen';

const currencyOf = (rate: RateView) => String(rate.terms.currency);
const linesIn = (terms: Terms) => ('lines' in terms ? terms.lines.length : 0);

/** The extra lines that go with a rate. */
export function extrasWith(plan: PlanView, rate: RateView): ExtraLine[] {
  return extrasOf(plan.extras, rate.terms as unknown as RateTerms);
}

/** How many of an extra line are taken, as it stands in the form. */
export function takenOf(extra: ExtraLine, { extras }: ChoiceDraft): string {
  return extras[extra.key] ?? (extra.how === 'offered' ? '0' : String(extra.min));
}

/** What a choice comes to. */
export interface ComputedChoice {
  readonly terms: Record<string, unknown>;
  /** The same, once they can be computed. */
  readonly agreed: Terms | null;
  /** By the field: quantity, amount, variant, an extra line's or an answer's. */
  readonly faults: ReadonlyMap<string, string>;
  readonly card: TakeableCard | null;
  /** Where lines of other plans come from. */
  readonly sources: readonly LineSource[];
  /** Ordinary prices and the card's, side by side; empty without a card. */
  readonly besides: readonly PriceBeside[];
}

/** Computes a choice, by the calculation that the server uses. */
export function computeChoice(
  plan: PlanView,
  rate: RateView,
  draft: ChoiceDraft,
  of: {
    readonly starts: string;
    readonly lastDay: string;
    readonly cards: readonly TakeableCard[];
    readonly code: CodeAnswer | null;
    /** What is agreed with this customer alone. */
    readonly own: OwnDraft;
    /** Lines of other plans that are charged with it. */
    readonly beside?: readonly PlanLines[];
  },
): ComputedChoice {
  const faults = new Map<string, string>();
  const whole = (text: string) => (/^\d{1,9}$/.test(text.trim()) ? Number(text) : Number.NaN);
  const quantity = countsQuantity(rate) ? whole(draft.quantity) : undefined;
  if (quantity !== undefined && !(quantity >= 1)) faults.set('quantity', 'Give a whole number from 1.');
  const variant = plan.variants.find(({ id }) => id === draft.variantId);
  if (!variant && variantsAt(plan.variants, rate.id).length > 0) faults.set('variant', 'Choose one.');
  const extras = takenExtras(extrasWith(plan, rate), draft, faults, whole);
  for (const ask of plan.asks) {
    const fault = faultOfAnswer(ask, draft.answers[ask.label]?.trim() ?? '');
    if (fault !== null) faults.set(`answer:${ask.label}`, fault);
  }
  for (const [field, says] of faultsOfOwnDraft(of.own, currencyOf(rate))) faults.set(field, says);
  const own = ownTermsOf(of.own, currencyOf(rate));
  const card = of.code?.card ?? chosenCard(draft.cardId, of.cards);
  const composed = (
    prices: readonly (LinePrices | null | undefined)[],
    beside: readonly ChosenExtra[] = [],
  ) =>
    composeTerms(rate.terms as unknown as RateTerms, {
      starts: of.starts,
      lastDay: parseDay(of.lastDay) === null ? undefined : of.lastDay,
      quantity: quantity !== undefined && quantity >= 1 ? quantity : undefined,
      amount: takesAmount(rate) && draft.amount.trim() !== '' ? draft.amount.trim() : undefined,
      recurringStart: rate.options.recurringStart,
      prices: [variant?.prices[rate.id], ...prices],
      extras,
      beside,
      discounts: of.code?.discount ? [of.code.discount] : [],
      own,
    });
  const host = {
    terms: composed([card?.prices]),
    ...{ taxId: rate.taxId ?? null, account: rate.options.account },
  };
  const others = linesOfPlans(of.beside ?? [], host);
  const terms = composed([card?.prices], others.extras);
  const checked = checkTerms(terms);
  const found = checked.ok ? [] : checked.faults;
  const ofAmount = found.find(({ pointer }) => pointer.startsWith('/lines/0/price/'));
  if (ofAmount && takesAmount(rate)) faults.set('amount', ofAmount.detail);
  const counted = { lines: linesIn(terms) - others.extras.length, discounts: terms.discounts?.length ?? 0 };
  for (const { pointer, detail } of faultsOfOwn(found, own, counted))
    if (pointer.startsWith('/own/') && !faults.has(pointer.slice(1))) faults.set(pointer.slice(1), detail);
  return {
    terms: terms as unknown as Record<string, unknown>,
    agreed: checked.ok ? checked.terms : null,
    faults,
    card,
    sources: others.sources,
    besides: card && checked.ok ? beside(composed([], others.extras), checked.terms) : [],
  };
}

function beside(ordinary: Terms, withCard: Terms): PriceBeside[] {
  if (!('lines' in ordinary) || !('lines' in withCard) || !checkTerms(ordinary).ok) return [];
  return pricesBeside(ordinary.lines, withCard.lines, ordinary.currency);
}

function chosenCard(cardId: string | null, cards: readonly TakeableCard[]): TakeableCard | null {
  if (cardId === null) return cards.find(({ givenBy }) => givenBy === 'group') ?? null;
  return cards.find(({ id }) => id === cardId) ?? null;
}

function takenExtras(
  offered: readonly ExtraLine[],
  draft: ChoiceDraft,
  faults: Map<string, string>,
  whole: (text: string) => number,
): ChosenExtra[] {
  return offered.flatMap((extra) => {
    const typed = whole(takenOf(extra, draft));
    const chosen = Number.isNaN(typed)
      ? { says: 'Give a whole number.' }
      : chooseExtras([extra], { [extra.key]: typed });
    if ('taken' in chosen) return chosen.taken;
    faults.set(`extra:${extra.key}`, chosen.says);
    return [];
  });
}

/** The extra lines as they are sent: what was said of each. */
export function sentExtras(plan: PlanView, rate: RateView, draft: ChoiceDraft): Record<string, number> {
  return Object.fromEntries(
    extrasWith(plan, rate).map((extra) => [extra.key, Number(takenOf(extra, draft))]),
  );
}

/** The answers as they are sent: those that were given. */
export function sentAnswers(plan: PlanView, draft: ChoiceDraft): Record<string, string> {
  return Object.fromEntries(
    plan.asks.flatMap(({ label }) => {
      const answer = draft.answers[label]?.trim() ?? '';
      return answer === '' ? [] : [[label, answer] as const];
    }),
  );
}
