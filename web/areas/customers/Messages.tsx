import { Box, Button, Text } from '@chakra-ui/react';
import { useEffect, useMemo } from 'react';
import { useLocation } from 'react-router';
import type { CustomerMessage } from '../../../server/customers/messages.ts';
import { post } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Correspondence } from '../../parts/Correspondence.tsx';
import { useKeptDraft } from '../../parts/keptDraft.ts';
import { Outcome } from '../../parts/Outcome.tsx';
import { AreaField } from '../../parts/TextField.tsx';

/** The thread of messages with a customer, answered where it is read: by letter and on the customer's own page. */
export function Messages({
  customerId,
  customer,
}: {
  readonly customerId: string;
  readonly customer: string;
}) {
  const path = `/api/customers/${customerId}/messages`;
  const { data: messages } = useAnswer<CustomerMessage[]>(path);
  const { name } = useFrame();
  const acting = useAct();
  const initial = useMemo(() => ({ says: '' }), []);
  const { draft, setDraft, kept } = useKeptDraft(`message:${customerId}`, initial);
  const write = async () => {
    if (
      !(await acting.act(
        () => post(path, { says: draft.says.trim() }),
        'Sent by letter, and shown on the own page.',
      ))
    )
      return;
    kept.afresh();
  };
  const { hash } = useLocation();
  const isAsked = hash === '#messages' && messages !== undefined;
  useEffect(() => {
    if (isAsked) document.querySelector<HTMLElement>('#messages textarea')?.focus();
  }, [isAsked]);
  const isEmpty = draft.says.trim() === '';
  return (
    <Box as="section" id="messages" mb="6" maxW="760px">
      <Text as="h2" fontFamily="heading" fontSize="16px" mb="2">
        Messages
      </Text>
      {messages?.length === 0 && (
        <Text color="muted" mb="2">
          Nothing has been written yet.
        </Text>
      )}
      {messages && <Correspondence messages={messages} customer={customer} business={name} />}
      <ForWriters>
        <form
          onSubmit={(event) => {
            event.preventDefault();
            if (!isEmpty) void write();
          }}
        >
          <AreaField
            label={`Write to ${customer}`}
            rows={3}
            maxLength={2000}
            hint="It goes out as a letter, and stands on the customer's own page."
            error={acting.problem?.at('/says')}
            value={draft.says}
            onChange={(event) => setDraft({ says: event.target.value })}
          />
          <Button type="submit" mt="2" size="sm" colorPalette="kelp" loading={acting.busy} disabled={isEmpty}>
            Send it
          </Button>
          <Outcome of={acting} />
        </form>
      </ForWriters>
    </Box>
  );
}
