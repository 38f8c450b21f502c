import { Box, Button, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import { lazy, Suspense } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate, sayDayMonthYear } from '../../../core/words/date.ts';
import type { SubscriptionRow, SubscriptionView } from '../../../server/subscriptions/messages.ts';
import { CANNOT_BE_CHARGED, NOT_ENDED, SUBSCRIPTION_STATES } from '../../../server/subscriptions/states.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { Loading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Charges } from '../../parts/Charges.tsx';
import { ListPage } from '../../parts/list/ListPage.tsx';
import { StateMark } from '../../parts/StateMark.tsx';
import { Hindered } from '../../parts/Hindered.tsx';
import { ThreadLine } from '../../parts/ThreadLine.tsx';
import { threadWindow } from '../../parts/threadWindow.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';

const DATES = {
  trial: 'trial ends',
  ends: 'ends',
  overdue: 'overdue since',
  starts: 'starts',
} as const;

/** What is agreed as it is paid, without how its tax comes to be: '£22.80 every month'. */
const briefly = (says: string) => says.replace(/^[^=]* = /, '').replace(' (no tax)', '');

const USUAL = { state: NOT_ENDED, says: 'Not ended' };

// Seldom wanted, and it brings the parts of forms along.
const AskMany = lazy(() => import('./AskMany.tsx').then((part) => ({ default: part.AskMany })));

const SEVERAL = {
  nameOf: ({ customer, plan }: SubscriptionRow) => `${customer}, ${plan}`,
  act: (rows: readonly SubscriptionRow[]) => (
    <Suspense>
      <AskMany customerIds={rows.map(({ customerId }) => customerId)} />
    </Suspense>
  ),
};

/** All subscriptions with their threads under one another, nine months of them; the margin shows the chosen one. */
export function SubscriptionsPage() {
  const { businessDate, role } = useFrame();
  const navigate = useNavigate();
  const [params, setParams] = useSearchParams();
  const chosen = params.get('subscription');
  const { from, to } = threadWindow(businessDate);
  const choose = (row: SubscriptionRow) => {
    if (row.id === chosen) return void navigate(`/subscriptions/${row.id}`);
    setParams(
      (now) => {
        const next = new URLSearchParams(now);
        next.set('subscription', row.id);
        return next;
      },
      { replace: true },
    );
  };
  return (
    <PageAndMargin
      title="Subscriptions"
      marginLabel="The chosen subscription"
      margin={chosen !== null && <Chosen id={chosen} />}
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
        usual={USUAL}
        views="subscriptions"
        kinds={{ [CANNOT_BE_CHARGED]: 'cannot charge' }}
        anyKind="Any method"
        dates={DATES}
        chosen={chosen}
        onChoose={choose}
        {...(role !== 'reader' ? { several: SEVERAL } : {})}
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
            width: chosen === null ? '15%' : '22%',
            cell: (row) => (
              <TextLink asChild>
                <Link to={`/subscriptions/${row.id}`}>{row.customer}</Link>
              </TextLink>
            ),
          },
          {
            heading: 'Plan',
            sort: 'plan',
            width: chosen === null ? '21%' : '30%',
            cell: (row) => row.plan,
            under: ({ says }) => <span title={says}>{briefly(says)}</span>,
          },
          { heading: 'Rate', wished: true, width: '12%', cell: (row) => row.rate },
          {
            heading: 'Starts',
            wished: true,
            sort: 'starts',
            width: '104px',
            cell: (row) => sayDayMonthYear(row.startsOn),
          },
          {
            heading: 'Ends',
            wished: true,
            width: '104px',
            cell: (row) => (row.endsOn ? sayDayMonthYear(row.endsOn) : ''),
          },
          { heading: 'State', sort: 'state', width: '104px', cell: (row) => <StateMark state={row.state} /> },
          {
            heading: 'Method',
            width: chosen === null ? '178px' : '150px',
            cell: (row) => (row.state === 'ended' || row.state === 'lapsed' ? '' : row.method),
            under: (row) => <Hindered says={row.cannotCharge} />,
          },
          {
            heading: 'Thread',
            roomy: true,
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
            width: '112px',
            right: true,
            cell: (row) => (row.nextAmount ? sayAmount(BigInt(row.nextAmount), row.currency) : ''),
            under: (row) => (row.nextOn ? sayDayMonthYear(row.nextOn) : ''),
          },
        ]}
      />
    </PageAndMargin>
  );
}

/** What the chosen subscription is, and what comes next of it. */
function Chosen({ id }: { readonly id: string }) {
  const { data: one, error } = useAnswer<SubscriptionView>(`/api/subscriptions/${id}`);
  if (error) return <Text color="declined">{error.message}</Text>;
  if (!one || one.id !== id) return <Loading shape="margin" />;
  return (
    <>
      <MarginHeading>{one.customer}</MarginHeading>
      <Text>
        {one.plan}: {one.says}
      </Text>
      <Flex gap="4" mt="1" mb="3" wrap="wrap">
        <StateMark state={one.state} />
        <Text color="muted">since {sayDate(one.startsOn)}</Text>
        {one.trialEndsOn !== null && one.state === 'trial' && (
          <Text>trial ends {sayDate(one.trialEndsOn)}</Text>
        )}
        {one.endsOn !== null && one.closedOn === null && <Text>ends {sayDate(one.endsOn)}</Text>}
      </Flex>
      <Button asChild size="xs" variant="outline" mb="4">
        <Link to={`/subscriptions/${id}`}>Open it</Link>
      </Button>
      {one.coming.length > 0 && (
        <Charges
          currency={one.currency}
          charges={one.coming
            .slice(0, 6)
            .map(({ dueOn, kind, due }) => ({ date: dueOn, kind, due: BigInt(due) }))}
        />
      )}
    </>
  );
}
