import { Box, Button, Flex, Link as TextLink, Text } from '@chakra-ui/react';
import { useEffect, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { toDay } from '../../../core/dates/day.ts';
import { DAYS_AHEAD } from '../../../core/forecast/daysAhead.ts';
import { sayAmount } from '../../../core/words/amount.ts';
import { sayDate } from '../../../core/words/date.ts';
import type { Page } from '../../../server/http/list.ts';
import type {
  SuspensionEffect,
  SuspensionView,
  WaitingRow,
} from '../../../server/recovery/suspensionMessages.ts';
import type { CustomerView } from '../../../server/customers/messages.ts';
import { post, Problem } from '../../api/client.ts';
import { useAnswer } from '../../api/hooks.ts';
import { useAct } from '../../api/useAct.ts';
import { ForWriters } from '../../frame/ForWriters.tsx';
import { MarginHeading, PageAndMargin } from '../../frame/PageAndMargin.tsx';
import { useFrame } from '../../frame/useFrame.ts';
import { DateField } from '../../parts/DateField.tsx';
import { ListPage, type Column } from '../../parts/list/ListPage.tsx';
import { Outcome } from '../../parts/Outcome.tsx';
import { sayCount } from '../../parts/sayCount.ts';
import { TextField } from '../../parts/TextField.tsx';

const KINDS = { charge: 'Charges', step: 'Steps of cases' } as const;

const COLUMNS: readonly Column<WaitingRow>[] = [
  { heading: 'Since', sort: 'on', width: '150px', cell: (row) => sayDate(row.on) },
  { heading: 'Customer', sort: 'customer', cell: (row) => row.customer },
  {
    heading: 'What waits',
    width: '260px',
    cell: (row) => (
      <TextLink asChild color="kelp.fg">
        <Link to={row.to}>
          {row.kind === 'charge' ? `${row.about} to be charged` : `Its case, ${row.about}`}
        </Link>
      </TextLink>
    ),
  },
  {
    heading: 'Amount',
    sort: 'owed',
    width: '120px',
    right: true,
    cell: (row) => sayAmount(BigInt(row.owed), row.currency),
  },
];

/** Collecting that is stopped, of everybody or of one customer: what waits meanwhile, and how it goes on. */
export function SuspensionsPage() {
  const { data: stopped } = useAnswer<SuspensionView[]>('/api/suspensions');
  const [params] = useSearchParams();
  const customerId = params.get('customer');
  const [resuming, setResuming] = useState<SuspensionView | null>(null);
  return (
    <PageAndMargin
      title="Collecting that is stopped"
      marginLabel="Stop, or go on"
      margin={
        <ForWriters>
          {resuming ? (
            <Resume key={resuming.id} of={resuming} onDone={() => setResuming(null)} />
          ) : (
            <Stop
              key={customerId}
              customerId={customerId}
              isStopped={stopped?.some((one) => one.customerId === customerId) ?? false}
            />
          )}
        </ForWriters>
      }
    >
      <Text color="muted" mb="3" maxW="720px">
        While it lasts, invoices are issued as ever, but nothing is charged by itself, no rung is climbed and
        nobody is reminded. Customers can pay by their own will.
      </Text>
      {stopped?.map((one) => (
        <Flex
          key={one.id}
          gap="4"
          py="2"
          borderTopWidth="1px"
          borderColor="lines"
          maxW="900px"
          align="center"
        >
          <Box flex="1">
            <Text>
              <b>{one.customer ?? 'Everybody'}</b>: since {sayDate(one.from)}, until {sayDate(one.until)}
            </Text>
            <Text color="muted" fontSize="13px">
              {one.why} ({one.by})
            </Text>
          </Box>
          <ForWriters>
            <Button size="xs" variant="outline" onClick={() => setResuming(one)}>
              Let it go on …
            </Button>
          </ForWriters>
        </Flex>
      ))}
      {stopped?.length === 0 && <Text>Nothing is stopped: payments are collected as they fall due.</Text>}
      <Text as="h2" fontFamily="heading" fontSize="16px" mt="6" mb="2">
        What would have happened
      </Text>
      <ListPage<WaitingRow>
        path="/api/suspensions/waiting"
        label="things that wait"
        columns={COLUMNS}
        states={[]}
        kinds={KINDS}
        anyKind="Anything"
        chosen={null}
        onChoose={() => undefined}
        empty={<Text color="muted">Nothing waits.</Text>}
      />
    </PageAndMargin>
  );
}

/** Stops it: until when and why, and what that would hold back. */
function Stop({
  customerId,
  isStopped,
}: {
  readonly customerId: string | null;
  readonly isStopped: boolean;
}) {
  const { data: customer } = useAnswer<CustomerView>(
    customerId === null ? null : `/api/customers/${customerId}`,
  );
  const { businessDate } = useFrame();
  const [until, setUntil] = useState('');
  const [why, setWhy] = useState('');
  const [effect, setEffect] = useState<{ for: string; of: SuspensionEffect } | null>(null);
  const [wrong, setWrong] = useState<Problem | null>(null);
  const acting = useAct();
  const asked = JSON.stringify({ customerId, until, why: why.trim() === '' ? 'not said yet' : why });
  useEffect(() => {
    if (until === '') return;
    let isOld = false;
    const timer = setTimeout(() => {
      post<SuspensionEffect>('/api/suspensions/effect', JSON.parse(asked) as object)
        .then((of) => !isOld && (setEffect({ for: asked, of }), setWrong(null)))
        .catch((error: unknown) => !isOld && error instanceof Problem && setWrong(error));
    }, 250);
    return () => {
      isOld = true;
      clearTimeout(timer);
    };
  }, [asked, until]);
  const shown = effect?.for === asked ? effect.of : null;
  const stop = async () => {
    const done = await acting.act(
      () => post('/api/suspensions', { customerId, until, why }),
      'It is stopped. Every screen says so.',
    );
    if (done) setUntil('');
  };
  return (
    <>
      <MarginHeading>
        {isStopped ? 'Change until when' : 'Stop collecting'} from{' '}
        {customerId === null ? 'everybody' : (customer?.name ?? '…')}
      </MarginHeading>
      <Flex direction="column" gap="3">
        <DateField
          label="Until"
          value={until}
          error={wrong?.at('/until') ?? acting.problem?.at('/until')}
          hint="On this day it goes on by itself."
          onChange={(event) => setUntil(event.target.value)}
        />
        <TextField
          label="Why"
          maxLength={500}
          value={why}
          error={acting.problem?.at('/why')}
          onChange={(event) => setWhy(event.target.value)}
        />
      </Flex>
      {shown && (
        <Text mt="3" aria-live="polite">
          Held back until then: {sayCount(shown.charges)} {shown.charges === 1 ? 'charge' : 'charges'}
          {shown.sums.length === 0
            ? ''
            : ` of ${shown.sums.map(({ currency, amount }) => sayAmount(BigInt(amount), currency)).join(', ')}`}
          , and {sayCount(shown.steps)} {shown.steps === 1 ? 'step of a case' : 'steps of cases'}.
          {toDay(until) - toDay(businessDate) > DAYS_AHEAD
            ? ` Charges are foreseen for ${DAYS_AHEAD} days; later ones come to it.`
            : ''}
        </Text>
      )}
      <Button
        mt="3"
        colorPalette="kelp"
        size="sm"
        loading={acting.busy}
        disabled={shown === null || why.trim() === ''}
        onClick={() => void stop()}
      >
        Stop collecting
      </Button>
      <Outcome of={acting} />
    </>
  );
}

/** Lets it go on: what then happens, and for each customer who waits whether they stay stopped by themselves. */
function Resume({ of, onDone }: { readonly of: SuspensionView; readonly onDone: () => void }) {
  const { businessDate } = useFrame();
  const { data } = useAnswer<Page<WaitingRow>>('/api/suspensions/waiting');
  const [keep, setKeep] = useState<Readonly<Record<string, string>>>({});
  const acting = useAct();
  const waiting = (data?.rows ?? []).filter(
    (row) => of.customerId === null || row.customerId === of.customerId,
  );
  const people = [...new Map(waiting.map((row) => [row.customerId, row])).values()];
  const go = async () => {
    const kept = Object.entries(keep).map(([customerId, until]) => ({ customerId, until }));
    if (await acting.act(() => post(`/api/suspensions/${of.id}/resume`, { keep: kept }))) onDone();
  };
  const goingOn = waiting.filter((row) => !(row.customerId in keep));
  return (
    <>
      <MarginHeading>Collecting from {of.customer ?? 'everybody'} goes on</MarginHeading>
      <Text>
        When {sayDate(businessDate)} is turned, {sayCount(goingOn.length)} of {sayCount(data?.total ?? 0)}{' '}
        that wait {goingOn.length === 1 ? 'is' : 'are'} done. Cases go on where they stood: days that they
        waited are not counted.
      </Text>
      {of.customerId === null && people.length > 0 && (
        <Box mt="3" role="group" aria-label="Who stays stopped">
          <Text fontWeight="500">Who is to wait longer</Text>
          {data && data.total > data.rows.length && (
            <Text color="muted" fontSize="13px">
              Of the first {sayCount(data.rows.length)} that wait. Others can be stopped on their own page
              before.
            </Text>
          )}
          {people.map(({ customerId, customer }) => (
            <Box key={customerId} py="1" borderTopWidth="1px" borderColor="lines">
              <label>
                <input
                  type="checkbox"
                  checked={customerId in keep}
                  onChange={(event) =>
                    setKeep((now) => {
                      const { [customerId]: _, ...others } = now;
                      return event.target.checked ? { ...others, [customerId]: of.until } : others;
                    })
                  }
                />{' '}
                {customer}
              </label>
              {keep[customerId] !== undefined && (
                <DateField
                  label={`${customer}, until`}
                  value={keep[customerId] ?? ''}
                  error={acting.problem?.at(`/keep/${Object.keys(keep).indexOf(customerId)}/until`)}
                  onChange={(event) => setKeep((now) => ({ ...now, [customerId]: event.target.value }))}
                />
              )}
            </Box>
          ))}
        </Box>
      )}
      <Flex gap="2" mt="3">
        <Button size="sm" colorPalette="kelp" loading={acting.busy} onClick={() => void go()}>
          Let it go on
        </Button>
        <Button size="sm" variant="outline" onClick={onDone}>
          Leave it
        </Button>
      </Flex>
      <Outcome of={acting} />
    </>
  );
}
