import { Box, Flex, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { sayAmount } from '../../../core/words/amount.ts';
import type { CorrectionEffect, CorrectionMessage } from '../../../server/creditNotes/messages.ts';
import type { InvoicePage } from '../../../server/invoices/messages.ts';
import { post } from '../../api/client.ts';
import { useEffectOf } from '../../api/useEffectOf.ts';
import { MarginHeading } from '../../frame/PageAndMargin.tsx';
import { AmountField } from '../../parts/AmountField.tsx';
import { Books } from '../../parts/Books.tsx';
import { Confirm } from '../../parts/Confirm.tsx';
import { Facts } from '../../parts/Facts.tsx';
import { Refusal } from '../../parts/Refusal.tsx';
import { SelectField } from '../../parts/TextField.tsx';
import { minorOf } from '../../parts/minorOf.ts';
import { TickField } from '../../parts/TickField.tsx';
import { WhyField } from '../../parts/WhyField.tsx';
import { useDraftForm, type Missing } from '../../parts/useDraftForm.ts';

const FORM = 'correct';
type How = 'all' | 'amount' | 'lines';

/** Takes back all of an invoice, a sum, or some of its lines: what that does is shown before it is done. */
export function CorrectIt({
  invoice,
  onDone,
}: {
  readonly invoice: InvoicePage;
  readonly onDone: () => void;
}) {
  const { currency, id } = invoice;
  const untouched = invoice.owed === invoice.total;
  const [how, setHow] = useState<How>('all');
  const [amount, setAmount] = useState('');
  const [lines, setLines] = useState<readonly string[]>(invoice.lines.map(() => ''));
  const [reason, setReason] = useState('');
  const [writes, setWrites] = useState(true);
  const what = whatOf(how, { amount, lines, currency });
  // Why changes nothing of what it does: it is looked at before that is typed.
  const asked: CorrectionMessage | null = what && { what, reason: '-' };
  const looked = useEffectOf<CorrectionEffect>(`/api/invoices/${id}/credit-notes/effect`, asked);
  const missing: Missing[] = [
    ...(what ? [] : [{ field: how === 'lines' ? 'lines' : 'amount', says: 'how much is taken back' }]),
    ...(reason.trim() === '' ? [{ field: 'reason', says: 'why' }] : []),
  ];
  const form = useDraftForm({
    message: { what, reason: reason.trim(), writes },
    missing,
    faults: new Map(
      (looked.problem?.faults ?? []).map(({ pointer, detail }) => [fieldOf(pointer), detail] as const),
    ),
    fieldOf,
    send: (message) => post(`/api/invoices/${id}/credit-notes`, message),
    onDone,
  });
  const submit = (event: React.FormEvent) => {
    event.preventDefault();
    void form.confirm();
  };
  const effect = looked.effect;
  return (
    <form id={FORM} noValidate onSubmit={submit}>
      <MarginHeading>{untouched ? 'Withdraw or correct' : 'Credit note'}</MarginHeading>
      <Flex direction="column" gap="3">
        <SelectField
          label="What is taken back"
          field="how"
          value={how}
          onChange={(event) => setHow(event.target.value as How)}
        >
          <option value="all">{untouched ? 'All of it: it is withdrawn' : 'All that is left of it'}</option>
          <option value="amount">An amount</option>
          <option value="lines">Some of its lines</option>
        </SelectField>
        {how === 'amount' && (
          <AmountField
            label="Amount with its tax"
            field="amount"
            currency={currency}
            value={amount}
            error={form.faultAt('amount')}
            hint={`At most ${sayAmount(BigInt(invoice.left), currency)}`}
            onChange={(event) => setAmount(event.target.value)}
          />
        )}
        {how === 'lines' &&
          invoice.lines.map(({ name, left }, i) => (
            <AmountField
              key={i}
              label={name}
              field={i === 0 ? 'lines' : `lines/${i}`}
              currency={currency}
              disabled={BigInt(left) <= 0n}
              value={lines[i] ?? ''}
              error={form.faultAt(`line ${i}`)}
              hint={`At most ${sayAmount(BigInt(left), currency)}, as it stands on the invoice`}
              onChange={(event) =>
                setLines((now) => now.map((line, n) => (n === i ? event.target.value : line)))
              }
            />
          ))}
        <WhyField
          value={reason}
          error={form.faultAt('reason')}
          hint="It stands on the credit note."
          onChange={setReason}
        />
        <TickField label="Write to the customer" checked={writes} onChange={setWrites} />
      </Flex>
      {what && <Refusal of={looked.problem} />}
      {what && effect && looked.current && <Shown effect={effect} />}
      <Confirm
        form={FORM}
        of={form}
        label={effect?.withdraws && how === 'all' ? 'Withdraw the invoice' : 'Issue the credit note'}
        ready="It cannot be changed once it is issued."
      />
    </form>
  );

  function fieldOf(pointer: string): string {
    const [, at] = /^\/what\/lines\/(\d+)/.exec(pointer) ?? [];
    if (at !== undefined && what?.kind === 'lines') return `line ${what.lines[Number(at)]?.line}`;
    return pointer.split('/').at(-1) ?? '';
  }
}

/** What is asked for; null while nothing that could be taken back is typed. */
function whatOf(
  how: How,
  typed: { readonly amount: string; readonly lines: readonly string[]; readonly currency: string },
): CorrectionMessage['what'] | null {
  if (how === 'all') return { kind: 'all' };
  const { currency } = typed;
  if (how === 'amount') {
    const amount = minorOf(typed.amount, currency);
    return amount === null || amount <= 0n ? null : { kind: 'amount', amount: amount.toString() };
  }
  const lines = typed.lines.flatMap((text, line) => {
    const amount = minorOf(text, currency);
    return amount === null || amount <= 0n ? [] : [{ line, amount: amount.toString() }];
  });
  return lines.length === 0 ? null : { kind: 'lines', lines };
}

/** What the credit note would say, and what follows from it. */
function Shown({ effect }: { readonly effect: CorrectionEffect }) {
  const say = (amount: string) => sayAmount(BigInt(amount), effect.currency);
  return (
    <Box role="status" mt="4">
      <Facts
        of={[
          ...effect.lines.map(({ name, amount }) => [name, say(amount)] as const),
          ['Tax in all', effect.tax === '0' ? '' : say(effect.tax)],
          ['Credit note', say(effect.total)],
          ['Not to be paid any more', effect.setOff === '0' ? '' : say(effect.setOff)],
          ['The customer’s credit', effect.toCredit === '0' ? '' : say(effect.toCredit)],
          ['Open after it', effect.owed === '0' ? '' : say(effect.owed)],
        ]}
      />
      {effect.toCredit !== '0' && (
        <Text mt="2" color="muted">
          Credit is used on the next due by itself; it can be paid out instead.
        </Text>
      )}
      {effect.closesCase && <Text mt="2">The case about it is closed.</Text>}
      <Box mt="3">
        <Books lines={effect.books} currency={effect.currency} />
      </Box>
    </Box>
  );
}
