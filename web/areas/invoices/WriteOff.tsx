import { Box, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { sayAmount } from '../../../core/words/amount.ts';
import type { WriteOffEffect } from '../../../server/invoices/giveUp.ts';
import type { InvoicePage } from '../../../server/invoices/messages.ts';
import { post } from '../../api/client.ts';
import { useEffectOf } from '../../api/useEffectOf.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { Books } from '../../parts/Books.tsx';
import { Confirm } from '../../parts/Confirm.tsx';
import { WhyField } from '../../parts/WhyField.tsx';
import { useDraftForm } from '../../parts/useDraftForm.ts';

const FORM = 'write-off';
const NOTHING = {};

/** Gives up what is open of an invoice: what that does is shown before it is done. */
export function WriteOff({
  invoice,
  onDone,
}: {
  readonly invoice: InvoicePage;
  readonly onDone: () => void;
}) {
  const [reason, setReason] = useState('');
  const { effect, problem } = useEffectOf<WriteOffEffect>(
    `/api/invoices/${invoice.id}/write-off/effect`,
    NOTHING,
  );
  const form = useDraftForm({
    message: { reason: reason.trim() },
    missing: reason.trim() === '' ? [{ field: 'reason', says: 'why' }] : [],
    send: (asked) => post(`/api/invoices/${invoice.id}/write-off`, asked),
    onDone,
  });
  return (
    <form
      id={FORM}
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        void form.confirm();
      }}
    >
      <MarginHeading>Write it off</MarginHeading>
      {problem && (
        <Text role="alert" color="declined">
          {problem.message}
        </Text>
      )}
      {effect && (
        <Box role="status">
          <Text mb="3">
            {sayAmount(BigInt(effect.owed), effect.currency)} is given up. Nothing of it is charged or
            reminded of any more; what comes in for it after all is booked as recovered. The subscription goes
            on as it is.
          </Text>
          <Books lines={effect.books} currency={effect.currency} />
        </Box>
      )}
      <Box mt="4">
        <WhyField value={reason} error={form.faultAt('reason')} onChange={setReason} />
      </Box>
      <Confirm form={FORM} of={form} label="Write it off" ready="The customer is not written to." />
    </form>
  );
}
