import { Button, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import { useState } from 'react';
import { Link } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate, sayDayMonthYear } from '../../../core/words/date.ts';
import { CREDIT_NOTE_FILTERS, type CreditNoteRow } from '../../../server/creditNotes/messages.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { Facts } from '../../parts/Facts.tsx';
import { ListPage } from '../../parts/list/ListPage.tsx';

const KINDS: Readonly<Record<CreditNoteRow['kind'], string>> = {
  correction: 'Corrects an invoice',
  withdrawal: 'Withdraws an invoice',
  settlement: 'Settles a change',
};

/** All credit notes, the latest first: what was taken back of invoices, and what changes gave back. */
export function CreditNotesPage() {
  const [chosen, setChosen] = useState<CreditNoteRow | null>(null);
  return (
    <PageAndMargin
      title="Credit notes"
      action={
        <Button asChild size="sm" variant="outline">
          <Link to="/invoices">Invoices</Link>
        </Button>
      }
      margin={chosen && <Chosen note={chosen} />}
      marginLabel="The chosen credit note"
    >
      <ListPage<CreditNoteRow>
        path="/api/credit-notes"
        label="credit notes"
        states={CREDIT_NOTE_FILTERS}
        dates={{ issued: 'Issued' }}
        views="credit notes"
        chosen={chosen?.id ?? null}
        onChoose={setChosen}
        empty={
          <Text>
            No credit note was issued yet. One is made where an invoice is corrected, and where a change gives
            back more than it charges.
          </Text>
        }
        columns={[
          { heading: 'Number', sort: 'number', width: '92px', cell: ({ number }) => number },
          {
            heading: 'Customer',
            sort: 'customer',
            cell: ({ customer }) => customer,
            under: ({ plan }) => plan,
          },
          {
            heading: 'For',
            width: '32%',
            cell: ({ kind, invoice }) => (invoice === null ? KINDS[kind] : `${KINDS[kind]}: ${invoice}`),
            under: ({ reason }) => reason,
          },
          {
            heading: 'Issued',
            sort: 'issued',
            width: '120px',
            roomy: true,
            cell: ({ issuedOn }) => sayDayMonthYear(issuedOn),
          },
          {
            heading: 'Total',
            sort: 'amount',
            width: '148px',
            right: true,
            cell: ({ total, currency }) => sayAmount(BigInt(total), currency),
            under: ({ toCredit, currency }) =>
              toCredit === '0' ? '' : `${sayAmount(BigInt(toCredit), currency)} to credit`,
          },
        ]}
      />
    </PageAndMargin>
  );
}

function Chosen({ note }: { readonly note: CreditNoteRow }) {
  const say = (amount: string) => (amount === '0' ? '' : sayAmount(BigInt(amount), note.currency));
  return (
    <>
      <MarginHeading>{note.number}</MarginHeading>
      <Facts
        of={[
          [
            'Customer',
            <TextLink asChild color="kelp.fg" key="customer">
              <Link to={`/customers/${note.customerId}`}>{note.customer}</Link>
            </TextLink>,
          ],
          ['Plan', note.plan],
          ['Issued', sayDate(note.issuedOn)],
          ['For', KINDS[note.kind]],
          ['Reason', note.reason],
          ['Total', say(note.total)],
          ['Off the invoice', say(note.setOff)],
          ['To their credit', say(note.toCredit)],
        ]}
      />
      <Flex gap="2" mt="5" wrap="wrap">
        <Button asChild size="sm" colorPalette="kelp">
          <a href={`/api/credit-notes/${note.id}/document.pdf`} download>
            PDF
          </a>
        </Button>
        <Button asChild size="sm" variant="outline">
          {note.invoiceId === null ? (
            <Link to={`/subscriptions/${note.subscriptionId}`}>The subscription</Link>
          ) : (
            <Link to={`/invoices/${note.invoiceId}`}>Invoice {note.invoice}</Link>
          )}
        </Button>
      </Flex>
    </>
  );
}
