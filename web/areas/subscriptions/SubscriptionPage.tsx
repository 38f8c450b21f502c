import { Box, Button, Flex, Heading, Link as TextLink, Text } from '@chakra-ui/react';
import { lazy, Suspense, useState } from 'react';
import { Link, useParams } from 'react-router';
import { formatDay, toDay } from '../../../core/dates/day.ts';
import { sayDate, sayDayMonthYear } from '../../../core/words/date.ts';
import type { SubscriptionView } from '../../../server/subscriptions/messages.ts';
import { post } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { PageLoading } from '../../frame/PageLoading.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { Charges } from '../../parts/Charges.tsx';
import { sayWithExpiry } from '../../parts/sayWithExpiry.ts';
import { StateMark } from '../../parts/StateMark.tsx';
import { ThreadLegend } from '../../parts/ThreadLegend.tsx';
import { ThreadLine } from '../../parts/ThreadLine.tsx';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { Invoices } from './SubscriptionInvoices.tsx';
import { IssueDays } from './IssueDays.tsx';
import { NextInvoice } from './NextInvoice.tsx';
import { Planned } from './Planned.tsx';
import { Messages } from '../customers/Messages.tsx';
import { Agreement } from './Agreement.tsx';
import { AlterPanel } from './AlterPanel.tsx';
import { OwnMethod } from './OwnMethod.tsx';
import { AskForCard } from './AskForCard.tsx';

/** One subscription: its thread, its invoices with every attempt, and what is to come. */
export function SubscriptionPage() {
  const { id = '' } = useParams();
  const { businessDate } = useFrame();
  const { data: one, error } = useAnswer<SubscriptionView>(`/api/subscriptions/${id}`);
  const [changing, setChanging] = useState(false);
  const [zoom, setZoom] = useState(0);
  if (error) return <PageAndMargin title="There is no such subscription">{error.message}</PageAndMargin>;
  if (!one) return <PageLoading title="Subscription" />;
  const isOver = one.state === 'ended' || one.state === 'lapsed';
  const needsCard = one.card === null || one.card.state !== 'usable';
  const { from, to } = zoomed(windowOf(one, businessDate), businessDate, zoom);
  return (
    <PageAndMargin
      title={one.customer}
      action={<AsTheCustomerSees id={id} />}
      marginLabel="What is to come"
      margin={
        <>
          {(changing || (one.openCase !== null && needsCard)) && (
            <Box mb="6">
              <Suspense>
                <TakeCard customerId={one.customerId} />
              </Suspense>
            </Box>
          )}
          {changing && !isOver && (
            <ForWriters>
              <OwnMethod one={one} />
            </ForWriters>
          )}
          {one.card === null && one.collects === 'automatic' && !isOver && (
            <ForWriters>
              <AskForCard one={one} />
            </ForWriters>
          )}
          {!isOver && (
            <ForWriters>
              <AlterPanel one={one} />
            </ForWriters>
          )}
          {!isOver && <Planned id={one.id} />}
          <MarginHeading>To come</MarginHeading>
          {one.coming.length === 0 ? (
            <Text>Nothing more will be charged.</Text>
          ) : (
            <>
              <Charges
                currency={one.currency}
                charges={one.coming.map(({ dueOn, kind, due, tax }) => ({
                  date: dueOn,
                  kind,
                  due: BigInt(due),
                  ...(tax === undefined ? {} : { tax: BigInt(tax) }),
                }))}
              />
              <NextInvoice subscriptionId={one.id} />
              {!isOver && one.invoicing === 'each' && <IssueDays one={one} />}
            </>
          )}
        </>
      }
    >
      <Text mb="1">
        <Box as="span" fontFamily="heading" fontSize="16px">
          {one.plan}
        </Box>
        : {one.says}
      </Text>
      <Flex gap="5" mb="4" wrap="wrap">
        <StateMark state={one.state} />
        <Text>since {sayDate(one.startsOn)}</Text>
        {one.serviceStoppedOn !== null && (
          <Text color="paused">service stopped since {sayDate(one.serviceStoppedOn)}, until it is paid</Text>
        )}
        {one.cancelledBy !== null && one.closedOn === null && one.endsOn !== null && (
          <Text color="declined">
            cancelled by the {one.cancelledBy}: ends {sayDate(one.endsOn)}
          </Text>
        )}
        {one.variant && <Text>{one.variant.name}</Text>}
        {one.rateCard && <Text>rate card {one.rateCard.name}</Text>}
        {one.collects === 'by hand' && <Text>paid by hand</Text>}
        {one.withoutMethod !== null && one.card === null && (
          <Text color="trial">{WITHOUT[one.withoutMethod]}</Text>
        )}
        {one.closedOn && (
          <Text>
            until {sayDate(one.closedOn)}
            {one.endedWhy ? `, ${one.endedWhy}` : ''}
          </Text>
        )}
        <Text>
          {one.card ? sayWithExpiry(one.card) : 'No card'}
          {one.card && one.card.state !== 'usable' && (
            <Box as="span" color="declined">
              {' '}
              {one.card.state === 'barred' ? 'must not be charged again' : 'only its holder can mend it'}
            </Box>
          )}
          {one.then.length > 0 && `, then ${one.then.join(', ')}`}{' '}
          <ForWriters>
            <Button size="2xs" variant="outline" onClick={() => setChanging(!changing)}>
              {one.card?.expires === null
                ? 'Another way to pay'
                : one.card
                  ? 'Take another card'
                  : 'Take a card'}
            </Button>
          </ForWriters>
        </Text>
        <PlaceOfIt one={one} />
        <TextLink asChild color="kelp.fg">
          <Link to={`/customers/${one.customerId}`}>Customer and letters</Link>
        </TextLink>
        {one.openCase && (
          <TextLink asChild color="declined" fontWeight="600">
            <Link to={`/cases?case=${one.openCase.id}`}>Recovery case</Link>
          </TextLink>
        )}
      </Flex>
      <Box bg="page" borderWidth="1px" borderColor="lines" borderRadius="md" px="5" pt="3" pb="2" mb="6">
        <ThreadLine
          thread={one.thread}
          from={from}
          to={to}
          today={businessDate}
          label={`Thread of ${one.plan}`}
          tall
        />
        <Flex justify="space-between" align="center" color="muted" fontSize="12px">
          <span>{sayDayMonthYear(from)}</span>
          <Flex gap="1" role="group" aria-label="How much time is shown">
            <Button size="2xs" variant="ghost" disabled={zoom >= CLOSEST} onClick={() => setZoom(zoom + 1)}>
              Closer
            </Button>
            <Button size="2xs" variant="ghost" disabled={zoom <= WIDEST} onClick={() => setZoom(zoom - 1)}>
              Wider
            </Button>
          </Flex>
          <span>{sayDayMonthYear(to)}</span>
        </Flex>
        <ThreadLegend />
      </Box>
      {(one.extras.length > 0 || one.answers.length > 0) && (
        <Flex gap="6" mb="5" wrap="wrap">
          {one.extras.map(({ extra, quantity }) => (
            <Text key={extra.key}>
              {quantity > 1 ? `${quantity} × ` : ''}
              {extra.name}
              {extra.when === 'once' ? ', once' : ''}
            </Text>
          ))}
          {one.answers.map(({ label, value }) => (
            <Text key={label}>
              <Box as="span" color="muted">
                {label}:
              </Box>{' '}
              {value}
            </Text>
          ))}
        </Flex>
      )}
      {one.agreement && <Agreement of={one.agreement} currency={one.currency} />}
      <Heading as="h2" size="md" fontWeight="500" mb="2">
        Invoices and attempts
      </Heading>
      {one.invoices.length === 0 && (
        <Text color="muted">
          None has been issued yet; the first is at the head of the list at the right.
        </Text>
      )}
      {one.invoices.length > 0 && (
        <Invoices of={one} invoices={one.invoices} currency={one.currency} splits={one.state !== 'lapsed'} />
      )}
      <Documents one={one} />
      <Box mt="6">
        <Messages customerId={one.customerId} customer={one.customer} />
      </Box>
    </PageAndMargin>
  );
}

