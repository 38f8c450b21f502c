import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { SubscriptionView } from '../../../server/subscriptions/messages.ts';
import { put } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { QuantityField } from '../../parts/QuantityField.tsx';

const MOST_DAYS = 90;

/** How long before each period its invoice is issued, and the way to change that for this subscription alone. */
export function IssueDays({ one: { id, issueBefore } }: { readonly one: SubscriptionView }) {
  const [days, setDays] = useState<string | null>(null);
  const acting = useAct();
  const wanted = days === null || !/^\d+$/.test(days.trim()) ? null : Number(days);
  const store = async () => {
    if (await acting.act(() => put(`/api/subscriptions/${id}/issue-days`, { days: wanted }))) setDays(null);
  };
  return (
    <Box mt="3" fontSize="13px">
      <Flex gap="2" align="baseline" wrap="wrap">
        <Text color="muted">
          {issueBefore === 0
            ? 'Each period is invoiced on its day.'
            : `Each period is invoiced ${issueBefore} ${issueBefore === 1 ? 'day' : 'days'} before it begins.`}
        </Text>
        {days === null && (
          <ForWriters>
            <Button size="2xs" variant="outline" onClick={() => setDays(String(issueBefore))}>
              Change when
            </Button>
          </ForWriters>
        )}
      </Flex>
      {days !== null && (
        <Box role="group" aria-label="When it is invoiced" mt="2">
          <QuantityField
            label="Days before each period"
            value={days}
            most={MOST_DAYS}
            hint="0: on its day. What is issued stays as it is; it is due when it always was."
            error={acting.problem?.at('/days')}
            onChange={({ target }) => setDays(target.value)}
          />
          <Flex gap="2" mt="2">
            <Button
              size="xs"
              colorPalette="kelp"
              loading={acting.busy}
              disabled={wanted === null || wanted > MOST_DAYS || wanted === issueBefore}
              onClick={() => void store()}
            >
              Store it
            </Button>
            <Button size="xs" variant="outline" onClick={() => setDays(null)}>
              Leave it
            </Button>
          </Flex>
        </Box>
      )}
      <Outcome of={acting} />
    </Box>
  );
}
