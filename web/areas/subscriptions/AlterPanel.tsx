import { variantsAt } from '../../../core/offer/variant.ts';
import { useState } from 'react';
import { Text } from '@chakra-ui/react';
import type { PlanView } from '../../../server/plans/messages.ts';
import type { TakeableCard } from '../../../server/rateCards/messages.ts';
import type { SubscriptionView } from '../../../server/subscriptions/messages.ts';
import { withQuery } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { Alter } from '../../parts/alter/Alter.tsx';
import type { Alterable, Kind } from '../../parts/alter/alteration.ts';

const NAMES: Readonly<Record<Kind, string>> = {
  cancel: 'End the subscription',
  'go on': 'Let it go on',
  pause: 'Pause it',
  'pause until': 'Pause it until a day',
  date: 'Move the next payment to another day',
  skip: 'Skip the next period',
  quantity: 'Change how many',
  extra: 'Change an extra line',
  once: 'Add something paid once',
  amount: 'Add an amount',
  variant: 'Move to another variant',
  'rate card': 'Apply a rate card',
  code: 'Use a code',
};

/** Whatever staff may alter of a subscription that runs. */
export function AlterPanel({ one }: { readonly one: SubscriptionView }) {
  const { data: plan } = useAnswer<PlanView>(`/api/plans/${one.planId}`);
  const { data: cards } = useAnswer<TakeableCard[]>(
    withQuery(`/api/rates/${one.rateId}/cards`, {
      customerId: one.customerId,
      variantId: one.variant?.id,
    }),
  );
  const [says, setSays] = useState('');
  if (!plan || !cards) return null;
  const of = alterableOf(one, plan, cards);
  return (
    <>
      <MarginHeading>Change it</MarginHeading>
      <Alter
        key={`${one.cancelledBy}:${one.variant?.id}:${one.rateCard?.id}:${one.quantity}`}
        path={`/api/subscriptions/${one.id}`}
        of={of}
        names={NAMES}
        onDone={(effect) => setSays(`Done: ${effect.says}. The customer was written to.`)}
      />
      <Text role="status" color="collected" mt="2">
        {says}
      </Text>
    </>
  );
}

function alterableOf(one: SubscriptionView, plan: PlanView, cards: readonly TakeableCard[]): Alterable {
  const offered = plan.extras.filter(
    ({ currency, when }) => currency === one.currency && when === 'recurring',
  );
  const kept = one.extras.map(({ extra }) => extra).filter(({ when }) => when === 'recurring');
  const extras = [...kept, ...offered.filter(({ key }) => !kept.some((extra) => extra.key === key))];
  const once = plan.extras.filter(({ currency, when }) => currency === one.currency && when === 'once');
  const variants = variantsAt(plan.variants, one.rateId).filter(({ archivedOn }) => archivedOn === null);
  const fixed: Pick<Alterable, 'kinds' | 'cancelWhen'> | null =
    one.instalments || one.invoicing === 'whole'
      ? {
          kinds: [
            ...(one.invoicing === 'each'
              ? (['pause', 'skip', ...(once.length > 0 ? (['once'] as const) : [])] as const)
              : []),
            'cancel',
          ],
          cancelWhen: ['now'],
        }
      : null;
  const kinds: Kind[] = [
    ...(one.quantity === null ? [] : (['quantity'] as const)),
    ...(variants.some(({ id }) => id !== one.variant?.id) ? (['variant'] as const) : []),
    ...(extras.length > 0 ? (['extra'] as const) : []),
    ...(once.length > 0 ? (['once'] as const) : []),
    'amount',
    ...(cards.some(({ id }) => id !== one.rateCard?.id) || one.rateCard ? (['rate card'] as const) : []),
    'code',
    'pause',
    'pause until',
    'date',
    'skip',
    ...(one.cancelledBy === null ? (['cancel'] as const) : (['go on'] as const)),
  ];
  return {
    ...(fixed ?? { kinds, cancelWhen: ['period end', 'after payments', 'now'] }),
    cancelAfter: null,
    pauseMost: 24,
    quantity: one.quantity,
    variantId: one.variant?.id ?? null,
    variants,
    extras: extras.map(({ key, name, min, max, how }) => ({
      ...{ key, name, min, max, required: how === 'required' },
      quantity: one.extras.find(({ extra }) => extra.key === key)?.quantity ?? 0,
    })),
    once,
    cards,
    cardId: one.rateCard?.id ?? null,
    currency: one.currency,
  };
}
