import { Box, Flex, RadioGroup, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { useNavigate, useParams, useSearchParams } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDayMonthYear } from '../../../core/words/date.ts';
import type { CustomerView } from '../../../server/customers/messages.ts';
import { MEANS_NAMES, type MeansByHand } from '../../../server/payments/meansKinds.ts';
import type { PayableInvoice, TakingEffect, TakingMessage } from '../../../server/takings/messages.ts';
import { post } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useEffectOf } from '../../api/useEffectOf.ts';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { AmountField } from '../../parts/AmountField.tsx';
import { Confirm } from '../../parts/Confirm.tsx';
import { DateField } from '../../parts/DateField.tsx';
import { minorOf, typedOf } from '../../parts/minorOf.ts';
import { StateMark } from '../../parts/StateMark.tsx';
import { AreaField, SelectField, TextField } from '../../parts/TextField.tsx';
import { TickField } from '../../parts/TickField.tsx';
import { useDraftForm } from '../../parts/useDraftForm.ts';
import { ByCard } from './ByCard.tsx';
import { WhatItPays } from './WhatItPays.tsx';

/** Takes a payment from a customer, for one invoice or several: by hand, or by a card that is told, read or on file. */
export function TakePage() {
  const { id = '' } = useParams();
  const [params] = useSearchParams();
  const { data: customer, error } = useAnswer<CustomerView>(`/api/customers/${id}`);
  const { data: payable } = useAnswer<PayableInvoice[]>(`/api/customers/${id}/payable`);
  if (error) return <PageAndMargin title="There is no such customer">{error.message}</PageAndMargin>;
  if (!customer || !payable) return <PageLoading title="Take a payment" />;
  return <Take customer={customer} payable={payable} first={params.get('invoice')} />;
}

interface Props {
  readonly customer: CustomerView;
  readonly payable: readonly PayableInvoice[];
  /** The invoice that it is taken for; null: all that is open of one currency. */
  readonly first: string | null;
}

type Way = MeansByHand | 'card';

