import { Box, Text } from '@chakra-ui/react';
import type { MethodView } from '../../../server/customers/methodMessages.ts';
import type { SubscriptionView } from '../../../server/subscriptions/messages.ts';
import { put } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { SelectField } from '../../parts/TextField.tsx';

/** Chooses which of the customer's methods this subscription is charged to first; nothing where there is no choice. */
export function OwnMethod({ one }: { readonly one: SubscriptionView }) {
  const { data: methods = [] } = useAnswer<MethodView[]>(`/api/customers/${one.customerId}/methods`);
  const acting = useAct();
  const inUse = methods.filter(({ state }) => state !== 'replaced');
  const primary = inUse.find(({ role }) => role === 'primary');
  if (inUse.length < 2 || one.collects === 'by hand') return null;
  const choose = (id: string) =>
    acting.act(
      () => put(`/api/subscriptions/${one.id}/method`, { methodId: id === '' ? null : id }),
      'The next charge goes there first.',
    );
  return (
    <Box mb="6">
      <MarginHeading>Charged to, first</MarginHeading>
      <SelectField
        label="For this subscription"
        value={one.ownMethodId ?? ''}
        onChange={(event) => void choose(event.target.value)}
      >
        <option value="">As the customer’s others: {primary?.says ?? 'none'}</option>
        {inUse
          .filter(({ role }) => role !== 'primary')
          .map(({ id, says }) => (
            <option key={id} value={id}>
              {says}
            </option>
          ))}
      </SelectField>
      <Text color="muted" fontSize="13px" mt="1">
        The others are tried after it. A charge that is under way stays where it is.
      </Text>
      <Outcome of={acting} />
    </Box>
  );
}
