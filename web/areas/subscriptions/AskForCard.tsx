import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import type { MethodRequest } from '../../../server/customers/messages.ts';
import type { SubscriptionView } from '../../../server/subscriptions/messages.ts';
import { post, Problem } from '../../api/client.ts';
import { useAct } from '../../api/useAct.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { Outcome } from '../../parts/Outcome.tsx';

/** Where a subscription has no card to charge: asks the customer for one by mail, or gives a link to hand on. */
export function AskForCard({ one }: { readonly one: SubscriptionView }) {
  const acting = useAct();
  const [link, setLink] = useState('');
  const waits = one.withoutMethod === 'wait';
  const ask = async () => {
    const { left } = await post<MethodRequest>('/api/method-requests', { customerIds: [one.customerId] });
    if (left[0]) throw new Problem(422, `Not written: ${left[0].why}.`, []);
  };
  const copy = async () => {
    const { path } = await post<{ path: string }>(`/api/subscriptions/${one.id}/link-to-hand-on`);
    const whole = new URL(path, window.location.href).href;
    setLink(whole);
    // Where the browser does not let us, the link stands there to be copied by hand.
    await navigator.clipboard.writeText(whole).catch(() => undefined);
  };
  return (
    <Box mb="6">
      <MarginHeading>{waits ? 'Waits for a card' : 'No card to charge'}</MarginHeading>
      <Text mb="2">
        {waits
          ? 'Nothing is charged before there is one, and it is no case. What is open then is charged at once.'
          : 'The customer gives one on their own page, which a link opens.'}
      </Text>
      <Flex gap="2" wrap="wrap">
        <Button
          size="xs"
          variant="outline"
          loading={acting.busy}
          onClick={() => void acting.act(ask, 'The letter is written, and reminders follow.')}
        >
          Ask by mail
        </Button>
        <Button
          size="xs"
          variant="outline"
          onClick={() =>
            void acting.act(copy, 'The link is good for 30 days. Whoever has it acts as the customer.')
          }
        >
          Copy a link to give a card
        </Button>
      </Flex>
      {link !== '' && (
        <Text mt="2" fontSize="12px" color="muted" overflowWrap="anywhere">
          {link}
        </Text>
      )}
      <Outcome of={acting} />
    </Box>
  );
}
