import { Box, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { sayAmount } from '../../../core/words/amount.ts';
import type { PaymentPage } from '../../../server/payments/messages.ts';
import type { RefundEffect, RefundMessage } from '../../../server/refunds/messages.ts';
import { MEANS_NAMES } from '../../../server/payments/meansKinds.ts';
import { post } from '../../api/client.ts';
import { useEffectOf } from '../../api/useEffectOf.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { AmountField } from '../../parts/AmountField.tsx';
import { Books } from '../../parts/Books.tsx';
import { Confirm } from '../../parts/Confirm.tsx';
import { Facts } from '../../parts/Facts.tsx';
import { minorOf, typedOf } from '../../parts/minorOf.ts';
import { Refusal } from '../../parts/Refusal.tsx';
import { SelectField } from '../../parts/TextField.tsx';
import { TickField } from '../../parts/TickField.tsx';
import { WhyField } from '../../parts/WhyField.tsx';
import { useDraftForm } from '../../parts/useDraftForm.ts';

const FORM = 'refund';

/** Pays money of a payment back: what that does to the invoice, the credit, the books and the subscription is shown first. */
export function RefundIt({
  payment,
  onDone,
}: {
  readonly payment: PaymentPage;
  readonly onDone: () => void;
}) {
  const { currency, id, left, byGateway } = payment;
  const [amount, setAmount] = useState(typedOf(left, currency));
  const [to, setTo] = useState<RefundMessage['to']>(byGateway ? 'gateway' : 'transfer');
  const [reason, setReason] = useState('');
  const [writes, setWrites] = useState(true);
  const minor = minorOf(amount, currency);
  const isGood = minor !== null && minor > 0n;
  const looked = useEffectOf<RefundEffect>(
    `/api/payments/${id}/refund/effect`,
    isGood ? { amount: minor.toString(), to, reason: '-' } : null,
  );
  const form = useDraftForm({
    message: { amount: minor?.toString() ?? '', to, reason: reason.trim(), writes },
    missing: [
      ...(isGood ? [] : [{ field: 'amount', says: 'how much goes back' }]),
      ...(reason.trim() === '' ? [{ field: 'reason', says: 'why' }] : []),
    ],
    faults: new Map(
      (looked.problem?.faults ?? []).map(({ pointer, detail }) => [pointer.slice(1), detail] as const),
    ),
    send: (asked) => post(`/api/payments/${id}/refund`, asked),
    onDone,
  });
  const { effect } = looked;
  return (
    <form
      id={FORM}
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        void form.confirm();
      }}
    >
      <MarginHeading>Pay it back</MarginHeading>
      <Flex direction="column" gap="3">
        <AmountField
          label="Amount"
          field="amount"
          currency={currency}
          value={amount}
          error={form.faultAt('amount')}
          hint={`At most ${sayAmount(BigInt(left), currency)}`}
          onChange={(event) => setAmount(event.target.value)}
        />
        <SelectField
          label="Where it goes"
          field="to"
          value={to}
          error={form.faultAt('to')}
          onChange={(event) => setTo(event.target.value as RefundMessage['to'])}
        >
          {byGateway && <option value="gateway">Back to {payment.method}</option>}
          <option value="credit">To the customer’s credit</option>
          {Object.entries(MEANS_NAMES).map(([means, says]) => (
            <option key={means} value={means}>
              By hand: {says.toLowerCase()}
            </option>
          ))}
        </SelectField>
        <WhyField
          value={reason}
          error={form.faultAt('reason')}
          hint="It stands on the credit note."
          onChange={setReason}
        />
        <TickField label="Write to the customer" checked={writes} onChange={setWrites} />
      </Flex>
      {isGood && <Refusal of={looked.problem} />}
      {isGood && effect && looked.current && (
        <Box role="status" mt="4">
          <Facts
            of={[
              ['Goes to', effect.to],
              ['Invoice', effect.invoice && `${effect.invoice} is corrected by a credit note`],
              ['Credit after it', sayAmount(BigInt(effect.credit), effect.currency)],
            ]}
          />
          <Text my="2">{effect.subscription}</Text>
          <Books lines={effect.books} currency={effect.currency} />
        </Box>
      )}
      <Confirm
        form={FORM}
        of={form}
        label={isGood ? `Pay ${sayAmount(minor, currency)} back` : 'Pay it back'}
        ready="It goes back once, however often this is pressed."
      />
    </form>
  );
}
