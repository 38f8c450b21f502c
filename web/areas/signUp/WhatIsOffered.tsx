import { Box, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { PlanView } from '../../../server/plans/messages.ts';
import { Fold } from '../../parts/Fold.tsx';
import { SelectField } from '../../parts/TextField.tsx';
import { TickField } from '../../parts/TickField.tsx';
import { Part } from '../../parts/Part.tsx';
import { keyOf, NO_TEXTS } from './pageDraft.ts';
import type { PartProps } from './partProps.ts';

/** The rates of plans that a page offers, and which of them first. */
export function WhatIsOffered({
  draft,
  faultAt,
  onChange,
  plans,
}: PartProps & { readonly plans: readonly PlanView[] }) {
  const open = plans
    .map((plan) => ({ ...plan, rates: plan.rates.filter(({ archivedOn }) => archivedOn === null) }))
    .filter(({ rates, archivedOn }) => archivedOn === null && rates.length > 0);
  const all = open.flatMap((plan) => plan.rates.map((rate) => ({ plan, rate })));
  const take = (id: string, on: boolean) => {
    // In the order of the offer, whichever was ticked first.
    const ids = all.map(({ rate }) => rate.id);
    const rates = on
      ? ids.filter((one) => one === id || draft.rates.includes(one))
      : draft.rates.filter((one) => one !== id);
    const { language } = draft;
    const texts = draft.texts[language] ?? NO_TEXTS;
    const plan = all.find(({ rate }) => rate.id === id)?.plan;
    const title = on && texts.title === '' && plan ? plan.outerName || plan.name : texts.title;
    onChange({
      rates,
      firstRate: rates.includes(draft.firstRate) ? draft.firstRate : (rates[0] ?? ''),
      ...(title === texts.title
        ? {}
        : {
            texts: { ...draft.texts, [language]: { ...texts, title } },
            ...(draft.keyFollows ? { key: keyOf(title) } : {}),
          }),
    });
  };
  // Those that something is taken of come first; while nothing is, all are in sight.
  const [firstOnes] = useState(
    () =>
      new Set(
        open.filter((plan) => plan.rates.some(({ id }) => draft.rates.includes(id))).map(({ id }) => id),
      ),
  );
  const shown = firstOnes.size === 0 ? open : open.filter(({ id }) => firstOnes.has(id));
  const folded = firstOnes.size === 0 ? [] : open.filter(({ id }) => !firstOnes.has(id));
  const chosen = all.filter(({ rate }) => draft.rates.includes(rate.id));
  return (
    <Part title="What it offers">
      <Box data-field="/rates" tabIndex={-1}>
        {shown.map((plan) => (
          <Rates key={plan.id} plan={plan} taken={draft.rates} onTake={take} />
        ))}
        {folded.length > 0 && (
          <Fold title="Other plans" holds={folded.map(({ name }) => name).join(', ')}>
            {folded.map((plan) => (
              <Rates key={plan.id} plan={plan} taken={draft.rates} onTake={take} />
            ))}
          </Fold>
        )}
        {open.length === 0 && <Text color="muted">There is no plan yet: begin with one of the above.</Text>}
        <Text role="alert" color="declined">
          {faultAt('/rates')}
        </Text>
      </Box>
      {chosen.length > 1 && (
        <SelectField
          label="Offered first"
          w="340px"
          value={draft.firstRate}
          error={faultAt('/firstRate')}
          onChange={(event) => onChange({ firstRate: event.target.value })}
        >
          {chosen.map(({ plan, rate }) => (
            <option key={rate.id} value={rate.id}>
              {plan.name}, {rate.name}
            </option>
          ))}
        </SelectField>
      )}
    </Part>
  );
}

function Rates(props: {
  readonly plan: PlanView;
  readonly taken: readonly string[];
  readonly onTake: (id: string, on: boolean) => void;
}) {
  const { plan, taken, onTake } = props;
  return (
    <Box role="group" aria-label={plan.name} mb="3">
      <Text fontWeight="500">{plan.name}</Text>
      {plan.rates.map((rate) => (
        <TickField
          key={rate.id}
          label={
            <>
              {rate.name}{' '}
              <Text as="span" color="muted">
                {rate.says}
              </Text>
            </>
          }
          checked={taken.includes(rate.id)}
          onChange={(on) => onTake(rate.id, on)}
        />
      ))}
    </Box>
  );
}
