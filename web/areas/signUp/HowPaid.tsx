import { Box, Flex, Text } from '@chakra-ui/react';
import { sayAmount } from '../../../core/words/amount.ts';
import type { PlanView } from '../../../server/plans/messages.ts';
import { POLICY_KINDS, type PolicyView } from '../../../server/policies/messages.ts';
import type { MethodCost } from '../../../server/gateways/methodCosts.ts';
import { PAGE_METHODS, type PageMethod } from '../../../server/signUp/messages.ts';
import { withQuery } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { Fold } from '../../parts/Fold.tsx';
import { TickField } from '../../parts/TickField.tsx';
import type { PartProps } from './partProps.ts';

/** A payment by which the cost of each way is shown, where the price depends on what is chosen; minor units. */
const SAMPLE = '1000';

/** Which ways of payment are taken, what each costs the business, and what is agreed to. */
export function HowPaid({
  draft,
  faultAt,
  onChange,
  plans,
}: PartProps & { readonly plans: readonly PlanView[] }) {
  const { methods, policies } = draft;
  const rates = plans.flatMap((plan) => plan.rates.filter(({ id }) => draft.rates.includes(id)));
  const first = rates.find(({ id }) => id === draft.firstRate) ?? rates[0];
  const currency = String(first?.terms.currency ?? '');
  const { data: costs } = useAnswer<MethodCost[]>(
    currency === '' ? null : withQuery('/api/method-costs', { amount: SAMPLE, currency }),
  );
  const { data: written } = useAnswer<PolicyView[]>('/api/policies');
  const inForce = POLICY_KINDS.filter((kind) => written?.some((one) => one.kind === kind && one.inForce));
  const taken = (Object.keys(PAGE_METHODS) as PageMethod[]).filter((way) =>
    rates.some(({ options }) => options.methods.includes(way)),
  );
  const sayCost = (way: PageMethod) => {
    const cost = costs?.find(({ method }) => method === way);
    if (!cost) return way === 'invoice' ? 'costs you nothing but the wait' : '';
    const of = `${sayAmount(BigInt(cost.cost), currency)} of each ${sayAmount(BigInt(SAMPLE), currency)}`;
    return `costs you ${of}: ${cost.percent} % and ${cost.fixed} at ${cost.gateway}`;
  };
  const shown = taken.filter((way) => methods.includes(way)).map((way) => PAGE_METHODS[way].toLowerCase());
  return (
    <Fold
      title="How it is paid, and what is agreed to"
      holds={[shown.join(', '), policies.length === 0 ? 'nothing to agree to' : policies.join(', ')]
        .filter(Boolean)
        .join('; ')}
    >
      <Box data-field="/methods" tabIndex={-1} mb="3">
        {taken.map((way) => (
          <Flex key={way} gap="3" align="center">
            <TickField
              label={PAGE_METHODS[way]}
              checked={methods.includes(way)}
              onChange={(on) =>
                onChange({ methods: on ? [...methods, way] : methods.filter((one) => one !== way) })
              }
            />
            <Text color="muted" fontSize="13px">
              {sayCost(way)}
            </Text>
          </Flex>
        ))}
        {taken.length === 0 && <Text color="muted">Choose what is offered first.</Text>}
        <Text role="alert" color="declined">
          {faultAt('/methods')}
        </Text>
      </Box>
      <Box data-field="/policies" tabIndex={-1}>
        {inForce.map((kind) => (
          <TickField
            key={kind}
            label={`They agree to the ${kind === 'terms of service' ? kind : `${kind} terms`}`}
            checked={policies.includes(kind)}
            onChange={(on) =>
              onChange({ policies: on ? [...policies, kind] : policies.filter((one) => one !== kind) })
            }
          />
        ))}
        {inForce.length === 0 && (
          <Text color="muted" fontSize="13px">
            There is no text in force to agree to: write one in Setup, Policies.
          </Text>
        )}
        <Text role="alert" color="declined">
          {faultAt('/policies')}
        </Text>
      </Box>
    </Fold>
  );
}
