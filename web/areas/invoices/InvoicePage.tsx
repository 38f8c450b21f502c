import { Box, Button, Flex, Link as TextLink, Table, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { sayAmount, sayFigure } from '../../../core/words/amount.ts';
import { sayDate, sayDayMonthYear } from '../../../core/words/date.ts';
import { sayPercent } from '../../../core/words/percent.ts';
import type { InvoicePage as Invoice } from '../../../server/invoices/messages.ts';
import { post } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { Facts } from '../../parts/Facts.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { Part } from '../../parts/Part.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { CorrectIt } from './CorrectIt.tsx';
import { Documents, isOpen } from './Documents.tsx';
import { WriteOff } from './WriteOff.tsx';

/** What is being done with the invoice, in the margin. */
type Act = 'correct' | 'write off' | null;

/** One invoice: what it says, what came in for it, what corrects it, and what can be done with it. */
export function InvoicePage() {
  const { id = '' } = useParams();
  const { data: invoice, error } = useAnswer<Invoice>(`/api/invoices/${id}`);
  const [act, setAct] = useState<Act>(null);
  if (error) return <PageAndMargin title="There is no such invoice">{error.message}</PageAndMargin>;
  if (!invoice) return <PageLoading title="Invoice" />;
  const done = () => setAct(null);
  return (
    <PageAndMargin
      title={`Invoice ${invoice.number}`}
      action={<Actions invoice={invoice} act={act} onAct={setAct} />}
      marginLabel="What it means"
      margin={
        act === 'correct' ? (
          <CorrectIt key={invoice.left} invoice={invoice} onDone={done} />
        ) : act === 'write off' ? (
          <WriteOff invoice={invoice} onDone={done} />
        ) : (
          <Standing invoice={invoice} />
        )
      }
    >
      <Document invoice={invoice} />
      <Payments invoice={invoice} />
      <CreditNotes invoice={invoice} />
    </PageAndMargin>
  );
}

function Actions(props: {
  readonly invoice: Invoice;
  readonly act: Act;
  readonly onAct: (act: Act) => void;
}) {
  const { invoice, act, onAct } = props;
  const toggle = (to: Act) => onAct(act === to ? null : to);
  const payable = isOpen(invoice) || (invoice.state === 'written off' && invoice.owed !== '0');
  return (
    <ForWriters>
      <Flex gap="2">
        {payable && (
          <Button asChild size="sm" colorPalette="kelp">
            <Link to={`/customers/${invoice.customerId}/take?invoice=${invoice.id}`}>Take a payment</Link>
          </Button>
        )}
        {invoice.left !== '0' && invoice.state !== 'written off' && (
          <Button
            size="sm"
            variant="outline"
            aria-expanded={act === 'correct'}
            onClick={() => toggle('correct')}
          >
            {invoice.owed === invoice.total ? 'Withdraw or correct …' : 'Credit note …'}
          </Button>
        )}
        {isOpen(invoice) && (
          <Button
            size="sm"
            variant="outline"
            aria-expanded={act === 'write off'}
            onClick={() => toggle('write off')}
          >
            Write off …
          </Button>
        )}
      </Flex>
    </ForWriters>
  );
}

/** The invoice as it was issued. */
function Document({ invoice }: { readonly invoice: Invoice }) {
  const { parties, currency } = invoice;
  const figure = (amount: string) => sayFigure(BigInt(amount), currency);
  const to = parties.to;
  return (
    <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md" px="5" py="4" mb="5">
      <Flex gap="8" mb="4" wrap="wrap">
        <Box flex="1" minW="150px">
          <Text color="muted">From</Text>
          <Text>{parties.legalName}</Text>
          <Text whiteSpace="pre-line">{parties.address}</Text>
          {parties.taxNumber && <Text>Tax number {parties.taxNumber}</Text>}
        </Box>
        <Box flex="1" minW="150px">
          <Text color="muted">To</Text>
          <Text>
            <TextLink asChild>
              <Link to={`/customers/${invoice.customerId}`}>{to?.name ?? invoice.customer}</Link>
            </TextLink>
          </Text>
          {to?.organisation && <Text>{to.organisation}</Text>}
          <Text whiteSpace="pre-line">{to?.address}</Text>
          {to?.taxNumber && <Text>Tax number {to.taxNumber}</Text>}
        </Box>
        <Box flex="1" minW="220px">
          <Facts
            of={[
              ['Issued', sayDate(invoice.issuedOn)],
              ['Due', sayDate(invoice.dueOn)],
              ...invoice.fields.map(({ label, value }) => [label, value] as const),
              [
                'Subscription',
                <TextLink asChild key="subscription">
                  <Link to={`/subscriptions/${invoice.subscriptionId}`}>{invoice.plan}</Link>
                </TextLink>,
              ],
            ]}
          />
        </Box>
      </Flex>
      <Table.Root
        size="sm"
        aria-label="Lines"
        css={{ '& td, & th': { bg: 'page', borderColor: 'lines', py: '5px' } }}
      >
        <Table.Header>
          <Table.Row>
            <Table.ColumnHeader color="muted">For</Table.ColumnHeader>
            <Table.ColumnHeader color="muted">Period</Table.ColumnHeader>
            <Table.ColumnHeader color="muted" textAlign="end">
              {currency}
            </Table.ColumnHeader>
          </Table.Row>
        </Table.Header>
        <Table.Body>
          {invoice.lines.map(({ name, quantity, amount, settles, at }, i) => (
            <Table.Row key={i}>
              <Table.Cell overflowWrap="anywhere">
                {settles ?? (quantity === 1 ? name : `${quantity} × ${name}`)}
                {at !== null && (
                  <Text color="muted" fontSize="13px">
                    {at}
                  </Text>
                )}
              </Table.Cell>
              <Table.Cell whiteSpace="nowrap" color="muted">
                {sayDayMonthYear(invoice.periodFrom)}
                {invoice.periodTo !== invoice.periodFrom && ` to ${sayDayMonthYear(invoice.periodTo)}`}
              </Table.Cell>
              <Table.Cell textAlign="end">{figure(amount)}</Table.Cell>
            </Table.Row>
          ))}
        </Table.Body>
      </Table.Root>
      <Box ml="auto" maxW="340px" mt="3">
        {invoice.taxes.map(({ rate, mode, net, tax }, i) => (
          <Sum
            key={i}
            says={`${mode === 'inclusive' ? 'In it ' : ''}${sayPercent(rate)} tax on ${figure(net)}`}
            amount={figure(tax)}
          />
        ))}
        <Sum says="Total" amount={figure(invoice.total)} strong />
        {invoice.creditUsed !== '0' && (
          <Sum says="Paid from credit" amount={figure(`-${invoice.creditUsed}`)} />
        )}
        {invoice.credited !== '0' && <Sum says="Credited" amount={figure(`-${invoice.credited}`)} />}
        {invoice.collected !== '0' && <Sum says="Collected" amount={figure(`-${invoice.collected}`)} />}
        {invoice.owed !== '0' && (
          <Sum
            says={invoice.state === 'written off' ? 'Given up' : 'Open'}
            amount={figure(invoice.owed)}
            strong
          />
        )}
      </Box>
      {parties.note && (
        <Text mt="3" whiteSpace="pre-line">
          {parties.note}
        </Text>
      )}
      {parties.footer && (
        <Text mt="3" color="muted" whiteSpace="pre-line">
          {parties.footer}
        </Text>
      )}
    </Box>
  );
}

function Sum(props: { readonly says: string; readonly amount: string; readonly strong?: boolean }) {
  const { says, amount, strong = false } = props;
  return (
    <Flex justify="space-between" gap="4" fontWeight={strong ? '600' : undefined} py="0.5">
      <Text>{says}</Text>
      <Text>{amount}</Text>
    </Flex>
  );
}

function Payments({ invoice }: { readonly invoice: Invoice }) {
  const { attempts, currency, dues } = invoice;
  return (
    <Part title="Payments">
      {dues.map(({ dueOn, amount, owed }, i) => (
        <Text key={i} color="muted" mb="1">
          Part {i + 1} of {dues.length}: {sayAmount(BigInt(amount), currency)} on {sayDate(dueOn)},{' '}
          {owed === '0' ? 'paid' : `${sayAmount(BigInt(owed), currency)} to pay`}.
        </Text>
      ))}
      {attempts.length === 0 && <Text color="muted">Nothing came in for it by a payment.</Text>}
      {attempts.map((one) => (
        <Flex key={one.id} gap="3" py="1.5" borderTopWidth="1px" borderColor="lines" align="baseline">
          <Text w="112px" flexShrink={0}>
            {sayDayMonthYear(one.attemptedOn)}
          </Text>
          <Box w="132px" flexShrink={0}>
            <StateMark state={one.state} />
          </Box>
          <Text flex="1" color="muted">
            {one.method}
            {one.state === 'declined' || one.state === 'under way' ? `. ${one.says}` : ''}
          </Text>
          <Text>{sayAmount(BigInt(one.amount), one.currency)}</Text>
          <TextLink asChild color="kelp.fg">
            <Link
              to={`/payments/${one.id}`}
              aria-label={`Payment of ${sayDayMonthYear(one.attemptedOn)}, ${one.state}`}
            >
              Open
            </Link>
          </TextLink>
        </Flex>
      ))}
    </Part>
  );
}

function CreditNotes({ invoice: { creditNotes } }: { readonly invoice: Invoice }) {
  if (creditNotes.length === 0) return null;
  return (
    <Part title="Credit notes">
      {creditNotes.map((note) => (
        <Flex key={note.id} gap="3" py="1.5" borderTopWidth="1px" borderColor="lines" align="baseline">
          <Text w="112px" flexShrink={0}>
            {sayDayMonthYear(note.issuedOn)}
          </Text>
          <TextLink
            w="132px"
            flexShrink={0}
            href={`/api/credit-notes/${note.id}/document.pdf`}
            download
            color="kelp.fg"
            aria-label={`Credit note ${note.number} as PDF`}
          >
            {note.number}
          </TextLink>
          <Text flex="1" color="muted" overflowWrap="anywhere">
            {note.kind === 'withdrawal' ? 'Withdrawn. ' : ''}
            {note.reason}
          </Text>
          <Text>{sayAmount(BigInt(note.total), note.currency)}</Text>
        </Flex>
      ))}
    </Part>
  );
}

/** How it stands, and what happens with it by itself. */
function Standing({ invoice }: { readonly invoice: Invoice }) {
  const acting = useAct();
  const { owed, credit, currency, hindered, openCaseId, collects, dueOn } = invoice;
  const say = (amount: string) => sayAmount(BigInt(amount), currency);
  return (
    <>
      <MarginHeading>How it stands</MarginHeading>
      <Text mb="2">
        <StateMark state={invoice.state} />
      </Text>
      {isOpen(invoice) ? (
        <>
          <Text>
            {say(owed)} is open.{' '}
            {openCaseId !== null
              ? 'A case is open about it.'
              : collects === 'automatic'
                ? `It is charged by itself on ${sayDate(dueOn)}: ${invoice.method}.`
                : 'It is paid by hand: nothing is charged by itself.'}
          </Text>
          {hindered !== null && (
            <Text color="declined" mt="2">
              It cannot be paid as things stand: {hindered}.
            </Text>
          )}
          {openCaseId !== null && (
            <TextLink asChild color="kelp.fg" mt="2" display="block">
              <Link to={`/cases?case=${openCaseId}`}>Open the case</Link>
            </TextLink>
          )}
          {credit !== '0' && (
            <ForWriters>
              <Text mt="4">{say(credit)} of credit is at hand.</Text>
              <Button
                size="sm"
                variant="outline"
                mt="2"
                loading={acting.busy}
                onClick={() => void acting.act(() => post(`/api/invoices/${invoice.id}/credit`))}
              >
                Pay {say(BigInt(credit) < BigInt(owed) ? credit : owed)} of it from credit
              </Button>
              <Outcome of={acting} />
            </ForWriters>
          )}
        </>
      ) : (
        <Text>
          {invoice.state === 'written off'
            ? `${say(owed)} was given up. What comes in for it after all is recovered.`
            : 'Nothing of it is open.'}
        </Text>
      )}
      <Documents invoice={invoice} />
    </>
  );
}
