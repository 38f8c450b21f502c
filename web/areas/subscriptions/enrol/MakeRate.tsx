import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { useSWRConfig } from 'swr';
import type { PlanView } from '../../../../server/plans/messages.ts';
import { get, post } from '../../../api/client.ts';
import { useBusiness } from '../../../api/hooks.ts';
import { useAct } from '../../../api/useAct.ts';
import { AmountField } from '../../../parts/AmountField.tsx';
import { Outcome } from '../../../parts/Outcome.tsx';
import { QuantityField } from '../../../parts/QuantityField.tsx';
import { SelectField, TextField } from '../../../parts/TextField.tsx';
import { TickField } from '../../../parts/TickField.tsx';
import { UnitField } from '../../plans/rate/UnitField.tsx';
import { faultsOfNewRate, NEW_PLAN, sentRate, type NewRate } from './newRate.ts';

interface Props {
  readonly plans: readonly PlanView[];
  readonly draft: NewRate;
  readonly onChange: (draft: NewRate) => void;
  /** It was made: its id, and whether it is for this customer alone. */
  readonly onMade: (rateId: string, once: boolean) => void;
  readonly onClose: () => void;
}

/** Makes a rate, of a plan there is or of a new one, without leaving the enrolment. Prices with levels are made under Offer. */
export default function MakeRate({ plans, draft, onChange, onMade, onClose }: Props) {
  const offered = plans.filter(({ archivedOn }) => archivedOn === null);
  const { data: business } = useBusiness();
  const currency = draft.currency ?? business?.homeCurrency ?? 'GBP';
  const [tried, setTried] = useState(false);
  const acting = useAct();
  const { mutate } = useSWRConfig();
  const change = (to: Partial<NewRate>) => onChange({ ...draft, ...to });
  const faults = faultsOfNewRate(draft, currency);
  const faultAt = (field: string) =>
    (tried ? faults.get(field) : undefined) ??
    acting.problem?.at(`/${field}`) ??
    acting.problem?.at(`/rate/${field}`);
  const setLine = (at: number, to: Partial<NewRate['lines'][number]>) =>
    change({ lines: draft.lines.map((line, i) => (i === at ? { ...line, ...to } : line)) });
  const make = async () => {
    setTried(true);
    if (faults.size > 0) return;
    await acting.act(async () => {
      const rate = sentRate(draft, currency);
      const made =
        draft.planId === NEW_PLAN
          ? await post<{ id: string }>('/api/plans', { name: draft.planName.trim(), rate })
          : await post<{ id: string }>(`/api/plans/${draft.planId}/rates`, rate);
      const rateId =
        draft.planId === NEW_PLAN
          ? ((await get<PlanView>(`/api/plans/${made.id}`)).rates[0]?.id ?? '')
          : made.id;
      await mutate('/api/plans');
      onMade(rateId, draft.once);
    });
  };
  return (
    <Box
      role="group"
      aria-label="A rate made here"
      borderWidth="1px"
      borderColor="lines"
      borderRadius="md"
      bg="page"
      p="4"
    >
      <Flex gap="3" wrap="wrap" align="flex-start">
        <SelectField
          label="Of the plan"
          field="newRate/plan"
          w="220px"
          value={draft.planId}
          onChange={(event) => change({ planId: event.target.value })}
        >
          {offered.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
          <option value={NEW_PLAN}>a new plan</option>
        </SelectField>
        {draft.planId === NEW_PLAN && (
          <TextField
            label="Name of the plan"
            w="220px"
            required
            maxLength={120}
            value={draft.planName}
            error={faultAt('planName') ?? acting.problem?.at('/name')}
            onChange={(event) => change({ planName: event.target.value })}
          />
        )}
        <TextField
          label="Name of the rate"
          w="220px"
          required
          maxLength={120}
          value={draft.name}
          error={faultAt('name')}
          onChange={(event) => change({ name: event.target.value })}
        />
        <SelectField
          label="Charged"
          field="newRate/recurs"
          w="220px"
          value={draft.recurs ? 'again' : 'once'}
          onChange={(event) => change({ recurs: event.target.value === 'again' })}
        >
          <option value="again">again and again</option>
          <option value="once">once, on its own invoice</option>
        </SelectField>
        {draft.recurs && (
          <>
            <QuantityField
              label="Charged every"
              w="110px"
              most={999}
              value={draft.every}
              error={faultAt('every')}
              onChange={(event) => change({ every: event.target.value })}
            />
            <Box w="110px">
              <UnitField label="Counted in" value={draft.unit} onChange={(unit) => change({ unit })} />
            </Box>
          </>
        )}
      </Flex>
      {draft.lines.map((line, i) => (
        <Flex key={i} gap="3" align="flex-start" mt="2">
          <TextField
            label={i === 0 ? 'For what' : `For what, line ${i + 1}`}
            required
            maxLength={200}
            value={line.name}
            error={faultAt(`lines/${i}/name`)}
            onChange={(event) => setLine(i, { name: event.target.value })}
          />
          <AmountField
            label={i === 0 ? 'Price' : `Price, line ${i + 1}`}
            w="160px"
            currency={currency}
            value={line.amount}
            error={faultAt(`lines/${i}/amount`)}
            onChange={(event) => setLine(i, { amount: event.target.value })}
          />
          {draft.lines.length > 1 && (
            <Button
              size="xs"
              variant="outline"
              mt="6"
              aria-label={`Leave out line ${i + 1}`}
              onClick={() => change({ lines: draft.lines.filter((_, at) => at !== i) })}
            >
              Leave out
            </Button>
          )}
        </Flex>
      ))}
      {draft.lines.length < 10 && (
        <Button
          size="xs"
          variant="outline"
          mt="2"
          onClick={() => change({ lines: [...draft.lines, { name: '', amount: '' }] })}
        >
          Another line
        </Button>
      )}
      <Box mt="2">
        <TickField
          label="For this customer alone: it is archived once it is taken"
          checked={draft.once}
          onChange={(once) => change({ once })}
        />
      </Box>
      <Flex gap="2" mt="2">
        <Button size="sm" colorPalette="kelp" loading={acting.busy} onClick={() => void make()}>
          Make it and take it
        </Button>
        <Button size="sm" variant="outline" onClick={onClose}>
          Leave it
        </Button>
      </Flex>
      <Text color="muted" mt="1" fontSize="13px">
        Trials, set-up, levels of price and all else a rate can have are made under Offer, Plans.
      </Text>
      <Outcome of={acting} />
    </Box>
  );
}
