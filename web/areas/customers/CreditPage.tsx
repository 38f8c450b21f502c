import { Box, Flex, Link as TextLink, Table, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { sayAmount, sayFigure } from '../../../core/words/amount.ts';
import { sayDayMonthYear } from '../../../core/words/date.ts';
import type { CreditMoveView, CreditView } from '../../../server/customers/creditStatement.ts';
import type { CustomerView } from '../../../server/customers/messages.ts';
import { MEANS_NAMES } from '../../../server/payments/meansKinds.ts';
import type { PayOutMessage, RefundEffect } from '../../../server/refunds/messages.ts';
import type { Refundable } from '../../../server/refunds/refundable.ts';
import { post } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useEffectOf } from '../../api/useEffectOf.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { AmountField } from '../../parts/AmountField.tsx';
import { Books } from '../../parts/Books.tsx';
import { Confirm } from '../../parts/Confirm.tsx';
import { Facts } from '../../parts/Facts.tsx';
import { Ledger } from '../../parts/Ledger.tsx';
import { minorOf, typedOf } from '../../parts/minorOf.ts';
import { Refusal } from '../../parts/Refusal.tsx';
import { SelectField } from '../../parts/TextField.tsx';
import { TickField } from '../../parts/TickField.tsx';
import { WhyField } from '../../parts/WhyField.tsx';
import { useDraftForm } from '../../parts/useDraftForm.ts';

/** A customer's credit: what it came from, what it went to, and paying it out. */
export function CreditPage() {
  const { id = '' } = useParams();
  const { data: customer, error } = useAnswer<CustomerView>(`/api/customers/${id}`);
  const { data: credits } = useAnswer<CreditView[]>(`/api/customers/${id}/credits`);
  if (error) return <PageAndMargin title="There is no such customer">{error.message}</PageAndMargin>;
  if (!customer || !credits) return <PageLoading title="Credit" />;
  const held = credits.filter(({ credit }) => credit !== '0');
  return (
    <PageAndMargin
      title={`Credit of ${customer.name}`}
      marginLabel="Pay it out"
      margin={
        held.length > 0 && (
          <ForWriters>
            <PayOut key={held.map(({ credit }) => credit).join()} customerId={id} held={held} />
          </ForWriters>
        )
      }
    >
      <Text mb="4">
        <TextLink asChild color="kelp.fg">
          <Link to={`/customers/${id}`}>{customer.name}</Link>
        </TextLink>
        . Credit is used by itself on the next due of any subscription, in its currency.
      </Text>
      {credits.length === 0 && (
        <Text color="muted">
          There is none. What a change gives back, what comes in too much and what credit notes give stands
          here.
        </Text>
      )}
      {credits.map((one) => (
        <Statement key={one.currency} of={one} />
      ))}
    </PageAndMargin>
  );
}

const WHY: Readonly<Record<CreditMoveView['why'], string>> = {
  settlement: 'Given back by a change',
  'credit note': 'Credit note',
  'over-payment': 'More came in than was open',
  used: 'Used',
  'paid out': 'Paid out',
  'pay-out failed': 'Came back: it could not be paid out',
};

function Statement({ of: { currency, credit, moves } }: { readonly of: CreditView }) {
  return (
    <Ledger
      label={`Credit in ${currency}`}
      amounts={[currency, 'At hand']}
      closing={`${sayAmount(BigInt(credit), currency)} at hand`}
    >
      {moves.map((move) => (
        <Table.Row key={move.id}>
          <Table.Cell whiteSpace="nowrap">{sayDayMonthYear(move.movedOn)}</Table.Cell>
          <Table.Cell>{WHY[move.why]}</Table.Cell>
          <Table.Cell>
            {move.invoiceId !== null && (
              <TextLink asChild color="kelp.fg">
                <Link to={`/invoices/${move.invoiceId}`}>Invoice {move.invoice}</Link>
              </TextLink>
            )}{' '}
            {move.creditNote ?? ''}
          </Table.Cell>
          <Table.Cell textAlign="end">{sayFigure(BigInt(move.amount), currency)}</Table.Cell>
          <Table.Cell textAlign="end">{sayFigure(BigInt(move.after), currency)}</Table.Cell>
        </Table.Row>
      ))}
    </Ledger>
  );
}

