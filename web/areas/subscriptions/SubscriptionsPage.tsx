import { Box, Button, Link as TextLink, Text } from '@chakra-ui/react';
import { Link, useNavigate } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDayMonthYear } from '../../../core/words/date.ts';
import type { SubscriptionRow } from '../../../server/subscriptions/messages.ts';
import { SUBSCRIPTION_STATES } from '../../../server/subscriptions/states.ts';
import { PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { ListPage } from '../../parts/ListPage.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { ThreadLine } from '../../parts/ThreadLine.tsx';
import { threadWindow } from '../../parts/threadWindow.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';

/** All subscriptions with their threads under one another, nine months of them. */
export function SubscriptionsPage() {
  const { businessDate } = useFrame();
  const navigate = useNavigate();
  const { from, to } = threadWindow(businessDate);
  return (
    <PageAndMargin
      title="Subscriptions"
      action={
        <ForWriters>
          <Button asChild size="sm" colorPalette="kelp">
            <Link to="/enrol">Enrol a customer</Link>
          </Button>
        </ForWriters>
      }
    >
      <ListPage<SubscriptionRow>
        path="/api/subscriptions"
        label="subscriptions"
        states={SUBSCRIPTION_STATES}
        chosen={null}
        onChoose={(row) => void navigate(`/subscriptions/${row.id}`)}
        empty={
          <Text>
            There is no subscription yet.{' '}
            <TextLink asChild color="kelp.fg">
              <Link to="/enrol">Enrol the first customer</Link>
            </TextLink>
          </Text>
        }
        columns={[
          {
            heading: 'Customer',
            sort: 'customer',
            width: '17%',
            cell: (row) => (
              <TextLink asChild>
                <Link to={`/subscriptions/${row.id}`}>{row.customer}</Link>
              </TextLink>
            ),
          },
          { heading: 'Plan', sort: 'plan', width: '12%', cell: (row) => row.plan },
          { heading: 'State', sort: 'state', width: '10%', cell: (row) => <StateMark state={row.state} /> },
          {
            heading: 'Thread',
            cell: (row) => (
              <Box py="1" px="2">
                <ThreadLine
                  thread={row.thread}
                  from={from}
                  to={to}
                  today={businessDate}
                  label={`Thread of ${row.customer}`}
                />
              </Box>
            ),
          },
          {
            heading: 'Next',
            sort: 'next',
            width: '11%',
            cell: (row) => (row.nextOn ? sayDayMonthYear(row.nextOn) : ''),
          },
          {
            heading: 'Amount',
            width: '10%',
            right: true,
            cell: (row) => (row.nextAmount ? sayAmount(BigInt(row.nextAmount), row.currency) : ''),
          },
        ]}
      />
    </PageAndMargin>
  );
}
