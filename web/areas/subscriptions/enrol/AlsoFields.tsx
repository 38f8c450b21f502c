import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { sayAgreed } from '../../../../core/words/sayAgreed.ts';
import type { PlanView } from '../../../../server/plans/messages.ts';
import { useTaxSaid } from '../../../api/useLaw.ts';
import type { Terms } from '../../../../core/terms/schema.ts';
import { useFrame } from '../../../frame/useFrame.ts';
import type { lawOf } from '../ContactFields.tsx';
import { NO_CHOICE } from './choice.ts';
import { ChoiceFields } from './ChoiceFields.tsx';
import type { AlsoDraft } from './enrolDraft.ts';
import { NOTHING_OWN } from './ownDraft.ts';
import { RateField } from './RateField.tsx';
import { useChoice } from './useChoice.ts';

interface Props {
  readonly plans: readonly PlanView[];
  readonly also: readonly AlsoDraft[];
  readonly starts: string;
  readonly customerId: string;
  readonly law: ReturnType<typeof lawOf>;
  readonly faultAt: (field: string) => string | undefined;
  readonly onChange: (also: readonly AlsoDraft[]) => void;
}

/** So many others can begin beside the first. */
const MOST = 5;

/** Other plans that begin with the same enrolment: each is a subscription of its own, paid with the same. */
export function AlsoFields({ also, onChange, ...shared }: Props) {
  return (
    <Box>
      {also.map((one, i) => (
        <Also
          key={i}
          {...shared}
          at={i}
          one={one}
          onChange={(to) => onChange(also.map((other, j) => (j === i ? { ...other, ...to } : other)))}
          onLeave={() => onChange(also.filter((_, j) => j !== i))}
        />
      ))}
      {also.length < MOST && (
        <Button
          size="xs"
          variant="outline"
          onClick={() => onChange([...also, { rateId: '', choice: NO_CHOICE }])}
        >
          {also.length === 0 ? 'Another plan beside it' : 'One more plan'}
        </Button>
      )}
    </Box>
  );
}

function Also(
  props: Omit<Props, 'also' | 'onChange'> & {
    readonly at: number;
    readonly one: AlsoDraft;
    readonly onChange: (to: Partial<AlsoDraft>) => void;
    readonly onLeave: () => void;
  },
) {
  const { plans, at, one, starts, customerId, law, faultAt, onChange, onLeave } = props;
  const { businessDate } = useFrame();
  const { rateId, choice } = one;
  const chosen = useChoice({
    ...{ plans, rateId, choice, starts, lastDay: '', own: NOTHING_OWN, customerId, group: '' },
  });
  const { plan, rate, computed, variantId } = chosen;
  const tax = useTaxSaid(
    rate?.taxId,
    (computed?.terms.tax ?? rate?.terms.tax) as Terms['tax'],
    businessDate,
    law,
  );
  const fault = faultAt(`also/${at}`) ?? faultAt(`also/${at}/rateId`);
  return (
    <Box
      role="group"
      aria-label={`Beside it, plan ${at + 1}`}
      borderStartWidth="2px"
      borderColor="lines"
      ps="3"
      mb="3"
      data-field={`also/${at}`}
    >
      <Flex justify="space-between" align="center">
        <Text fontWeight="500">Beside it</Text>
        <Button size="2xs" variant="ghost" onClick={onLeave}>
          Leave it out
        </Button>
      </Flex>
      <RateField
        plans={plans}
        field={`also/${at}/rateId`}
        chosen={plan && rate ? { plan, rate, once: false } : null}
        error={fault}
        recurring={undefined}
        onTake={(id) => onChange({ rateId: id, choice: NO_CHOICE })}
        onLeave={() => onChange({ rateId: '', choice: NO_CHOICE })}
      />
      {plan && rate && fault !== undefined && (
        <Text role="alert" color="fg.error" fontSize="13px">
          {fault}
        </Text>
      )}
      {plan && rate && (
        <ChoiceFields
          plan={plan}
          rate={rate}
          draft={{ ...choice, variantId }}
          faultAt={(field) => faultAt(`also/${at}/${field}`) ?? computed?.faults.get(field)}
          onChange={(to) => onChange({ choice: { ...choice, ...to } })}
        />
      )}
      {computed?.agreed && (
        <Text mt="1" fontWeight="500">
          {sayAgreed(computed.agreed, starts > businessDate ? starts : businessDate, tax)}
        </Text>
      )}
    </Box>
  );
}
