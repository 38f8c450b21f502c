import type { PlanLines } from '../../../../core/offer/planLines.ts';
import { variantsAt } from '../../../../core/offer/variant.ts';
import type { CodeAnswer } from '../../../../server/discounts/messages.ts';
import type { PlanView } from '../../../../server/plans/messages.ts';
import type { TakeableCard } from '../../../../server/rateCards/messages.ts';
import { withQuery } from '../../../api/client.ts';
import { useAnswer } from '../../../api/hooks.ts';
import type { OwnDraft } from './ownDraft.ts';
import { computeChoice, type ChoiceDraft } from './choice.ts';

interface Asked {
  readonly plans: readonly PlanView[] | undefined;
  readonly rateId: string;
  readonly choice: ChoiceDraft;
  readonly starts: string;
  /** The last day of this subscription alone; empty: as the rate says. */
  readonly lastDay: string;
  /** What is agreed with this customer alone. */
  readonly own: OwnDraft;
  /** Of a customer there is; empty for somebody new. */
  readonly customerId: string;
  /** Of somebody new; empty: none. */
  readonly group: string;
  /** Lines of other plans that are charged with it. */
  readonly beside?: readonly PlanLines[];
}

const NO_CARDS: readonly TakeableCard[] = [];

/** What is chosen of a plan, with the rate cards and the code that go with it, and what it comes to. */
export function useChoice({ plans, rateId, choice, starts, lastDay, own, customerId, group, beside }: Asked) {
  const plan = plans?.find(({ rates }) => rates.some(({ id }) => id === rateId));
  const rate = plan?.rates.find(({ id }) => id === rateId);
  const offered = plan ? variantsAt(plan.variants, rateId) : [];
  const variantId = offered.some(({ id }) => id === choice.variantId) ? choice.variantId : '';
  const code = choice.code.trim();
  const known = useAnswer<CodeAnswer>(
    rateId === '' || !/^[\w-]{3,40}$/.test(code)
      ? null
      : withQuery(`/api/codes/${encodeURIComponent(code)}`, { rateId, variantId }),
  );
  const { data: cards = NO_CARDS } = useAnswer<readonly TakeableCard[]>(
    rateId === '' ? null : withQuery(`/api/rates/${rateId}/cards`, { variantId, customerId, group }),
  );
  const taken = code !== '' && !known.error && known.data ? known.data : null;
  const computed =
    plan && rate
      ? computeChoice(
          plan,
          rate,
          { ...choice, variantId },
          {
            ...{ starts, lastDay, cards, code: taken, own, ...(beside ? { beside } : {}) },
          },
        )
      : null;
  const codeHint =
    taken === null
      ? 'If there is one.'
      : taken.card
        ? `The rate card ${taken.card.name}: see the right.`
        : 'It is in the charges at the right.';
  return {
    plan,
    rate,
    computed,
    cards,
    variantId,
    code,
    codeSays: code === '' ? undefined : known.error?.message,
    codeHint,
  };
}
