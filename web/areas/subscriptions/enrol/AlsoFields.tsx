import { Box, Button, Flex, Text } from '@chakra-ui/react';
import type { PlanView } from '../../../../server/plans/messages.ts';
import { SelectField } from '../../../parts/TextField.tsx';
import { NO_CHOICE, type AlsoDraft } from './choice.ts';
import { ChoiceFields } from './ChoiceFields.tsx';
import { RateField } from './RateField.tsx';
import type { AlsoChosen } from './useAlso.ts';

interface Props {
  readonly plans: readonly PlanView[];
  readonly also: readonly AlsoDraft[];
  readonly others: readonly AlsoChosen[];
  readonly faultAt: (field: string) => string | undefined;
  readonly onChange: (also: readonly AlsoDraft[]) => void;
}

/** Other plans of the same enrolment: lines of the first subscription, or subscriptions of their own that are paid with the same. */
export default function AlsoFields({ plans, also, others, faultAt, onChange }: Props) {
  return also.map((one, i) => (
    <Also
      key={i}
      {...{ plans, faultAt, one }}
      at={i}
      sent={placeSent(others, i)}
      chosen={others[i]}
      onChange={(to) => onChange(also.map((other, j) => (j === i ? { ...other, ...to } : other)))}
      onLeave={() => onChange(also.filter((_, j) => j !== i))}
    />
  ));
}

/** Where one of several stands in what is sent: `also/0`, `beside/1`. */
function placeSent(others: readonly AlsoChosen[], at: number): string {
  const isInside = others[at]?.inside === true;
  const before = others.slice(0, at).filter(({ inside }) => inside === isInside).length;
  return `${isInside ? 'beside' : 'also'}/${before}`;
}

function Also(props: {
  readonly plans: readonly PlanView[];
  readonly at: number;
  readonly sent: string;
  readonly one: AlsoDraft;
  readonly chosen: AlsoChosen | undefined;
  readonly faultAt: (field: string) => string | undefined;
  readonly onChange: (to: Partial<AlsoDraft>) => void;
  readonly onLeave: () => void;
}) {
  const { plans, at, sent, one, chosen, faultAt, onChange, onLeave } = props;
  const { choice } = one;
  const { plan, rate, computed, variantId = '', apart = null, inside = false } = chosen ?? {};
  const fault = faultAt(sent) ?? faultAt(`${sent}/rateId`);
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
        onTake={(id) => onChange({ rateId: id, choice: NO_CHOICE, inside: true })}
        onLeave={() => onChange({ rateId: '', choice: NO_CHOICE, inside: true })}
      />
      {plan && rate && fault !== undefined && (
        <Text role="alert" color="fg.error" fontSize="13px">
          {fault}
        </Text>
      )}
      {plan && rate && (
        <>
          <SelectField
            label="How it is charged"
            field={`also/${at}/inside`}
            w="420px"
            hint={
              apart ??
              (inside
                ? 'Its lines stand on the same invoices, each with its own tax and account. Its own trial and set-up do not come with them.'
                : 'It has its own dates and its own invoices, and is paid with the same.')
            }
            disabled={apart !== null}
            value={inside ? 'inside' : 'apart'}
            onChange={(event) => onChange({ inside: event.target.value === 'inside' })}
          >
            <option value="inside">as lines of this subscription, on its dates</option>
            <option value="apart">as a subscription of its own</option>
          </SelectField>
          <Box mt="3">
            <ChoiceFields
              plan={plan}
              rate={rate}
              draft={{ ...choice, variantId }}
              faultAt={(field) => faultAt(`${sent}/${field}`) ?? computed?.faults.get(field)}
              onChange={(to) => onChange({ choice: { ...choice, ...to } })}
            />
          </Box>
        </>
      )}
    </Box>
  );
}
