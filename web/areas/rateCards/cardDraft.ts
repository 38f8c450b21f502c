import { faultsOfPrice } from '../../../core/offer/prices.ts';
import type { PlanView } from '../../../server/plans/messages.ts';
import { rateCardSchema, type GivenBy, type RateCardView } from '../../../server/rateCards/messages.ts';
import { inFormWords } from '../../parts/formWords.ts';
import { linesOf, pricesDraftOf, pricesOf, type PricesDraft } from '../plans/rate/OtherPrices.tsx';

/** The other prices of one rate, or of one of its plan's variants. */
export interface CardPriceDraft {
  readonly rateId: string;
  readonly variantId: string | null;
  readonly prices: PricesDraft;
}

/** A rate card as it is being typed. */
export interface CardDraft {
  readonly name: string;
  readonly givenBy: GivenBy;
  readonly group: string;
  readonly code: string;
  readonly validFrom: string;
  readonly validTo: string;
  readonly prices: readonly CardPriceDraft[];
}

export const NEW_CARD: CardDraft = {
  name: '',
  givenBy: 'group',
  group: '',
  code: '',
  validFrom: '',
  validTo: '',
  prices: [],
};

/** What a draft stands for. */
export function cardValueOf(draft: CardDraft) {
  return {
    name: draft.name.trim(),
    givenBy: draft.givenBy,
    group: draft.givenBy === 'group' ? draft.group.trim() : '',
    code: draft.givenBy === 'code' ? draft.code.trim() : null,
    validFrom: draft.validFrom || null,
    validTo: draft.validTo || null,
    prices: draft.prices.map((one) => ({ ...one, prices: pricesOf(one.prices) })),
  };
}

/** What is wrong with a draft, by pointer. */
export function faultsOfCard(draft: CardDraft, plans: readonly PlanView[]): ReadonlyMap<string, string> {
  const parsed = rateCardSchema.safeParse(cardValueOf(draft));
  const shape = parsed.success
    ? []
    : parsed.error.issues.map(({ path, message }) => [`/${path.join('/')}`, message] as const);
  const prices = draft.prices.flatMap(({ rateId, prices: of }, i) => {
    const currency = String(rateNamed(plans, rateId)?.rate.terms.currency ?? 'GBP');
    return pricesOf(of).flatMap((price, j) =>
      price === null
        ? []
        : faultsOfPrice(price, currency)
            .map(inFormWords)
            .map(({ pointer, detail }) => [`/prices/${i}/prices/${j}${pointer}`, detail] as const),
    );
  });
  return new Map([...shape, ...prices]);
}

/** The draft of a card that is stored. */
export function cardDraftOf(card: RateCardView, plans: readonly PlanView[]): CardDraft {
  const { name, givenBy, group, code, validFrom, validTo, prices } = card;
  return {
    ...{ name, givenBy, group },
    code: code ?? '',
    validFrom: validFrom ?? '',
    validTo: validTo ?? '',
    prices: prices.map(({ rateId, variantId, prices: of }) => {
      const rate = rateNamed(plans, rateId)?.rate;
      return { rateId, variantId, prices: pricesDraftOf(of, rate ? linesOf(rate.terms).length : of.length) };
    }),
  };
}

/** A rate by its id, with its plan. */
export function rateNamed(plans: readonly PlanView[], rateId: string) {
  for (const plan of plans) {
    const rate = plan.rates.find(({ id }) => id === rateId);
    if (rate) return { plan, rate };
  }
  return null;
}