const FORM = 'pay-out';

function PayOut({ customerId, held }: { readonly customerId: string; readonly held: readonly CreditView[] }) {
  const { data: payments = [] } = useAnswer<Refundable[]>(`/api/customers/${customerId}/refundable`);
  const [currency, setCurrency] = useState(held[0]?.currency ?? '');
  const credit = held.find((one) => one.currency === currency)?.credit ?? '0';
  const [typed, setTyped] = useState<string | null>(null);
  const [to, setTo] = useState('transfer');
  const [reason, setReason] = useState('');
  const [writes, setWrites] = useState(true);
  const amount = typed ?? typedOf(credit, currency);
  const minor = minorOf(amount, currency);
  const isGood = minor !== null && minor > 0n;
  const ways = payments.filter((one) => one.currency === currency);
  const by = ways.find(({ attemptId }) => attemptId === to);
  const asked: PayOutMessage = {
    ...{ currency, amount: minor?.toString() ?? '', reason: reason.trim() || '-', writes },
    ...(by
      ? { to: 'gateway' as const, attemptId: by.attemptId }
      : { to: to as Exclude<PayOutMessage['to'], 'gateway'> }),
  };
  const looked = useEffectOf<RefundEffect>(
    `/api/customers/${customerId}/pay-outs/effect`,
    isGood ? { ...asked, reason: '-' } : null,
  );
  const form = useDraftForm({
    message: { ...asked, reason: reason.trim() },
    missing: [
      ...(isGood ? [] : [{ field: 'amount', says: 'how much' }]),
      ...(reason.trim() === '' ? [{ field: 'reason', says: 'why' }] : []),
    ],
    faults: new Map(
      (looked.problem?.faults ?? []).map(({ pointer, detail }) => [pointer.slice(1), detail] as const),
    ),
    send: (message) => post(`/api/customers/${customerId}/pay-outs`, message),
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
      <MarginHeading>Pay it out</MarginHeading>
      <Flex direction="column" gap="3">
        {held.length > 1 && (
          <SelectField
            label="Currency"
            field="currency"
            value={currency}
            onChange={(event) => {
              setCurrency(event.target.value);
              setTyped(null);
              setTo('transfer');
            }}
          >
            {held.map((one) => (
              <option key={one.currency}>{one.currency}</option>
            ))}
          </SelectField>
        )}
        <AmountField
          label="Amount"
          field="amount"
          currency={currency}
          value={amount}
          error={form.faultAt('amount')}
          hint={`At most ${sayAmount(BigInt(credit), currency)}`}
          onChange={(event) => setTyped(event.target.value)}
        />
        <SelectField
          label="How"
          field="to"
          value={to}
          error={form.faultAt('to') ?? form.faultAt('attemptId')}
          onChange={(event) => setTo(event.target.value)}
        >
          {Object.entries(MEANS_NAMES).map(([means, says]) => (
            <option key={means} value={means}>
              {says}
            </option>
          ))}
          {ways.map(({ attemptId, card, invoice, left }) => (
            <option key={attemptId} value={attemptId}>
              To {card}, as paid for {invoice}, at most {sayAmount(BigInt(left), currency)}
            </option>
          ))}
        </SelectField>
        <WhyField value={reason} error={form.faultAt('reason')} onChange={setReason} />
        <TickField label="Write to the customer" checked={writes} onChange={setWrites} />
      </Flex>
      {isGood && <Refusal of={looked.problem} />}
      {isGood && effect && looked.current && (
        <Box role="status" mt="4">
          <Facts
            of={[
              ['Goes to', effect.to],
              ['Credit after it', sayAmount(BigInt(effect.credit), currency)],
            ]}
          />
          <Box mt="2">
            <Books lines={effect.books} currency={currency} />
          </Box>
        </Box>
      )}
      <Confirm
        form={FORM}
        of={form}
        label={isGood ? `Pay ${sayAmount(minor, currency)} out` : 'Pay it out'}
      />
    </form>
  );
}