const WITHOUT = {
  end: 'no card: it ends with the trial',
  pause: 'no card: it rests after the trial',
  invoice: 'no card: it is paid by invoice after the trial',
  wait: 'no card yet: its payments wait for one',
} as const;

/** Steps of the zoom: each shows half or double the time. */
const CLOSEST = 4;
const WIDEST = -2;

/** A window drawn closer around the business day, or wider. */
function zoomed({ from, to }: { from: string; to: string }, today: string, zoom: number) {
  const day = toDay(today);
  const scaled = (end: string) => formatDay(day + Math.round((toDay(end) - day) / 2 ** zoom));
  return zoom === 0 ? { from, to } : { from: scaled(from), to: scaled(to) };
}

function windowOf(one: SubscriptionView, today: string): { from: string; to: string } {
  const first = Math.max(toDay(one.startsOn), toDay(today) - 400);
  return { from: formatDay(first - 5), to: formatDay(Math.max(toDay(today), toDay(one.startsOn)) + 120) };
}

// Seldom wanted.
const ChangePlace = lazy(() => import('./ChangePlace.tsx'));
const Files = lazy(() => import('../customers/CustomerPage.tsx').then((part) => ({ default: part.Files })));
const TakeCard = lazy(() => import('../../parts/TakeCard.tsx').then((part) => ({ default: part.TakeCard })));

/** Where it is served or shipped to, where that is not where its customer is billed. */
function PlaceOfIt({ one: { id, place } }: { readonly one: SubscriptionView }) {
  const [changing, setChanging] = useState(false);
  if (changing)
    return (
      <Box w="full">
        <Suspense>
          <ChangePlace id={id} place={place} onClose={() => setChanging(false)} />
        </Suspense>
      </Box>
    );
  return (
    <Text>
      {place ? `For ${place.says} ` : ''}
      <ForWriters>
        <Button size="2xs" variant="outline" onClick={() => setChanging(true)}>
          {place ? 'Another address' : 'Served elsewhere …'}
        </Button>
      </ForWriters>
    </Text>
  );
}

/** The documents that are kept with it, once they are asked for. */
function Documents({ one: { id, customerId } }: { readonly one: SubscriptionView }) {
  const [isOpen, setOpen] = useState(false);
  if (!isOpen)
    return (
      <Box mt="6">
        <Button size="sm" variant="outline" onClick={() => setOpen(true)}>
          Documents …
        </Button>
      </Box>
    );
  return (
    <Suspense fallback={<Text color="muted">Loading …</Text>}>
      <Files customerId={customerId} subscriptionId={id} />
    </Suspense>
  );
}

function AsTheCustomerSees({ id }: { readonly id: string }) {
  const open = async () => {
    const { path } = await post<{ path: string }>(`/api/subscriptions/${id}/own-page`);
    window.open(path, '_blank', 'noopener');
  };
  return (
    <Button size="sm" variant="outline" onClick={open}>
      As the customer sees it
    </Button>
  );
}
