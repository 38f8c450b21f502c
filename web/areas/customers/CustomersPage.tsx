import { Box, Button, Link as TextLink, Text } from '@chakra-ui/react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { sayDate, sayDayMonthYear } from '../../../core/words/date.ts';
import { sayAmount } from '../../../core/words/amount.ts';
import type { CustomerRow } from '../../../server/customers/messages.ts';
import type { Page } from '../../../server/http/list.ts';
import type { SubscriptionRow } from '../../../server/subscriptions/messages.ts';
import { SUBSCRIPTION_STATES } from '../../../server/subscriptions/states.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { ListPage } from '../../parts/list/ListPage.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { ThreadLine } from '../../parts/ThreadLine.tsx';
import { threadWindow } from '../../parts/threadWindow.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';

const SEVERAL = {
  nameOf: ({ name }: CustomerRow) => name,
  act: (rows: readonly CustomerRow[]) => (
    <ForWriters>
      <Button asChild size="xs" colorPalette="kelp">
        <Link to="/enrol/several" state={{ customers: rows.map(({ id, name }) => ({ id, name })) }}>
          Enrol them in a plan …
        </Link>
      </Button>
    </ForWriters>
  ),
};

/** All customers; the margin shows the chosen one, so that one rarely leaves the list. */
export function CustomersPage() {
  const [params, setParams] = useSearchParams();
  const chosen = params.get('customer');
  const navigate = useNavigate();
  const choose = (row: CustomerRow) => {
    if (row.id === chosen) return void navigate(`/customers/${row.id}`);
    setParams(
      (now) => {
        const next = new URLSearchParams(now);
        next.set('customer', row.id);
        return next;
      },
      { replace: true },
    );
  };
  return (
    <PageAndMargin
      title="Customers"
      action={
        <ForWriters>
          <Button asChild size="sm" colorPalette="kelp">
            <Link to="/enrol">Enrol a customer</Link>
          </Button>
          <Button asChild size="sm" variant="outline">
            <Link to="/import">Bring in from a file</Link>
          </Button>
        </ForWriters>
      }
      margin={chosen !== null && <Chosen id={chosen} />}
      marginLabel="The chosen customer"
    >
      <ListPage<CustomerRow>
        path="/api/customers"
        label="customers"
        states={[...SUBSCRIPTION_STATES, 'none']}
        views="customers"
        several={SEVERAL}
        chosen={chosen}
        onChoose={choose}
        empty={
          <Text>
            There is no customer yet.{' '}
            <TextLink asChild color="kelp.fg">
              <Link to="/enrol">Enrol the first one</Link>
            </TextLink>
            , or{' '}
            <TextLink asChild color="kelp.fg">
              <Link to="/import">bring in those you have</Link>
            </TextLink>
            .
          </Text>
        }
        columns={[
          { heading: 'Name', sort: 'name', cell: (row) => row.name, under: (row) => row.email },
          {
            heading: 'Plan',
            width: '22%',
            cell: (row) =>
              row.plans ?? (
                <Box as="span" color="muted">
                  none
                </Box>
              ),
          },
          {
            heading: 'State',
            width: '116px',
            cell: (row) =>
              row.states.length === 0
                ? ''
                : row.states.map((state) => (
                    <Box key={state}>
                      <StateMark state={state} />
                    </Box>
                  )),
          },
          {
            heading: 'Number',
            wished: true,
            width: '110px',
            cell: (row) => (row.reference.startsWith('new-') ? '' : row.reference),
          },
          { heading: 'Group', wished: true, width: '120px', cell: (row) => row.group ?? '' },
          { heading: 'Country', wished: true, width: '80px', cell: (row) => row.country ?? '' },
          { heading: 'Card', wished: true, width: '170px', cell: (row) => row.card ?? 'no card' },
          { heading: 'Since', sort: 'since', width: '118px', cell: (row) => sayDayMonthYear(row.createdOn) },
          {
            heading: 'Owes',
            width: '110px',
            right: true,
            cell: (row) =>
              (row.owed ?? []).map(({ currency, amount }) => sayAmount(BigInt(amount), currency)).join(', '),
          },
        ]}
      />
    </PageAndMargin>
  );
}

function Chosen({ id }: { readonly id: string }) {
  const { businessDate } = useFrame();
  const { data: customer } = useAnswer<{ id: string; name: string; email: string }>(`/api/customers/${id}`);
  const { data } = useAnswer<Page<SubscriptionRow>>(`/api/subscriptions?customerId=${id}`);
  const { from, to } = threadWindow(businessDate);
  if (!customer) return null;
  return (
    <>
      <MarginHeading>{customer.name}</MarginHeading>
      <Text color="muted" wordBreak="break-word">
        {customer.email}
      </Text>
      <TextLink asChild color="kelp.fg" fontWeight="600">
        <Link to={`/customers/${id}`}>Open</Link>
      </TextLink>
      {data?.rows.map((subscription) => (
        <Box key={subscription.id} mt="4" pt="3" borderTopWidth="1px" borderColor="lines">
          <TextLink asChild fontWeight="600">
            <Link to={`/subscriptions/${subscription.id}`}>{subscription.plan}</Link>
          </TextLink>
          <Text>{subscription.says}</Text>
          <StateMark state={subscription.state} />
          <ThreadLine
            thread={subscription.thread}
            from={from}
            to={to}
            today={businessDate}
            label={`Thread of ${subscription.plan}`}
            tall
          />
          {subscription.nextOn && <Text>Next: {sayDate(subscription.nextOn)}</Text>}
        </Box>
      ))}
    </>
  );
}
