import { Box, Button, Link as TextLink, Table } from '@chakra-ui/react';
import { lazy, Suspense, useState } from 'react';
import { Link } from 'react-router';
import { minorDigits } from '../../../core/money/currency.ts';
import { formatDecimal } from '../../../core/money/decimal.ts';
import { sayAmount, sayFigure } from '../../../core/words/amount.ts';
import { sayDate, sayDayMonthYear } from '../../../core/words/date.ts';
import type { InvoiceView, SubscriptionView } from '../../../server/subscriptions/messages.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { StateMark } from '../../parts/StateMark.tsx';

/** The invoices of a subscription, each with every attempt at it and what can be done with it. */
export function Invoices({
  of,
  invoices,
  currency,
  splits,
}: {
  readonly of: Recurring['of'];
  readonly invoices: readonly InvoiceView[];
  readonly currency: string;
  /** Whether what is open may be paid in parts. */
  readonly splits: boolean;
}) {
  return (
    <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md">
      <Table.Root
        size="sm"
        aria-label="Invoices and attempts"
        css={{ '& td, & th': { bg: 'page', borderColor: 'lines', py: '5px' } }}
      >
        <Table.Header>
          <Table.Row>
            {['No.', 'For', 'Due', 'State'].map((heading) => (
              <Table.ColumnHeader key={heading} color="muted">
                {heading}
              </Table.ColumnHeader>
            ))}
            <Table.ColumnHeader color="muted" textAlign="end">
              Total, {currency}
            </Table.ColumnHeader>
            <Table.ColumnHeader aria-label="What can be done" />
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {invoices.map((invoice) => (
            <InvoiceRows key={invoice.id} {...{ of, invoice, currency, splits }} />
          ))}
        </Table.Body>
      </Table.Root>
    </Box>
  );
}

// Seldom wanted.
const SplitInvoice = lazy(() =>
  import('./SplitInvoice.tsx').then((part) => ({ default: part.SplitInvoice })),
);

/** Lets an open invoice be paid in parts, once that is asked for. */
function InParts({ invoice, currency }: { readonly invoice: InvoiceView; readonly currency: string }) {
  const [open, setOpen] = useState(false);
  const { id, number, owed } = invoice;
  if (!open)
    return (
      <Button
        size="2xs"
        variant="outline"
        onClick={() => setOpen(true)}
        aria-label={`Pay ${number} in parts`}
      >
        Pay it in parts …
      </Button>
    );
  return (
    <Suspense>
      <SplitInvoice {...{ id, number, owed, currency }} onClose={() => setOpen(false)} />
    </Suspense>
  );
}

/** An invoice that may be made recurring, and whose it is. */
interface Recurring {
  readonly of: Pick<SubscriptionView, 'customerId' | 'planId'>;
  readonly invoice: InvoiceView;
  readonly currency: string;
}

/** Leads to an enrolment of the same customer, with the lines of an invoice as a rate that recurs. */
function MakeRecurring({ of: { customerId, planId }, invoice, currency }: Recurring) {
  const lines = invoice.lines
    .filter(({ amount }) => BigInt(amount) > 0n)
    .map(({ name, amount }) => ({ name, amount: formatDecimal(BigInt(amount), minorDigits(currency)) }));
  return (
    <Button size="2xs" variant="ghost" color="muted" asChild>
      <Link
        to={`/enrol?customer=${customerId}`}
        state={{ recurring: { planId, name: `As invoice ${invoice.number}`, currency, lines, once: true } }}
        aria-label={`Make invoice ${invoice.number} recurring`}
      >
        Make it recur
      </Link>
    </Button>
  );
}

/** The states of invoices of which something can be open. */
const OPEN = ['issued', 'part-paid'];

function InvoiceRows(props: {
  readonly of: Recurring['of'];
  readonly invoice: InvoiceView;
  readonly currency: string;
  readonly splits: boolean;
}) {
  const { of, invoice, currency, splits } = props;
  const quiet = invoice.attempts.length === 1 && invoice.attempts[0]?.state === 'collected';
  return (
    <>
      <Table.Row>
        <Table.Cell>
          <TextLink asChild>
            <Link to={`/invoices/${invoice.id}`}>{invoice.number}</Link>
          </TextLink>
        </Table.Cell>
        <Table.Cell whiteSpace="nowrap">
          {sayDayMonthYear(invoice.periodFrom)}
          {invoice.periodTo !== invoice.periodFrom && ` to ${sayDayMonthYear(invoice.periodTo)}`}
        </Table.Cell>
        <Table.Cell whiteSpace="nowrap">{sayDate(invoice.dueOn)}</Table.Cell>
        <Table.Cell>
          <StateMark state={BigInt(invoice.total) < 0n ? 'credit' : invoice.state} />
        </Table.Cell>
        <Table.Cell textAlign="end">{sayFigure(BigInt(invoice.total), currency)}</Table.Cell>
        <Table.Cell textAlign="end" p="0">
          <ForWriters>
            {BigInt(invoice.total) > 0n && <MakeRecurring of={of} invoice={invoice} currency={currency} />}
          </ForWriters>
        </Table.Cell>
      </Table.Row>
      {invoice.lines.some(({ settles }) => settles !== null) &&
        invoice.lines.map(({ name, quantity, amount, settles }, i) => (
          <Table.Row key={`line ${i}`} color="muted" fontSize="13px">
            <Table.Cell />
            <Table.Cell colSpan={3}>
              {settles ?? (quantity === 1 ? name : `${quantity} × ${name}`)}
            </Table.Cell>
            <Table.Cell textAlign="end">{sayFigure(BigInt(amount), currency)}</Table.Cell>
            <Table.Cell />
          </Table.Row>
        ))}
      {invoice.dues.map(({ dueOn, amount, owed }, i) => (
        <Table.Row key={i} color="muted" fontSize="13px">
          <Table.Cell />
          <Table.Cell>
            Due {i + 1} of {invoice.dues.length}
          </Table.Cell>
          <Table.Cell whiteSpace="nowrap">{sayDate(dueOn)}</Table.Cell>
          <Table.Cell>{owed === '0' ? 'paid' : 'to pay'}</Table.Cell>
          <Table.Cell textAlign="end">{sayFigure(BigInt(amount), currency)}</Table.Cell>
          <Table.Cell />
        </Table.Row>
      ))}
      {splits && invoice.dues.length === 0 && BigInt(invoice.owed) > 1n && OPEN.includes(invoice.state) && (
        <ForWriters>
          <Table.Row>
            <Table.Cell />
            <Table.Cell colSpan={5}>
              <InParts invoice={invoice} currency={currency} />
            </Table.Cell>
          </Table.Row>
        </ForWriters>
      )}
      {!quiet &&
        invoice.attempts.map((attempt) => (
          <Table.Row key={attempt.id} color="muted" fontSize="13px">
            <Table.Cell />
            <Table.Cell colSpan={3}>
              {sayDate(attempt.date)}, {attempt.reason}, {attempt.card}:{' '}
              <Box
                as="span"
                color={
                  attempt.state === 'declined'
                    ? 'declined'
                    : attempt.state === 'collected'
                      ? 'collected'
                      : 'planned'
                }
              >
                {attempt.says}
              </Box>
            </Table.Cell>
            <Table.Cell textAlign="end">{sayAmount(BigInt(attempt.amount), currency)}</Table.Cell>
            <Table.Cell />
          </Table.Row>
        ))}
    </>
  );
}
