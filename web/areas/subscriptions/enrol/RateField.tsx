import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { lazy, Suspense, useMemo, useState } from 'react';
import type { PlanView, RateView } from '../../../../server/plans/messages.ts';
import { useFrame } from '../../../frame/useFrame.ts';
import { goOnToField } from '../../../frame/pageForm.ts';
import { ComboField } from '../../../parts/ComboField.tsx';
import { beginRate, type NewRate } from './newRate.ts';
import { choicesFor, rateChoices } from './rateChoices.ts';

/** Comes only where a rate is made in the middle of an enrolment. */
const MakeRate = lazy(() => import('./MakeRate.tsx'));

interface Props {
  readonly plans: readonly PlanView[];
  /** Its name in the form; without it that of the first rate. */
  readonly field?: string;
  /** What was taken, and whether it was made for one customer alone. */
  readonly chosen: { readonly plan: PlanView; readonly rate: RateView; readonly once: boolean } | null;
  readonly error: string | undefined;
  /** A rate that is being made here, where the form keeps it with the rest; null: none is. */
  readonly made?: {
    readonly draft: NewRate | null;
    readonly onChange: (draft: NewRate | null) => void;
  };
  readonly onTake: (rateId: string, once: boolean) => void;
  readonly onLeave: () => void;
}

/** The plan and the rate of an enrolment: found by typing, or made here. */
export function RateField({ plans, field = 'rateId', chosen, error, made, onTake, onLeave }: Props) {
  const { businessDate } = useFrame();
  const [own, setOwn] = useState<NewRate | null>(null);
  const { draft: making, onChange: setMaking } = made ?? { draft: own, onChange: setOwn };
  const [sought, setSought] = useState('');
  const choices = useMemo(() => rateChoices(plans, businessDate), [plans, businessDate]);
  const offered = useMemo(() => choicesFor(choices, sought), [choices, sought]);
  if (chosen)
    return (
      <Box data-field={field}>
        <Text fontWeight="500">Plan and rate</Text>
        <Flex gap="3" align="center" wrap="wrap">
          <Text fontWeight="600">
            {chosen.plan.name}, {chosen.rate.name}
          </Text>
          <Button size="xs" variant="outline" onClick={onLeave}>
            Another rate
          </Button>
        </Flex>
        <Text color="muted" fontSize="13px">
          {chosen.rate.says}
          {chosen.once && '. It is for this customer alone, and archived once it is taken.'}
        </Text>
      </Box>
    );
  if (making)
    return (
      <Suspense fallback={<Text color="muted">Loading …</Text>}>
        <MakeRate
          plans={plans}
          draft={making}
          onChange={setMaking}
          onMade={(id, once) => {
            setMaking(null);
            onTake(id, once);
          }}
          onClose={() => {
            setMaking(null);
            goOnToField(field);
          }}
        />
      </Suspense>
    );
  return (
    <Box>
      <ComboField
        label="Plan and rate"
        field={field}
        required
        placeholder="Type part of it, such as “row yearly”"
        items={offered}
        typed={sought}
        error={error}
        nothing={
          choices.length === 0
            ? 'There is no plan yet: make one here, or under Offer, Plans.'
            : 'No plan or rate is called so.'
        }
        onTyped={setSought}
        onTake={(id) => {
          setSought('');
          onTake(id, false);
        }}
      />
      <Button size="xs" variant="outline" mt="2" onClick={() => setMaking(beginRate(plans))}>
        Make a rate here
      </Button>
    </Box>
  );
}
