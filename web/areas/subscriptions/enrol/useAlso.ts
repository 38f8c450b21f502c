import useSWR from 'swr';
import type { RateTerms } from '../../../../core/offer/composeTerms.ts';
import { whyApart, type PlanLines } from '../../../../core/offer/planLines.ts';
import { variantsAt } from '../../../../core/offer/variant.ts';
import type { PlanView, RateView } from '../../../../server/plans/messages.ts';
import type { TakeableCard } from '../../../../server/rateCards/messages.ts';
import { get, withQuery } from '../../../api/client.ts';
import { computeChoice, type AlsoDraft, type ComputedChoice } from './choice.ts';
import { NOTHING_OWN } from './ownDraft.ts';

/** Another plan of an enrolment, as far as it is chosen. */
export interface AlsoChosen {
  readonly plan: PlanView | undefined;
  readonly rate: RateView | undefined;
  readonly variantId: string;
  readonly computed: ComputedChoice | null;
  /** Why its lines cannot be charged with the first, in words; null: they can. */
  readonly apart: string | null;
  /** They are. */
  readonly inside: boolean;
}

interface Asked {
  readonly plans: readonly PlanView[];
  readonly also: readonly AlsoDraft[];
  readonly starts: string;
  readonly customerId: string;
  /** Of somebody new; empty: none. */
  readonly group: string;
  /** The rate of the first plan. */
  readonly first: RateView | undefined;
}

const termsOf = ({ terms }: RateView) => terms as unknown as RateTerms;

/** The other plans of an enrolment, with the rate cards that go with each and what each comes to. */
export function useAlso({ plans, also, starts, customerId, group, first }: Asked): AlsoChosen[] {
  const found = also.map(({ rateId, choice }) => {
    const plan = plans.find(({ rates }) => rates.some(({ id }) => id === rateId));
    const rate = plan?.rates.find(({ id }) => id === rateId);
    const offered = plan ? variantsAt(plan.variants, rateId) : [];
    const variantId = offered.some(({ id }) => id === choice.variantId) ? choice.variantId : '';
    const path = rate && withQuery(`/api/rates/${rateId}/cards`, { variantId, customerId, group });
    return { plan, rate, variantId, path };
  });
  const paths = [...new Set(found.flatMap(({ path }) => path ?? []))];
  const { data } = useSWR(
    paths.length === 0 ? null : ['cards of other plans', ...paths],
    async ([, ...asked]: string[]) =>
      new Map(await Promise.all(asked.map(async (path) => [path, await get<TakeableCard[]>(path)] as const))),
    { keepPreviousData: true },
  );
  return found.map(({ plan, rate, variantId, path }, i) => {
    const { choice, inside } = also[i] ?? {};
    if (!plan || !rate || !choice)
      return { plan, rate, variantId, computed: null, apart: null, inside: false };
    const cards = (path === undefined ? undefined : data?.get(path)) ?? [];
    const facts = { starts, lastDay: '', cards, code: null, own: NOTHING_OWN };
    const computed = computeChoice(plan, rate, { ...choice, variantId }, facts);
    const apart = first ? whyApart(termsOf(rate), termsOf(first)) : null;
    return { plan, rate, variantId, computed, apart, inside: inside === true && apart === null };
  });
}

/** The lines of those that are charged with the first. */
export function insideOf(others: readonly AlsoChosen[]): PlanLines[] {
  return others.flatMap(({ plan, rate, computed, inside }) =>
    inside && plan && rate && computed?.agreed
      ? [
          {
            ...{ plan: plan.outerName || plan.name, terms: computed.agreed },
            ...{ taxId: rate.taxId ?? null, account: rate.options.account },
          },
        ]
      : [],
  );
}
