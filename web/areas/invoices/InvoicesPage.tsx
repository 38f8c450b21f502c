import { Button, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import { lazy, useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate, sayDayMonthYear } from '../../../core/words/date.ts';
import { INVOICE_FILTERS, type InvoicePage, type InvoiceRow } from '../../../server/invoices/messages.ts';
import { useAnswer } from '../../api/hooks.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { Loading } from '../../frame/PageLoading.tsx';
import { Facts } from '../../parts/Facts.tsx';
import { ListPage } from '../../parts/list/ListPage.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { OF_ITS_OWN } from '../subscriptions/enrol/ofItsOwn.ts';

// Seldom wanted.
const ZipFile = lazy(() => import('./ZipFile.tsx').then((part) => ({ default: part.ZipFile })));

/** All invoices, the latest first; the margin shows the chosen one. */
export function InvoicesPage() {
  const [params, setParams] = useSearchParams();
  const chosen = params.get('invoice');
  const navigate = useNavigate();
  const [packing, setPacking] = useState(false);
  const choose = (row: InvoiceRow) => {
    setPacking(false);
    if (row.id === chosen) return void navigate(`/invoices/${row.id}`);
    setParams(
      (now) => {
        const next = new URLSearchParams(now);
        next.set('invoice', row.id);
        return next;
      },
      { replace: true },
    );
  };
  return (
    <PageAndMargin
      title="Invoices"
      action={
        <Flex gap="2">
          <ForWriters>
            <Button asChild size="sm" variant="outline">
              <Link to="/enrol" state={{ recurring: OF_ITS_OWN }}>
                Invoice something
              </Link>
            </Button>
            <Button asChild size="sm" variant="outline">
              <Link to="/drafts">Drafts</Link>
            </Button>
          </ForWriters>
          <Button asChild size="sm" variant="outline">
            <Link to="/credit-notes">Credit notes</Link>
          </Button>
          <Button size="sm" variant="outline" aria-expanded={packing} onClick={() => setPacking(!packing)}>
            Many as one file …
          </Button>
        </Flex>
      }
      margin={packing ? <ZipFile /> : chosen !== null && <Chosen id={chosen} />}
      marginLabel={packing ? 'Documents as one file' : 'The chosen invoice'}
    >
      <ListPage<InvoiceRow>
        path="/api/invoices"
        label="invoices"
        states={INVOICE_FILTERS}
        dates={{ due: 'Due', issued: 'Issued' }}
        views="invoices"
        chosen={chosen}
        onChoose={choose}
        empty={
          <Text>
            Nothing was invoiced yet. Invoices are issued by themselves when their time comes:{' '}
            <TextLink asChild color="kelp.fg">
              <Link to="/enrol">enrol the first customer</Link>
            </TextLink>
            .
          </Text>
        }
        columns={[
          { heading: 'Number', sort: 'number', width: '104px', cell: ({ number }) => number },
          {
            heading: 'Customer',
            sort: 'customer',
            cell: ({ customer }) => customer,
            under: ({ plan }) => plan,
          },
          {
            heading: 'State',
            width: '118px',
            cell: ({ state }) => <StateMark state={state} />,
            under: ({ underWay }) => (underWay ? 'being charged' : ''),
          },
          {
            heading: 'Due',
            sort: 'due',
            width: '128px',
            cell: ({ dueOn }) => sayDayMonthYear(dueOn),
            under: ({ issuedOn, dueOn }) => (issuedOn === dueOn ? '' : `issued ${sayDayMonthYear(issuedOn)}`),
          },
          {
            heading: 'Paid by',
            width: '212px',
            roomy: true,
            cell: ({ method }) => method,
            under: ({ hindered }) => hindered ?? '',
          },
          {
            heading: 'Total',
            sort: 'amount',
            width: '112px',
            right: true,
            cell: ({ total, currency }) => sayAmount(BigInt(total), currency),
          },
          {
            heading: 'Open',
            sort: 'owed',
            width: '112px',
            right: true,
            cell: ({ owed, state, currency }) =>
              owed === '0' || state === 'written off' ? '' : sayAmount(BigInt(owed), currency),
          },
        ]}
      />
    </PageAndMargin>
  );
}

/** The chosen invoice, and the ways on from there. */
function Chosen({ id }: { readonly id: string }) {
  const { data: invoice } = useAnswer<InvoicePage>(`/api/invoices/${id}`);
  if (invoice?.id !== id) return <Loading shape="margin" />;
  const say = (amount: string) => sayAmount(BigInt(amount), invoice.currency);
  const open = invoice.owed !== '0' && invoice.state !== 'written off';
  return (
    <>
      <MarginHeading>{invoice.number}</MarginHeading>
      <Text mb="3">
        <StateMark state={invoice.state} />
      </Text>
      {invoice.hindered !== null && (
        <Text color="declined" mb="3">
          It cannot be paid as things stand: {invoice.hindered}.
        </Text>
      )}
      <Facts
        of={[
          [
            'Customer',
            <TextLink asChild key="customer">
              <Link to={`/customers/${invoice.customerId}`}>{invoice.customer}</Link>
            </TextLink>,
          ],
          ['For', invoice.plan],
          ['Due', sayDate(invoice.dueOn)],
          ['Total', say(invoice.total)],
          ['Collected', invoice.collected === '0' ? '' : say(invoice.collected)],
          ['From credit', invoice.creditUsed === '0' ? '' : say(invoice.creditUsed)],
          ['Credited', invoice.credited === '0' ? '' : say(invoice.credited)],
          ['Open', open ? say(invoice.owed) : ''],
          ['Paid by', invoice.method],
        ]}
      />
      <MarginHeading>Lines</MarginHeading>
      {invoice.lines.map(({ name, quantity, amount, settles }, i) => (
        <Flex key={i} justify="space-between" gap="3">
          <Text>{settles ?? (quantity === 1 ? name : `${quantity} × ${name}`)}</Text>
          <Text>{say(amount)}</Text>
        </Flex>
      ))}
      <Flex gap="2" mt="5" wrap="wrap">
        <Button asChild size="sm" colorPalette="kelp">
          <Link to={`/invoices/${id}`}>Open it</Link>
        </Button>
        {open && (
          <ForWriters>
            <Button asChild size="sm" variant="outline">
              <Link to={`/customers/${invoice.customerId}/take?invoice=${id}`}>Take a payment</Link>
            </Button>
          </ForWriters>
        )}
      </Flex>
    </>
  );
}