function Take({ customer, payable, first }: Props) {
  const { businessDate, homeCurrency } = useFrame();
  const navigate = useNavigate();
  const wanted = payable.find(({ id }) => id === first);
  const [currency, setCurrency] = useState(wanted?.currency ?? payable[0]?.currency ?? homeCurrency);
  const [chosen, setChosen] = useState<readonly string[]>(
    wanted ? [wanted.id] : payable.filter((one) => isUsual(one, currency)).map(({ id }) => id),
  );
  const [way, setWay] = useState<Way>('transfer');
  const [typed, setTyped] = useState<string | null>(null);
  const [receivedOn, setReceivedOn] = useState(businessDate);
  const [reference, setReference] = useState('');
  const [note, setNote] = useState('');
  const [receipt, setReceipt] = useState(true);
  const open = payable.filter((one) => one.currency === currency && !one.underWay);
  const paid = open.filter(({ id }) => chosen.includes(id));
  const owed = paid.reduce((sum, one) => sum + BigInt(one.owed), 0n);
  // Until something is typed, it is what the chosen invoices come to.
  const amount = typed ?? (owed === 0n ? '' : typedOf(owed, currency));
  const minor = minorOf(amount, currency);
  const byHand = way !== 'card';
  const invoices = paid.map(({ id }) => id);
  const asked: TakingMessage | null =
    byHand && minor !== null && minor > 0n && receivedOn !== ''
      ? { means: way, currency, amount: minor.toString(), receivedOn, invoices }
      : null;
  const looked = useEffectOf<TakingEffect>(`/api/customers/${customer.id}/takings/effect`, asked);
  const effect = looked.current ? looked.effect : null;
  const form = useDraftForm({
    message: { ...asked, reference, note, receipt, over: effect?.over ?? '0' },
    missing: [
      ...(minor !== null && minor > 0n ? [] : [{ field: 'amount', says: 'the amount' }]),
      ...(receivedOn === '' ? [{ field: 'receivedOn', says: 'the day' }] : []),
    ],
    faults: new Map(
      (looked.problem?.faults ?? []).map(
        ({ pointer, detail }) => [pointer.split('/')[1] ?? '', detail] as const,
      ),
    ),
    fieldOf: (pointer) => pointer.split('/')[1] ?? '',
    send: (message) => post(`/api/customers/${customer.id}/takings`, message),
    onDone: () => void navigate(first === null ? `/customers/${customer.id}` : `/invoices/${first}`),
  });
  const currencies = [...new Set(payable.map((one) => one.currency))];
  const fields = (
    <>
      <SelectField
        label="How it is paid"
        field="means"
        w="260px"
        value={way}
        onChange={(event) => setWay(event.target.value as Way)}
      >
        {Object.entries(MEANS_NAMES).map(([means, says]) => (
          <option key={means} value={means}>
            {says}
          </option>
        ))}
        {open.some(({ state }) => state !== 'written off') && (
          <option value="card">Card: on the telephone, on the reader, or on file</option>
        )}
      </SelectField>
      {currencies.length > 1 && (
        <RadioGroup.Root
          mt="4"
          aria-label="Currency"
          size="sm"
          colorPalette="kelp"
          value={currency}
          onValueChange={({ value }) => {
            const to = value ?? currency;
            setCurrency(to);
            setTyped(null);
            setChosen(payable.filter((one) => isUsual(one, to)).map((one) => one.id));
          }}
        >
          <Flex gap="4">
            {currencies.map((one) => (
              <RadioGroup.Item key={one} value={one}>
                <RadioGroup.ItemHiddenInput />
                <RadioGroup.ItemIndicator />
                <RadioGroup.ItemText>{one}</RadioGroup.ItemText>
              </RadioGroup.Item>
            ))}
          </Flex>
        </RadioGroup.Root>
      )}
      <Text as="h2" fontFamily="heading" fontSize="16px" mt="6" mb="2">
        What it is for
      </Text>
      <Box data-field="invoices" maxW="720px" role="group" aria-label="What it is for">
        {open.length === 0 && (
          <Text color="muted">Nothing is open: what comes in is kept as the customer’s credit.</Text>
        )}
        {open.map((one) => (
          <Flex key={one.id} gap="3" align="center" borderTopWidth="1px" borderColor="lines" py="0.5">
            <Box flex="1">
              <TickField
                label={`Invoice ${one.number}, ${one.plan}`}
                checked={chosen.includes(one.id)}
                disabled={way === 'card' && one.state === 'written off'}
                onChange={(on) => {
                  setTyped(null);
                  setChosen((now) => (on ? [...now, one.id] : now.filter((other) => other !== one.id)));
                }}
              />
            </Box>
            <Text color="muted" w="150px">
              due {sayDayMonthYear(one.dueOn)}
            </Text>
            <Box w="110px">
              <StateMark
                state={one.state !== 'written off' && one.dueOn < businessDate ? 'overdue' : one.state}
              />
            </Box>
            <Text w="110px" textAlign="end">
              {sayAmount(BigInt(one.owed), currency)}
            </Text>
          </Flex>
        ))}
        {payable
          .filter((one) => one.underWay)
          .map((one) => (
            <Text key={one.id} color="muted" py="1">
              Invoice {one.number} is being charged: nothing else pays it until that is known.
            </Text>
          ))}
      </Box>
    </>
  );
  if (!byHand)
    return (
      <PageAndMargin
        title={`Take a payment from ${customer.name}`}
        marginLabel="The card"
        margin={
          <ByCard
            customerId={customer.id}
            currency={currency}
            amount={owed}
            invoices={paid.filter(({ state }) => state !== 'written off').map(({ id }) => id)}
            onDone={() => void navigate(first === null ? `/customers/${customer.id}` : `/invoices/${first}`)}
          />
        }
      >
        {fields}
      </PageAndMargin>
    );
  return (
    <PageAndMargin
      title={`Take a payment from ${customer.name}`}
      marginLabel="What it does"
      onSubmit={form.confirm}
      margin={
        <>
          <WhatItPays effect={effect} problem={looked.problem} />
          <Confirm
            of={form}
            label="Write the payment down"
            ready={
              effect && effect.over !== '0'
                ? `${sayAmount(BigInt(effect.over), currency)} more came in than is open: it is kept as credit.`
                : effect?.paid.some(({ left }) => left !== '0')
                  ? 'It is less than is open: the rest stays open.'
                  : 'Nothing is missing.'
            }
          />
        </>
      }
    >
      {fields}
      <Flex gap="4" mt="6" wrap="wrap" align="flex-start" maxW="720px">
        <AmountField
          label="Amount"
          field="amount"
          w="180px"
          currency={currency}
          value={amount}
          error={form.faultAt('amount')}
          onChange={(event) => setTyped(event.target.value)}
        />
        <DateField
          label="Came in on"
          field="receivedOn"
          w="200px"
          max={businessDate}
          value={receivedOn}
          error={form.faultAt('receivedOn')}
          onChange={(event) => setReceivedOn(event.target.value)}
        />
        <TextField
          label="Reference"
          field="reference"
          w="240px"
          maxLength={140}
          hint="As it stands on the statement or the cheque"
          value={reference}
          error={form.faultAt('reference')}
          onChange={(event) => setReference(event.target.value)}
        />
      </Flex>
      <Box mt="4" maxW="720px">
        <AreaField
          label="Note for staff"
          field="note"
          rows={2}
          maxLength={500}
          value={note}
          error={form.faultAt('note')}
          onChange={(event) => setNote(event.target.value)}
        />
        <Box mt="3">
          <TickField label="Send a receipt" checked={receipt} onChange={setReceipt} />
        </Box>
      </Box>
    </PageAndMargin>
  );
}

/** What is ticked before anybody chooses: what is open, and not what was given up. */
const isUsual = (one: PayableInvoice, currency: string) =>
  one.currency === currency && one.state !== 'written off' && !one.underWay;
